"""Canvases by keyboard and by assistive technology, and how far what is moved there reaches."""

import gc

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible

from caracal.core.layout.kinds import kind_called
from caracal.core.layout.overlay import Overlay, Shape, ShapeKind
from caracal.core.project.edits import with_layout
from caracal.core.project.overlay_edits import with_overlay_added
from caracal.ui.session.crop_edits import nudge_crop
from caracal.ui.session.reach import EditKind, InVersions, Reach
from caracal.ui.shell.accessibility import install_accessibility
from caracal.ui.widgets.focus_policy import focus_first
from conftest import drag, settled

TAB = Qt.FocusReason.TabFocusReason
WITH_TWO = 5  # a shot of the demo in which two people talk
PLACE = ((0.2, 0.4), (0.3, 0.4))


@pytest.fixture
def session(aim, window, qtbot, qapp):
    focus_first(qapp)  # as the program itself does
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    session = aim.stage.session
    session.go(session.analysis.shots[WITH_TWO].poster_frame)
    project = session.project
    for letter in "AB":
        circle = Overlay(Shape(ShapeKind.CIRCLE), 0, 1000, PLACE)
        project = with_overlay_added(project, letter, circle)
    session.edit(project, "a circle in A and B")
    session.choose_version("A")
    return settled(session)


def by_tab(canvases, qtbot):
    canvases.setFocus(TAB)
    qtbot.waitUntil(canvases.hasFocus)


def region(session, letter="A"):
    return session.project.version(letter).overlays[0].region


def shares(region):
    return [share for side in region for share in side]


def test_arrows_choose_a_version_and_return_holds_what_lies_on_its_canvas(aim, session, qtbot):
    canvases = aim.canvases
    by_tab(canvases, qtbot)
    qtbot.keyClick(canvases, Qt.Key.Key_Right)
    assert session.letter == "B"
    qtbot.keyClick(canvases, Qt.Key.Key_Left)
    frame = session.frame
    qtbot.keyClick(canvases, Qt.Key.Key_Return)
    qtbot.keyClick(canvases, Qt.Key.Key_Right)
    qtbot.keyClick(canvases, Qt.Key.Key_Down)
    qtbot.keyClick(canvases, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert shares(region(session)) == pytest.approx([0.21, 0.41, 0.312, 0.412])
    qtbot.keyClick(canvases, Qt.Key.Key_Plus)
    left, right = region(session)[0]
    assert right - left == pytest.approx(0.2 * 1.05) and left + right == pytest.approx(0.62)
    qtbot.keyClick(canvases, Qt.Key.Key_Escape)
    qtbot.keyClick(canvases, Qt.Key.Key_Right)
    assert session.letter == "B" and session.frame == frame


def test_after_a_click_arrows_are_the_films(aim, session, qtbot):
    qtbot.mouseClick(aim.canvases, Qt.MouseButton.LeftButton,
                     pos=aim.canvases.rects()[1].center().toPoint())
    assert session.letter == "B"
    before = session.frame
    qtbot.keyClick(aim.canvases, Qt.Key.Key_Right)
    assert session.letter == "B" and session.frame == before + 1


def test_an_inset_is_moved_by_keys(aim, session, qtbot):
    inset = kind_called("inset").make(session.sheet("A").frame)
    session.edit(with_layout(session.project, "A", session.shot, inset), "inset")
    settled(session)
    by_tab(aim.canvases, qtbot)
    qtbot.keyClick(aim.canvases, Qt.Key.Key_Return)  # the circle, which is in front
    qtbot.keyClick(aim.canvases, Qt.Key.Key_Return)
    held = aim.canvases.key_cursor.held
    assert held.name == "pane"
    qtbot.keyClick(aim.canvases, Qt.Key.Key_Up)
    moved = session.project.choice("A", session.shot).layout.panes[-1].region
    assert moved[1][0] == pytest.approx(held.region[1][0] - 0.01)


def test_a_drag_moves_an_overlay_here_and_one_click_in_all_versions(aim, session, window, qtbot):
    rect = aim.canvases.rects()[0]
    start = rect.topLeft() + (rect.bottomRight() - rect.topLeft()) * 0.33
    to = start + (rect.bottomRight() - rect.topLeft()) * 0.1
    drag(qtbot, aim.canvases, start.toPoint(), to.toPoint())
    here = region(session)
    assert here != PLACE and region(session, "B") == PLACE
    steps = len(session.document.history.projects)
    every = next(button for button in window.messages.offers if "all versions" in button.text())
    qtbot.mouseClick(every, Qt.MouseButton.LeftButton)
    middles = [[sum(side) / 2 for side in region(session, letter)] for letter in "AB"]
    assert middles[0] == pytest.approx(middles[1], abs=0.02)
    assert region(session) == here and len(session.document.history.projects) == steps


def test_a_keyframe_dragged_in_the_strip_goes_as_far_as_crops_reach(aim, session, qtbot):
    session.editing.reaches.set(EditKind.CROP, Reach(InVersions.ALL))
    nudge_crop(session, 1, 0)
    session.document.seal()
    settled(session)
    frame, shot = session.frame, session.shot
    strip = aim.strip
    before = [session.project.choice(letter, shot).keyframes for letter in "ABC"]
    assert all(keys[0].frame == frame for keys in before)
    at = strip.point_of(before[0][0])
    later = frame + 8 if frame + 8 < session.path("A", shot).end else frame - 8
    drag(qtbot, strip, at.toPoint(), QPoint(round(strip._x(later)), round(at.y())))
    after = [session.project.choice(letter, shot).keyframes for letter in "ABC"]
    assert [[key.frame for key in keys] for keys in after] == [[later]] * 3


def interface(widget):
    install_accessibility()
    found = QAccessible.queryAccessibleInterface(widget)
    gc.collect()
    return found


def test_assistive_technology_moves_the_film(window, session):
    line = interface(window.film.line)
    value = line.valueInterface()
    value.setCurrentValue(300)
    assert session.frame == 300 and value.currentValue() == 300
    value.setCurrentValue(10**9)
    assert session.frame == value.maximumValue() == session.analysis.master.frames - 1
    line.child(1).actionInterface().doAction("Press")
    assert session.frame == session.analysis.shots[1].start
    actions = line.actionInterface()
    actions.doAction("Next shot")
    assert session.shot == 2 and actions.keyBindingsForAction("Next shot") == ["Down"]


def test_assistive_technology_moves_crops_overlays_and_keyframes(aim, session):
    canvases = interface(aim.canvases)
    canvases.child(1).actionInterface().doAction("Press")
    assert session.letter == "B"
    canvases.actionInterface().doAction("Move right")
    assert shares(region(session, "B")) == pytest.approx([0.21, 0.41, 0.3, 0.4])
    settled(session)
    stage = interface(aim.stage)
    before = session.pane.key.centre
    stage.actionInterface().doAction("Nudge the crop down")
    keys = session.project.choice("B", session.shot).keyframes
    assert [key.centre for key in keys] == [(before[0], before[1] + 8)]
    settled(session)
    strip = interface(aim.strip)
    strip.child(0).actionInterface().doAction("Press")
    strip.actionInterface().doAction("Remove keyframe")
    assert not session.project.choice("B", session.shot).keyframes
    subject = session.people.subjects(session.shot)[-1]
    stage.child(len(session.people.subjects(session.shot)) - 1).actionInterface().doAction("Press")
    assert session.project.cast(session.shot).lead == subject.id


def test_what_cannot_be_moved_is_said(aim, session, window, qtbot):
    session.choose_version("C")
    by_tab(aim.canvases, qtbot)
    qtbot.keyClick(aim.canvases, Qt.Key.Key_Return)
    assert "Nothing on this canvas can be moved." in window.messages.said[0].words
