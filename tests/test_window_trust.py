"""What the window does not do: lose work, take keys, edit by the wheel, close what it cannot
replace."""


from contextlib import suppress
from pathlib import Path

import msgspec
import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QDialog, QPushButton, QTableView

from caracal.core.analysis.cache_limit import LOCK
from caracal.core.base.resources import DEMO_FILM
from caracal.core.batch.job import State
from caracal.core.framing.choice import Keyframe
from caracal.core.project.edits import (
    with_version,
    without_version,
)
from caracal.core.project.keyframe_edits import (
    with_keyframe,
)
from caracal.core.specs.checks import problems
from caracal.core.specs.draft import draft_file
from caracal.core.specs.sheet_store import find_sheet, own_folder
from caracal.ui.session.crop_edits import nudge_crop
from caracal.ui.session.zones_look import ZonesLook, keep_look, kept_look
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.shell.motion_dialog import MotionDialog
from caracal.ui.widgets.focus_policy import focus_first, is_own
from conftest import settled

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
    return session.document.history.at


def test_nudges_in_two_shots_are_two_steps_and_notches_are_one(aim, window, qtbot):
    session = window.film.session
    shots = session.analysis.shots
    for shot in (1, 3):
        session.go(shots[shot].start + 5)
        for _ in range(3):
            nudge_crop(aim.stage.session, 1, 0)
    assert steps(session) == 2
    session.document.undo()
    assert session.project.choice("A", 1).keyframes and not session.project.choice("A", 3).keyframes
    session.document.undo()
    for _ in range(10):
        turn(aim.stage, down=False)
    assert steps(session) == 1 and session.project.choice("A", session.shot).zoom > 1.2
    session.document.seal()
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
        place = QPoint(round(line.place_of(span.start)) + 1, 70)
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
    for box in (*boxes, film.aim.moves.zoom, film.aim.moves.centre_x):
        box.clearFocus()
        turn(box)
        turn(box, down=False)
    assert session.project == before and not film.findChildren(QDialog)


def key(code, mods=NONE, text=""):
    return QKeyEvent(QEvent.Type.ShortcutOverride, code, mods, text)


def test_focused_controls_have_their_keys_first(window):
    """Space presses a button that has the focus, arrows move in lists, Ctrl+Backspace erases."""
    zoom, reason = window.film.aim.moves.zoom, window.film.aim.head.reason
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
    aim.head.reason.setVisible(True)
    aim.head.reason.setFocus()
    qtbot.waitUntil(aim.head.reason.hasFocus)
    aim.head.reason.setText("two words")
    qtbot.keyClick(aim.head.reason, Qt.Key.Key_Backspace, CTRL)
    assert aim.head.reason.text() == "two "
    assert State.STOPPED not in {item.state for item in batch.working.items}


def test_a_clicked_button_leaves_space_to_the_film(aim, window, qtbot):
    button = next(iter(aim.moves.manners.values()))
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


def test_a_changed_sheet_holds_its_film_and_is_there_again_after_an_end_from_outside(
    window, monkeypatch
):
    film, answers = window.film, ["stay", "stay", "stay"]
    monkeypatch.setattr(SheetWindow, "ask_about_changes", lambda _: answers.pop())
    sheets = film.open_sheets("square-feed")
    video = msgspec.structs.replace(sheets.sheet.video, bitrate_kbps=9_000_000)
    changed = msgspec.structs.replace(sheets.sheet, title="Changed", video=video)
    sheets.take(changed)
    assert problems(changed)  # not what could be saved
    assert not window.close_film() and not window.close()
    window.open_film(DEMO_FILM)
    assert window.film is film and window.isVisible() and sheets.isVisible() and not answers
    window.end()  # asks nothing
    assert window.film is None and not window.isVisible()
    again = SheetWindow("square-feed")
    assert again.sheet == changed and again._kept.title != "Changed"
    assert draft_file().is_file()  # a crash loses nothing of it
    assert SheetWindow("wide").sheet.name == "wide"  # one window has it
    answers.append("discard")
    again.show()
    again.close()
    assert not answers and not draft_file().exists()
    assert SheetWindow("square-feed").sheet == again._kept
    draft_file().write_bytes(b"{\xff")
    SheetWindow("square-feed").close()
    assert [file.name[:16] for file in draft_file().parent.glob("sheet*")] == ["sheet unreadable"]


def held_analyses():
    """The locks on analyses that this process has open."""
    found = []
    for link in Path("/proc/self/fd").iterdir():
        with suppress(OSError):
            found += [file] if (file := link.readlink()).name == LOCK else []
    return found


def test_the_analysis_of_the_film_that_shows_is_not_removed_to_make_room(window):
    key = window.film.session.analysis.content_key
    assert [file.parent.name for file in held_analyses()] == [key]
    window.close_film()
    assert not held_analyses()


def test_dialogs_go_with_their_film(window, qtbot):
    for name in ("Motion limits…", "Colour and strength of zones…"):
        window.actions_by_name[name].trigger()
    window.film.open_sheets()
    film = window.film
    assert len([dialog for dialog in film.findChildren(QDialog) if dialog.isVisible()]) == 3
    window.close_film()
    assert not [widget for widget in QApplication.topLevelWidgets()
                if isinstance(widget, QDialog) and widget.isVisible()]
