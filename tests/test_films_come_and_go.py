"""Films come and go: what cannot be opened closes nothing, and nothing is lost with a window."""

import os
import signal
import subprocess
import threading
import time
from contextlib import suppress

import msgspec
import pytest
from PySide6.QtCore import Qt
from shiboken6 import isValid

from caracal.core.base.time import FrameRange
from caracal.core.batch.job import State
from caracal.core.project.edits import with_version, without_version
from caracal.core.project.storage import document, write_document
from conftest import children_of, settled, write_film
from test_project_window import _dropped

pytestmark = pytest.mark.usefixtures("small_sheets")

LEFT, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier


@pytest.mark.parametrize("kind", ["text", "sheet", "captions", "folder", "no film", "picture"])
def test_a_drop_that_cannot_be_opened_closes_nothing(window, qtbot, tmp_path, kind):
    path = {"text": tmp_path / "notes.txt", "sheet": tmp_path / "a.toml", "captions": tmp_path /
            "a.srt", "folder": tmp_path / "folder", "no film": tmp_path / "a.mp4",
            "picture": tmp_path / "a.png"}[kind]
    path.mkdir() if kind == "folder" else path.write_text("no film")
    film, view = window.film, window.film.view
    window.what_of_film = lambda _: "open"
    window.dropEvent(_dropped([path]))
    qtbot.waitUntil(lambda: path.name in window.statusBar().currentMessage()
                    and "Opening" not in window.statusBar().currentMessage(), timeout=20_000)
    assert window.film is film and film.view == view


def test_several_files_and_files_at_a_bad_time_are_answered(window, qtbot, tmp_path):
    window.dropEvent(_dropped([tmp_path / "a.mp4", tmp_path / "b.mp4"]))
    assert "2 files" in window.statusBar().currentMessage()
    window.what_of_film = lambda _: "open"
    window.open_any(tmp_path / "first.mp4")
    window.dropEvent(_dropped([tmp_path / "second.mp4"]))
    assert "second.mp4" in window.statusBar().currentMessage()
    qtbot.waitUntil(lambda: window._checking is None, timeout=20_000)


def test_the_batch_outlives_its_film(window, qtbot):
    session, batch = window.film.session, window.film.batch
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 75)), "short")
    batch.versions.plan.off = {"A", "C"}
    batch.start()
    qtbot.waitUntil(lambda: any(item.state.busy for item in window.working.items), timeout=30_000)
    window.close_film()
    assert window.working.running
    qtbot.waitUntil(lambda: not window.working.running, timeout=120_000)
    assert [item.state for item in window.working.jobs.items()] == [State.DONE]


@pytest.mark.parametrize("answer", ["stay", "go on", "stop"])
def test_closing_asks_what_becomes_of_a_running_batch(window, qtbot, answer):
    working = window.working
    window.film.batch.start()
    qtbot.waitUntil(lambda: any(item.state.busy for item in working.items), timeout=30_000)
    window.what_of_batch = lambda: answer
    process = working._process
    assert window.close() == (answer != "stay")
    if answer == "stay":
        assert window.film is not None
        window.what_of_batch = lambda: "stop"
    else:
        assert (process.poll() is None) == (answer == "go on")
        process.terminate()
        # Its own alarm ends it where a machine that is busy otherwise leaves it no time.
        assert process.wait(30) in (0, 130, -signal.SIGALRM)


def test_a_project_whose_sheet_is_gone_opens_and_says_so(window, qtbot, tmp_path, demo):
    project = with_version(window.film.session.project, "square-feed")
    lost = msgspec.structs.replace(project.versions[-1], sheet="of-a-client")
    project = msgspec.structs.replace(project, versions=(*project.versions[:-1], lost))
    path = tmp_path / "gone.caracal"
    write_document(path, document(demo, project))
    window.open_any(path)
    qtbot.waitUntil(lambda: window.film is not None and window.film.session.document.file == path,
                    timeout=30_000)
    assert "of-a-client" in window.statusBar().currentMessage()
    window.film.show_view("Batch")
    batch = window.film.batch
    batch.versions.plan.finish()
    stops = [concern for concern in batch.versions.plan.concerns if concern.stops]
    assert [stop.letter for stop in stops] == ["D"] and "of-a-client" in stops[0].sentence
    assert window.film.session.project.version("D").sheet == "of-a-client"
    batch.start()
    assert batch.working.items == ()


def test_a_shot_that_cannot_be_solved_is_asked_once(window, qtbot, monkeypatch):
    session = window.film.session
    asked = []

    def fails(question, _):
        asked.append(question.key)
        from caracal.core.base.errors import CaracalError

        raise CaracalError("No.")

    monkeypatch.setattr("caracal.ui.services.solver_worker._answerer", lambda: type(
        "A", (), {"answer": staticmethod(fails)}))
    from caracal.core.project.keyframe_edits import with_zoom

    session.edit(with_zoom(session.project, "A", 4, 1.37), "zoom")
    session.path("A", 4)
    settled(session)
    before = len(asked)
    for _ in range(3):
        session.path("A", 4)
        settled(session)
    assert before and len(asked) == before


def test_a_film_with_several_sounds_lets_one_be_chosen(qtbot, qapp, tmp_path, monkeypatch):
    from conftest import ffmpeg, open_window

    monkeypatch.setenv("CARACAL_STATE", str(tmp_path / "state"))
    film = write_film(tmp_path / "one.mp4", frames=60)
    two = tmp_path / "two.mp4"
    ffmpeg("-i", film, "-f", "lavfi", "-i", "sine=d=2", "-map", "0", "-map", "1:a", "-c:v", "copy",
           "-c:a", "aac", two)
    window = open_window(qtbot, qapp, tmp_path)
    try:
        window.open_any(two)
        qtbot.waitUntil(lambda: window.film is not None and window.film.session.film == two,
                        timeout=30_000)
        assert "2 audio tracks" in window.statusBar().currentMessage()
        window.actions_by_name["Next audio track"].trigger()
        session = window.film.session
        assert session.project.sound == 1 and session.analysis.master.sound_number == 1
        session.document.undo()
        assert session.analysis.master.sound_number == 0
    finally:
        window.close()


def test_processes_of_a_window_end_with_it(window, qtbot):
    """Nothing of ours is left when the window has gone."""
    settled(window.film.session)
    window.close()
    qtbot.wait(300)
    left = subprocess.run(["pgrep", "-f", str(window.working.jobs.path)], capture_output=True,
                          text=True, check=False).stdout
    assert not left.strip()


def test_closing_a_film_waits_for_nothing(window, qtbot):
    """Though the process that makes its pictures stands still: it is killed, and let go later."""
    session = window.film.session
    qtbot.waitUntil(lambda: session.preview.get("A", 300, (90, 160)) is not None, timeout=20_000)
    stopped = [pid for module in ("core.render.preview.process", "core.plan.solver_process")
               for pid in children_of(os.getpid(), module)]
    for pid in stopped:
        os.kill(pid, signal.SIGSTOP)
    session.preview.get("A", 700, (90, 160))
    film = window.film
    began = time.monotonic()
    assert window.close_film()
    assert time.monotonic() - began < 0.5 and window.film is None
    qtbot.waitUntil(lambda: not isValid(film), timeout=20_000)
    qtbot.waitUntil(lambda: not children_of(os.getpid(), "core.render.preview.process"),
                    timeout=20_000)
    for pid in stopped:  # that of the solver serves all films: the next one would wait for it
        with suppress(ProcessLookupError):
            os.kill(pid, signal.SIGKILL)


def test_garbage_is_collected_in_the_thread_of_the_window_only(window, qtbot):
    """A widget in a circle of references was destroyed by whichever thread needed memory."""
    told = []

    class Circle:
        def __init__(self):
            self.own = self

        def __del__(self):
            told.append(threading.get_ident())

    def work():
        for _ in range(200):
            Circle()
            [[] for _ in range(3000)]

    thread = threading.Thread(target=work)
    thread.start()
    thread.join()
    assert told == []
    qtbot.waitUntil(lambda: len(told) == 200, timeout=20_000)
    assert set(told) == {threading.get_ident()}


def test_a_version_that_goes_while_it_plays_is_asked_for_no_more(window, qtbot):
    """Its scene was asked for at the next frames, and was none of the project's any more."""
    session = window.film.session
    session.preview.get("B", 100, (90, 160))
    session.edit(without_version(session.project, "B"), "without B")
    session.preview.prepare([101, 102])
    assert session.preview.preroll(100, [100, 101]) in (True, False)
    session.document.undo()
    qtbot.waitUntil(lambda: session.preview.get("B", 100, (90, 160)) is not None, timeout=20_000)
