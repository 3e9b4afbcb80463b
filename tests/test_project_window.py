"""Projects in the window: saved, recovered, dropped, without their film; and cut lists."""

import pytest
from PySide6.QtCore import QSettings, Qt

from caracal.core.base.resources import DEMO_FILM
from caracal.core.framing.choice import Keyframe
from caracal.core.framing.motion import Manner
from caracal.core.project.edits import (
    with_manner,
)
from caracal.core.project.keyframe_edits import (
    with_keyframe,
)
from caracal.core.project.storage import autosave_path, document, read_document, write_document
from caracal.ui.services.recent import recent
from caracal.ui.shell.main_window import MainWindow
from conftest import open_window, solved

LEFT, CTRL, SHIFT = (Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier,
                     Qt.KeyboardModifier.ShiftModifier)


def _shot(truth, name):
    return next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == name)


def test_a_cut_list_replaces_the_shots(window, truth, tmp_path):
    session, files = window.film.session, window.film.files
    files.import_cut_list(DEMO_FILM.with_suffix(".edl"))
    session.assets.wait()
    assert [s.start for s in session.analysis.shots] == [s["start"] for s in truth["shots"]]
    told = []
    session.said.connect(told.append)
    files.import_cut_list(tmp_path / "none.edl")
    session.assets.wait()
    assert "no such file" in told[-1]


def test_saved_work_opens_again(window, qtbot, tmp_path):
    session, path = window.film.session, tmp_path / "kiln.caracal"
    session.edit(with_manner(session.project, "B", 3, Manner.CHASE), "chase")
    assert "(unsaved)" in window.windowTitle()
    window.film.files.save_to(path)
    window.film.files.wait()
    assert "(unsaved)" not in window.windowTitle()
    window.open_any(path)
    qtbot.waitUntil(lambda: window.film is not None and window.film.session is not session,
                    timeout=30_000)
    qtbot.waitUntil(lambda: window.analysing is None, timeout=10_000)
    assert window.film.session.project.choice("B", 3).manner is Manner.CHASE
    assert window.film.session.document.file == path and recent(window.settings)[0] == path


def test_unsaved_work_comes_back_after_a_crash(window, qtbot, qapp, tmp_path):
    """What a killed program leaves: the kept work, and no clean end."""
    session = window.film.session
    key = Keyframe(1010, (800.0, 540.0))
    session.edit(with_keyframe(session.project, "A", 10, key), "keyframe")
    window.film.files.keep()
    window.film.files.wait()
    assert autosave_path(session.analysis.content_key).is_file()
    again = open_window(qtbot, qapp, tmp_path / "again")
    try:
        again.film.files.wait()
        assert again.film.session.project.choice("A", 10).keyframes == (key,)
        qtbot.keyClick(again, Qt.Key.Key_Z, CTRL)
        assert again.film.session.project.choice("A", 10).keyframes == ()
        again.film.files.keep()
        again.film.files.wait()
    finally:
        again.close()
    window.film.files.keep()  # the other window took over: what was done here goes aside
    window.film.files.wait()
    assert session.document.read_only and "read-only" in window.windowTitle()
    kept = autosave_path(session.analysis.content_key)
    (aside,) = kept.parent.glob(f"{kept.stem} *.caracal")
    assert read_document(aside).project == session.project


def test_a_project_without_its_film_is_usable_but_for_encoding(qtbot, qapp, demo, tmp_path):
    import msgspec

    path = tmp_path / "away.caracal"
    mine = document(demo, with_manner(_first(demo), "A", 2, Manner.GLIDE))
    gone = msgspec.structs.replace(mine.film, path="/nowhere/kiln day.mp4")
    write_document(path, msgspec.structs.replace(mine, film=gone))
    window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.open_any(path)
    qtbot.waitUntil(lambda: window.film is not None and window.analysing is None, timeout=30_000)
    assert window.film.session.project.choice("A", 2).manner is Manner.GLIDE
    unknown = msgspec.structs.replace(gone, content_key="0" * 32)
    write_document(path, msgspec.structs.replace(mine, film=unknown))
    film = window.film
    window.open_any(path)  # what cannot be opened closes nothing
    qtbot.waitUntil(lambda: "not where it was" in window.statusBar().currentMessage())
    assert window.film is film
    window.close_film()
    window.open_any(path)
    qtbot.waitUntil(lambda: "not where it was" in window.start.problem.text())
    window.close()


def _first(demo):
    from caracal.core.project.model import first_project

    return first_project(demo.master.frames)


def test_a_broken_project_is_told_in_one_sentence(qtbot, qapp, tmp_path):
    path = tmp_path / "broken.caracal"
    path.write_text("{}")
    window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.open_any(path)
    qtbot.waitUntil(lambda: "broken.caracal" in window.start.problem.text())
    window.close()


def _dropped(files):
    from PySide6.QtCore import QMimeData, QPointF, QUrl
    from PySide6.QtGui import QDropEvent

    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(file)) for file in files])
    event = QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, LEFT,
                       Qt.KeyboardModifier.NoModifier)
    event.kept = data  # Qt does not own it
    return event


def test_a_dropped_cut_list_goes_to_the_open_film(window, qtbot):
    """The demo's list says what was found: a split made before is gone."""
    session = window.film.session
    session.go(600)
    qtbot.keyClick(window, Qt.Key.Key_S)
    assert session.project.starts
    window.dropEvent(_dropped([DEMO_FILM.with_suffix(".edl")]))
    session.assets.wait()
    assert session.project.starts == ()


def test_a_dropped_project_opens(window, qtbot, tmp_path):
    path = tmp_path / "dropped.caracal"
    window.film.files.save_to(path)
    window.film.files.wait()
    window.dropEvent(_dropped([path]))
    qtbot.waitUntil(lambda: window.analysing is None and window.film is not None
                    and window.film.session.document.file == path, timeout=30_000)


def test_a_bad_drop_is_told_and_leaves_the_start_page(qtbot, qapp, tmp_path):
    window = MainWindow(QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    qtbot.addWidget(window)
    window.dropEvent(_dropped([tmp_path / "gone.mov"]))
    qtbot.waitUntil(lambda: "gone.mov" in window.start.problem.text(), timeout=10_000)
    qtbot.waitUntil(lambda: window.analysing is None, timeout=10_000)


def test_a_full_place_is_told_when_saving(window, tmp_path):
    told = []
    window.film.session.said.connect(told.append)
    (tmp_path / "file").touch()
    window.film.files.save_to(tmp_path / "file" / "x.caracal")
    window.film.files.wait()
    assert "folder" in told[-1] and window.film.session.document.file is None


def test_a_project_with_its_own_limits_is_solved_with_them(window, qtbot, truth, tmp_path):
    """Opened again, no path that was solved with the usual limits is shown."""
    import msgspec

    from caracal.core.framing.motion import Motion

    session, path = window.film.session, tmp_path / "slow.caracal"
    slow = Motion(chase_crossing_frames=60.0)
    session.edit(msgspec.structs.replace(session.project, motion=slow), "slow")
    runner = _shot(truth, "runner")
    expected = solved(session, "A", runner).windows
    window.film.files.save_to(path)
    window.film.files.wait()
    window.open_any(path)
    qtbot.waitUntil(lambda: window.film is not None and window.analysing is None, timeout=30_000)
    again = solved(window.film.session, "A", runner).windows
    assert (again == expected).all()
    assert abs(again[1:, 0] - again[:-1, 0]).max() <= 607.5 / 60 + 1e-6


NEWER = b'{"format": "caracal project", "version": 999}'


@pytest.mark.parametrize("harm", [
    lambda data: NEWER, lambda data: data[: len(data) // 2], lambda data: b"",
    lambda data: data.replace(b'"versions"', b'"versi\xffns"', 1)],
    ids=["newer", "cut off", "empty", "one bad byte"])
def test_unsaved_work_that_cannot_be_read_is_set_aside_and_told(
    window, qtbot, qapp, tmp_path, harm
):
    """Closed unchanged, and even edited and closed, nothing of it is gone."""
    key = window.film.session.analysis.content_key
    place = autosave_path(key)
    window.film.session.edit(with_manner(window.film.session.project, "B", 3, Manner.CHASE), "c")
    window.film.files.keep()
    window.film.files.wait()
    data = harm(place.read_bytes())
    window.close()
    place.write_bytes(data)
    for edits in (False, True):
        again = open_window(qtbot, qapp, tmp_path / f"again{edits}")
        session = again.film.session
        told = [message.words for message in again.messages.said]
        if not edits:
            assert any("could not be read" in words for words in told), told
        if edits:
            session.edit(with_manner(session.project, "A", 1, Manner.GLIDE), "glide")
        again.close()
        asides = list(place.parent.glob(f"{key} unreadable *"))
        assert [path.read_bytes() for path in asides] == [data]
    assert read_document(place).project.choice("A", 1).manner is Manner.GLIDE


def test_work_is_kept_by_a_thread_and_the_latest_counts(window, qtbot, monkeypatch):
    """A disk that takes its time holds no edit up; of what waits for it the latest is written."""
    import threading

    from caracal.core.project import autosave

    session, files = window.film.session, window.film.files
    slow, written = threading.Event(), []

    def write(path, document):
        assert threading.current_thread() is not threading.main_thread()
        slow.wait(20)
        written.append(document.project)

    monkeypatch.setattr(autosave, "write_document", write)
    for manner in (Manner.CHASE, Manner.GLIDE, Manner.LOCKED):
        session.edit(with_manner(session.project, "B", 3, manner), "manner")
        files.keep()
        qtbot.wait(20)
    assert written == []  # and here we are
    slow.set()
    files.wait()
    assert [project.choice("B", 3).manner for project in written] == [Manner.CHASE, Manner.LOCKED]
