"""What the window does not do: lose work, take keys, edit by the wheel, close what it cannot
replace."""

import subprocess

import msgspec
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QDialog, QPushButton, QTableView

from caracal.core.batch.batch_list import State
from caracal.core.framing.choice import Keyframe
from caracal.core.project.edits import with_keyframe, with_version, without_version
from caracal.core.project.storage import document, write_document
from caracal.core.specs.shelf import find_sheet, own_folder
from caracal.core.time import FrameRange
from caracal.ui.motion import MotionDialog
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.tame import focus_first, is_own
from caracal.ui.zones import ZonesLook, keep_look, kept_look
from conftest import settled, write_film
from test_project_window import _dropped

LEFT, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def aim(window, qtbot):
    window.film.show_view("Aim")
    window.film.session.choose_version("A")
    return window.film.aim


def turn(widget, down=True, keys=NONE, where=None):
    """One notch of the wheel over ``widget``."""
    at = QPointF(where or widget.rect().center())
    event = QWheelEvent(at, widget.mapToGlobal(at), QPoint(), QPoint(0, -120 if down else 120),
                        Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False)
    QApplication.sendEvent(widget, event)


def steps(session):
    return session.history.at


def test_nudges_in_two_shots_are_two_steps_and_notches_are_one(aim, window, qtbot):
    session = window.film.session
    shots = session.analysis.shots
    for shot in (1, 3):
        session.go(shots[shot].start + 5)
        for _ in range(3):
            aim.numbers.nudge(8, 0)
    assert steps(session) == 2
    session.undo()
    assert session.project.choice("A", 1).keyframes and not session.project.choice("A", 3).keyframes
    session.undo()
    for _ in range(10):
        turn(aim.stage, down=False)
    assert steps(session) == 1 and session.project.choice("A", session.shot).zoom > 1.2
    session.seal()
    turn(aim.stage, down=False)
    assert steps(session) == 2


def test_each_box_of_a_dialog_is_a_step_of_its_own(window, qtbot):
    session = window.film.session
    dialog = MotionDialog(session, window.film)
    for field, value in (("least_rest_frames", 30), ("glide_ease_frames", 20), ("closest", 2.0)):
        for more in (0, 1):
            step = 0.05 if field == "closest" else 1
            dialog.boxes[field].setValue(value + more * step)
    assert steps(session) == 3
    dialog.close()


def test_a_keyframe_dragged_past_another_leaves_it(aim, window, qtbot):
    session = window.film.session
    shot = session.analysis.shots[1]
    keys = [Keyframe(shot.start + at, (600.0 + at, 540.0)) for at in (6, 14, 22)]
    for key in keys:
        session.edit(with_keyframe(session.project, "A", 1, key), "set")
    session.go(shot.start)
    settled(session)
    strip, before = aim.strip, steps(session)
    here = strip.point_of(keys[0]).toPoint()
    qtbot.mousePress(strip, LEFT, pos=here)
    for key in keys[1:]:
        qtbot.mouseMove(strip, strip.point_of(key).toPoint())
    qtbot.mouseMove(strip, strip.point_of(keys[2]).toPoint() + QPoint(1, 0))
    qtbot.mouseRelease(strip, LEFT, pos=strip.point_of(keys[2]).toPoint())
    left = session.project.choice("A", 1).keyframes
    assert len(left) == 3 and {keys[1], keys[2]} <= set(left)
    assert steps(session) == before + 1


def test_two_drags_are_two_steps(window, qtbot):
    line, session = window.film.line, window.film.session
    for at in (200, 400):
        span = session.project.span
        place = QPoint(round(line._x(span.start)) + 1, 70)
        qtbot.mousePress(line, LEFT, pos=place)
        line._held = "start"
        for step in (0, 10, 20):
            line._drag_range(at + step)
        qtbot.mouseRelease(line, LEFT, pos=place)
    assert steps(session) == 2 and session.project.span.start == 420


def test_the_wheel_over_what_has_no_focus_edits_nothing(aim, window, qtbot):
    session, film = window.film.session, window.film
    film.show_view("Batch")
    before = session.project
    boxes = list(film.findChildren(QComboBox))
    assert len(boxes) >= 6
    for box in (*boxes, film.aim.numbers.zoom, film.aim.numbers.across):
        box.clearFocus()
        turn(box)
        turn(box, down=False)
    assert session.project == before and not film.findChildren(QDialog)


def key(code, mods=NONE, text=""):
    return QKeyEvent(QEvent.Type.ShortcutOverride, code, mods, text)


def test_focused_controls_have_their_keys_first(window):
    """Space presses a button that has the focus, arrows move in lists, Ctrl+Backspace erases."""
    zoom, reason = window.film.aim.numbers.zoom, window.film.aim.numbers.reason
    assert is_own(QPushButton(), key(Qt.Key.Key_Space, text=" "))
    assert is_own(QCheckBox(), key(Qt.Key.Key_Space, text=" "))
    assert is_own(reason, key(Qt.Key.Key_Backspace, CTRL)) and is_own(reason, key(
        Qt.Key.Key_S, text="s"))
    assert is_own(QTableView(), key(Qt.Key.Key_Down)) and is_own(zoom, key(Qt.Key.Key_Up))
    assert not is_own(reason, key(Qt.Key.Key_S, CTRL)) and not is_own(zoom, key(
        Qt.Key.Key_Left, CTRL))
    assert not is_own(QPushButton(), key(Qt.Key.Key_J, text="j"))


def test_ctrl_backspace_in_a_field_stops_no_line(aim, window, qtbot, qapp):
    focus_first(qapp)
    window.activateWindow()
    batch = window.film.batch
    batch.working.jobs.paused = True
    batch.start()
    window.film.show_view("Aim")
    aim.numbers.reason.setVisible(True)
    aim.numbers.reason.setFocus()
    qtbot.waitUntil(aim.numbers.reason.hasFocus)
    aim.numbers.reason.setText("two words")
    qtbot.keyClick(aim.numbers.reason, Qt.Key.Key_Backspace, CTRL)
    assert aim.numbers.reason.text() == "two "
    assert State.STOPPED not in {item.state for item in batch.working.items}


def test_a_clicked_button_leaves_space_to_the_film(aim, window, qtbot):
    button = next(iter(aim.manners.values()))
    qtbot.mouseClick(button, LEFT)
    assert not button.hasFocus() and button.focusPolicy() is Qt.FocusPolicy.TabFocus


def test_a_removed_version_leaves_no_cell_and_no_decision_behind(window, qtbot):
    session, grid = window.film.session, window.film.board.grid
    grid._select((("C", 1), ("A", 1)))
    session.edit(without_version(session.project, "C"), "removed")
    assert grid._cells == (("A", 1),)
    bar = window.film.board.bar
    bar._cells = (("C", 1),)  # as if it had not heard
    bar._set_zoom(3)
    assert not [decision for decision in session.project.decisions if decision.letter == "C"]
    session.edit(with_version(session.project, "plaza"), "again")
    assert session.project.choice("C", 1).zoom is None


def test_escape_ends_following_and_punching_in(aim, window, qtbot):
    aim.draw.setChecked(True)
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert not aim.stage.drawing and not aim.draw.isChecked()
    aim.punch_or_back()
    assert aim.stage.punching
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert not aim.stage.punching


def test_zones_are_the_same_when_a_film_is_opened_again(window):
    keep_look(window.settings, ZonesLook(covers=True, phone=True))
    assert kept_look(window.settings) == ZonesLook(covers=True, phone=True)


def test_a_sheet_with_changes_is_not_left_without_a_word(window, monkeypatch, qtbot):
    answers = []
    monkeypatch.setattr(SheetWindow, "ask_about_changes", lambda _: answers.pop())
    sheets = SheetWindow("square-feed", window)
    qtbot.addWidget(sheets)
    changed = msgspec.structs.replace(sheets.sheet, title="Changed")
    sheets.show()
    for leave in (lambda: qtbot.keyClick(sheets, Qt.Key.Key_Escape), lambda: sheets._choose(0),
                  sheets.close):
        sheets.take(changed)
        answers.append("stay")
        leave()
        assert not answers and sheets.sheet == changed and sheets.isVisible()
    answers.append("save")
    qtbot.keyClick(sheets, Qt.Key.Key_Escape)
    assert find_sheet("square-feed").title == "Changed" and not sheets.isVisible()
    (own_folder() / "square-feed.toml").unlink()


def test_dialogs_go_with_their_film(window, qtbot):
    for name in ("How windows move…", "Colour and strength of zones…"):
        window.actions_by_name[name].trigger()
    window.film.open_sheets()
    film = window.film
    assert len([one for one in film.findChildren(QDialog) if one.isVisible()]) == 3
    window.close_film()
    assert not [topLevelWidget for topLevelWidget in QApplication.topLevelWidgets()
                if isinstance(topLevelWidget, QDialog) and topLevelWidget.isVisible()]


@pytest.mark.parametrize("kind", ["text", "sheet", "captions", "folder", "no film", "picture"])
def test_a_drop_that_cannot_be_opened_closes_nothing(window, qtbot, tmp_path, kind):
    path = {"text": tmp_path / "notes.txt", "sheet": tmp_path / "a.toml", "captions": tmp_path /
            "a.srt", "folder": tmp_path / "folder", "no film": tmp_path / "a.mp4",
            "picture": tmp_path / "a.png"}[kind]
    path.mkdir() if kind == "folder" else path.write_text("no film")
    film, view = window.film, window.film.view
    window.dropEvent(_dropped([path]))
    qtbot.waitUntil(lambda: path.name in window.statusBar().currentMessage()
                    and "Looking" not in window.statusBar().currentMessage(), timeout=20_000)
    assert window.film is film and film.view == view


def test_several_files_and_files_at_a_bad_time_are_answered(window, qtbot, tmp_path):
    window.dropEvent(_dropped([tmp_path / "a.mp4", tmp_path / "b.mp4"]))
    assert "2 files" in window.statusBar().currentMessage()
    window.open_any(tmp_path / "first.mp4")
    window.dropEvent(_dropped([tmp_path / "second.mp4"]))
    assert "second.mp4" in window.statusBar().currentMessage()
    qtbot.waitUntil(lambda: window._checking is None, timeout=20_000)


def test_the_batch_outlives_its_film(window, qtbot):
    session, batch = window.film.session, window.film.batch
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 75)), "short")
    batch.versions._off = {"A", "C"}
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
        assert process.wait(30) in (0, 130)


def test_a_project_whose_sheet_is_gone_opens_and_says_so(window, qtbot, tmp_path, demo):
    project = with_version(window.film.session.project, "square-feed")
    lost = msgspec.structs.replace(project.versions[-1], sheet="of-a-client")
    project = msgspec.structs.replace(project, versions=(*project.versions[:-1], lost))
    path = tmp_path / "gone.caracal"
    write_document(path, document(demo, project))
    window.open_any(path)
    qtbot.waitUntil(lambda: window.film is not None and window.film.session.file == path,
                    timeout=30_000)
    assert "of-a-client" in window.statusBar().currentMessage()
    window.film.show_view("Batch")
    batch = window.film.batch
    stops = [concern for concern in batch.versions.concerns if concern.stops]
    assert [stop.letter for stop in stops] == ["D"] and "of-a-client" in stops[0].sentence
    assert window.film.session.project.version("D").sheet == "of-a-client"
    batch.start()
    assert batch.working.items == ()


def test_a_shot_that_cannot_be_solved_is_asked_once(window, qtbot, monkeypatch):
    session = window.film.session
    asked = []

    def fails(question):
        asked.append(question.key)
        from caracal.core.errors import CaracalError

        raise CaracalError("No.")

    monkeypatch.setattr("caracal.ui.solver_worker._answerer", lambda: type(
        "A", (), {"answer": staticmethod(fails)}))
    from caracal.core.project.edits import with_zoom

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
        assert "2 sounds" in window.statusBar().currentMessage()
        window.actions_by_name["Next sound of the film"].trigger()
        session = window.film.session
        assert session.project.sound == 1 and session.analysis.master.sound_number == 1
        session.undo()
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
