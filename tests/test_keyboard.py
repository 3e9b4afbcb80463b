"""What a pointer does, by keys: versions, time, boxes, punch-ins, keyframes, lines, zones, Tab."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from caracal.core.framing.choice import Interpolation
from caracal.ui.sheets.drawing import zones_in
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.widgets.focus_policy import focus_first
from caracal.ui.widgets.tables import Cell, Rows, table
from conftest import settled

CTRL, SHIFT, ALT = (Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier,
                    Qt.KeyboardModifier.AltModifier)
KEY = Qt.Key


@pytest.fixture
def aimed(window, qtbot, qapp, truth):
    """Aim on a shot with somebody in it, with the keyboard."""
    focus_first(qapp)  # as the program itself does
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    window.film.show_view("Aim")
    session = window.film.session
    shot = next(i for i, row in enumerate(truth["shots"]) if "runner" in row["name"])
    session.go(session.analysis.shots[shot].start + 20)
    settled(session)
    return window.film.aim


def press(*keys, modifier=Qt.KeyboardModifier.NoModifier):
    for key in keys:
        QTest.keyClick(QApplication.focusWidget(), key, modifier)


def test_versions_are_stepped_through(aimed, window):
    session, seen = window.film.session, []
    for _ in range(3):
        press(KEY.Key_PageDown, modifier=CTRL)
        seen.append(session.letter)
    assert seen == ["B", "C", "A"]
    press(KEY.Key_PageUp, modifier=CTRL)
    assert session.letter == "C"


def test_the_film_line_comes_closer_round_the_playhead(aimed, window):
    line, session = window.film.line, window.film.session
    whole, where = line._span, line.place_of(session.frame)
    press(KEY.Key_Plus, modifier=CTRL)
    assert line._span == whole / 2 and line.place_of(session.frame) == pytest.approx(where, abs=1)
    press(KEY.Key_Minus, KEY.Key_Minus, modifier=CTRL)
    assert line._span == whole
    press(KEY.Key_Plus, KEY.Key_Plus, modifier=CTRL)
    session.go(0)  # out of sight
    press(KEY.Key_Plus, modifier=CTRL)
    assert 0 <= line.place_of(0) <= line.width()
    press(KEY.Key_0, modifier=CTRL)
    assert line._span == whole and line._from == 0


def test_a_box_is_drawn_by_keys(aimed, window):
    """By arithmetic: 10 steps of 8 pixels of the screen across, 5 down."""
    drawn, stage = [], aimed.stage
    stage.box_drawn.disconnect()
    stage.box_drawn.connect(drawn.append)
    press(KEY.Key_B)
    assert stage.drawing and stage.hasFocus()
    frame = window.film.session.frame
    press(*[KEY.Key_Up] * 3, KEY.Key_Return, *[KEY.Key_Right] * 10, *[KEY.Key_Down] * 5)
    assert stage.drawing and window.film.session.frame == frame  # arrows were the mark's
    press(KEY.Key_Return)
    scale = window.film.session.analysis.master.width / stage.picture().width()
    (box,) = drawn
    assert box[2:] == (pytest.approx(80 * scale), pytest.approx(40 * scale))
    assert not stage.drawing
    press(KEY.Key_Right)
    assert window.film.session.frame == frame + 1  # and are the film's again


def test_a_punch_in_is_placed_by_keys(aimed, window):
    session = window.film.session
    before = session.window("A", session.frame)
    press(KEY.Key_P, *[KEY.Key_Left] * 5, KEY.Key_Return)
    now = settled(session).window("A", session.frame)
    assert now[2] == pytest.approx(before[2] / 1.5, rel=0.01)
    assert now[0] + now[2] / 2 < before[0] + before[2] / 2
    press(KEY.Key_P)
    assert settled(session).window("A", session.frame) == pytest.approx(before)


def test_keyframes_are_set_chosen_moved_and_removed_by_keys(aimed, window, qtbot):
    session, strip = window.film.session, aimed.strip
    strip.setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.waitUntil(strip.hasFocus)
    first = session.frame
    press(KEY.Key_Return)
    press(KEY.Key_Escape, *[KEY.Key_Right] * 3, KEY.Key_Return)  # arrows step, nothing is chosen
    assert [key.frame for key in strip.keys] == [first, first + 3]
    press(KEY.Key_PageUp)
    assert strip.chosen == first == session.frame
    place = strip.keys[0].centre[strip.path.axis]
    press(KEY.Key_Right, KEY.Key_Down)
    press(KEY.Key_Down, modifier=SHIFT)
    (moved, _) = strip.keys
    assert moved.frame == first + 1 and moved.centre[strip.path.axis] == pytest.approx(
        place + 9, abs=0.2)
    press(KEY.Key_Space)
    assert strip.keys[0].interpolation is list(Interpolation)[1] and not session.speed
    press(KEY.Key_Right)  # another one is there: none is lost
    press(KEY.Key_Right)
    assert [key.frame for key in strip.keys] == [first + 2, first + 3]
    press(KEY.Key_PageDown, KEY.Key_Delete)
    assert [key.frame for key in strip.keys] == [first + 2]


def test_after_a_click_on_a_keyframe_arrows_and_space_are_the_film_s(aimed, window, qtbot):
    session, strip = window.film.session, aimed.strip
    strip.setFocus(Qt.FocusReason.TabFocusReason)
    press(KEY.Key_Return)
    (key,) = strip.keys
    qtbot.mouseClick(strip, Qt.MouseButton.LeftButton, pos=strip.point_of(key).toPoint())
    assert strip.chosen == key.frame
    press(KEY.Key_Right)
    assert strip.keys == (key,) and session.frame == key.frame + 1
    press(KEY.Key_Space)
    assert session.speed == 1 and strip.keys == (key,)
    press(KEY.Key_Space, KEY.Key_Delete)
    assert session.speed == 0 and strip.keys == ()


def test_keys_do_nothing_that_is_not_seen(aimed, window):
    session, said = window.film.session, []
    session.said.connect(said.append)
    window.film.show_view("Batch")
    before, zones = session.project, session.zones
    press(KEY.Key_C)
    press(KEY.Key_Left, modifier=CTRL)
    assert session.project == before and session.zones == zones
    assert "Zones are seen" in said[0] and "nudged in Aim" in said[1]


def test_tab_leaves_a_table(qtbot):
    from PySide6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

    rows = Rows(("name", "size"))
    rows.show(tuple((Cell(str(i)), Cell("x")) for i in range(40)))
    parent, after = QWidget(), QLineEdit()
    column = QVBoxLayout(parent)
    shown = table(rows, 0)
    column.addWidget(shown)
    column.addWidget(after)
    qtbot.addWidget(parent)
    parent.show()
    parent.activateWindow()
    qtbot.waitUntil(parent.isActiveWindow)
    shown.setFocus()
    press(KEY.Key_Tab)
    assert after.hasFocus()


def test_zones_are_chosen_and_moved_by_numbers(qtbot, qapp, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path / "config"))
    made = SheetWindow("vertical-short")
    qtbot.addWidget(made)
    numbers = made.numbers
    assert numbers.which.count() == len(zones_in(made.sheet)) and not numbers.boxes[
        "left"].isEnabled()
    at = next(i for i, (place, _) in enumerate(zones_in(made.sheet)) if place[0] == "clear")
    numbers.which.setCurrentIndex(at)
    numbers.which.activated.emit(at)
    assert made.drawing.chosen == ("clear", 0)
    for side, percent in (("left", 5.0), ("top", 12.5), ("width", 80.0), ("height", 200.0)):
        numbers.boxes[side].setValue(percent)
    clear = made.sheet.clear
    assert (clear.left, clear.top, clear.width) == (0.05, 0.125, 0.8)
    assert clear.top + clear.height == pytest.approx(1.0)  # no zone leaves the canvas
    assert numbers.boxes["height"].value() == 87.5
