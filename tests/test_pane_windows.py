"""Windows of panes that do not follow the lead: set by hand, gone into on a canvas, kept apart."""

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication

from caracal.core.framing.choice import Keyframe, PaneFraming, Punch, ShotChoice
from caracal.core.framing.panes import pane_paths
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.entrance import Entry, PaneTiming
from caracal.core.layout.kinds import inset, stack
from caracal.core.layout.model import (
    EVERYWHERE,
    Crop,
    Role,
    SoftBackdrop,
)
from caracal.core.layout.overlay import BAR_REGION, ShapeKind
from caracal.core.layout.pane_contents import with_pane_stay
from caracal.core.project.edits import with_layout
from caracal.core.project.keyframe_edits import (
    moved_keyframe,
    with_keyframe,
    with_punch,
    with_zoom,
    without_keyframe,
    without_punch_at,
)
from caracal.core.project.model import first_project
from caracal.core.project.shots import split_at
from caracal.core.specs.sheet_store import find_sheet
from caracal.ui.session.crop_edits import nudge_crop
from conftest import drag, settled

TALKERS = 5  # the demo's shot of two who do not both fit
SHEET = find_sheet("vertical-short")


@pytest.fixture
def stacked(demo):
    return with_layout(first_project(demo.master.frames), "A", TALKERS, stack(SHEET.frame))


def middles(demo, project):
    """Across, the middle of each pane's window through the shot."""
    paths = pane_paths(demo, TALKERS, SHEET, project.choice("A", TALKERS))
    return [path.windows[:, 0] + path.windows[:, 2] / 2 for path in paths]


def test_a_keyframe_of_the_second_moves_its_window_alone(demo, stacked):
    at = demo.shots[TALKERS].start + 10
    before = middles(demo, stacked)
    made = with_keyframe(stacked, "A", TALKERS, Keyframe(at, (960.0, 540.0), 2.0), Role.SECOND)
    after = middles(demo, made)
    assert np.array_equal(before[0], after[0])
    assert after[1] == pytest.approx(960.0, abs=0.5) and abs(before[1].mean() - 960) > 100
    lead = with_keyframe(made, "A", TALKERS, Keyframe(at, (700.0, 540.0)))
    assert lead.choice("A", TALKERS).keyframes == (Keyframe(at, (700.0, 540.0)),)
    assert np.array_equal(middles(demo, lead)[1], after[1])


def test_what_is_set_for_another_pane_is_kept_moved_and_forgotten(demo, stacked):
    start = demo.shots[TALKERS].start
    made = with_zoom(stacked, "A", TALKERS, 2.0, Role.SECOND)
    assert made.choice("A", TALKERS).zoom is None
    paths = pane_paths(demo, TALKERS, SHEET, made.choice("A", TALKERS))
    assert paths[1].windows[:, 2] == pytest.approx(1080 * 9 / 8 / 2, abs=1)  # 1080:960, half
    assert with_zoom(made, "A", TALKERS, None, Role.SECOND) == stacked
    made = with_punch(stacked, "A", TALKERS, Punch(start + 10, start + 20, (900.0, 500.0), 2.0),
                      Role.SECOND)
    (framing,) = made.choice("A", TALKERS).others
    assert [punch.frame for punch in framing.punches] == [start + 10]
    assert without_punch_at(made, "A", TALKERS, start + 10, Role.SECOND) == stacked
    made = with_keyframe(stacked, "A", TALKERS, Keyframe(start + 5, (900.0, 500.0)), Role.SECOND)
    made = moved_keyframe(made, "A", TALKERS, start + 5, Keyframe(start + 9, (800.0, 500.0)),
                          Role.SECOND)
    assert made.choice("A", TALKERS).framing(Role.SECOND).keyframes == (
        Keyframe(start + 9, (800.0, 500.0)),)
    assert without_keyframe(made, "A", TALKERS, start + 9, Role.SECOND) == stacked


def test_a_split_shot_keeps_each_pane_s_keyframes_on_their_side(demo, stacked):
    shot = demo.shots[TALKERS]
    made = stacked
    for frame in (shot.start + 5, shot.start + 60):
        made = with_keyframe(made, "A", TALKERS, Keyframe(frame, (900.0, 500.0)), Role.SECOND)
    made = split_at(demo, made, shot.start + 30)
    frames = [[key.frame for key in made.choice("A", TALKERS + side).framing(Role.SECOND).keyframes]
              for side in (0, 1)]
    assert frames == [[shot.start + 5], [shot.start + 60]]


def test_framing_of_the_lead_is_that_of_the_shot():
    choice = ShotChoice(zoom=1.5, keyframes=(Keyframe(3, (1.0, 2.0)),))
    assert choice.framing(Role.LEAD) == PaneFraming(Role.LEAD, 1.5, choice.keyframes)
    assert choice.framed(choice.framing(Role.LEAD)) == choice
    assert choice.framed(PaneFraming(Role.THIRD)) == choice


def test_a_late_pane_gets_something_behind_it_and_gives_it_back():
    layout = stack(SHEET.frame)
    late = with_pane_stay(layout, 1, PaneTiming(1.0))
    assert isinstance(late.panes[0].content, SoftBackdrop) and len(late.panes) == 3
    assert late.panes[0].region == EVERYWHERE and not layout_error(late)
    assert with_pane_stay(late, 2, None) == layout
    over = with_pane_stay(inset(SHEET.frame), 1, PaneTiming(1.0))
    assert len(over.panes) == 2 and with_pane_stay(over, 1, None) == inset(SHEET.frame)


def test_a_double_click_goes_into_a_pane(aim, qtbot, window):
    session, canvases = window.film.session, aim.canvases
    session.go(session.analysis.shots[TALKERS].poster_frame)
    session.edit(with_layout(session.project, "A", TALKERS, stack(session.sheet("A").frame)), "x")
    settled(session)
    assert session.pane.role is Role.LEAD and not session.pane.entered
    rect = canvases.rects()[0]
    low = rect.center() + (rect.bottomLeft() - rect.topLeft()) * 0.3
    qtbot.mouseDClick(canvases, Qt.MouseButton.LeftButton, pos=low.toPoint())
    assert session.pane.role is Role.SECOND and session.pane.entered
    lit, shown = aim.stage.place_of(session.pane.window).center(), session.pane.window
    drag(qtbot, aim.stage, lit.toPoint(), (lit + type(lit)(-60, 0)).toPoint())
    settled(session)
    choice = session.project.choice("A", TALKERS)
    assert not choice.keyframes and len(choice.framing(Role.SECOND).keyframes) == 1
    across = 60 * shown[2] / aim.stage.place_of(shown).width()  # pixels of the master
    assert session.pane.window[0] == pytest.approx(max(0.0, shown[0] - across), abs=6)
    before = session.pane.window
    nudge_crop(aim.stage.session, 1, 0)
    settled(session)
    assert session.pane.window[0] == pytest.approx(before[0] + 8, abs=0.6)
    aim.moves.zoom.setValue(2.5)
    assert session.project.choice("A", TALKERS).framing(Role.SECOND).zoom == 2.5
    assert session.project.choice("A", TALKERS).zoom is None
    window.activateWindow()
    qtbot.keyClick(window, Qt.Key.Key_Escape)
    assert session.pane.role is Role.LEAD
    session.pane.enter(Role.SECOND)
    session.go(session.analysis.shots[0].poster_frame)
    assert session.pane.role is Role.LEAD  # another shot
    session.pane.enter(Role.THIRD)
    assert session.pane.role is Role.LEAD  # there is no such pane


def test_nobody_can_go_into_a_pane_that_is_missing_here(aim, qtbot, window):
    """The potter is alone in her shot: its stack is one pane, and the view says why."""
    alone, session = 2, window.film.session
    session.go(session.analysis.shots[alone].poster_frame)
    session.edit(with_layout(session.project, "A", alone, stack(session.sheet("A").frame)), "x")
    settled(session)
    session.pane.enter(Role.SECOND)
    assert session.pane.role is Role.LEAD and session.pane.window
    assert "Nobody is there for another pane" in session.told("A", alone).why
    rect = aim.canvases.rects()[0]
    low = rect.center() + (rect.bottomLeft() - rect.topLeft()) * 0.3
    qtbot.mouseDClick(aim.canvases, Qt.MouseButton.LeftButton, pos=low.toPoint())
    assert not session.pane.entered


def test_a_pane_comes_later_by_its_boxes_and_is_dragged_without_losing_it(aim, qtbot, window):
    session, times = window.film.session, aim.layouts.times
    session.edit(with_layout(session.project, "A", 0, inset(session.sheet("A").frame)), "x")
    settled(session)
    aim.layouts.sync()
    times.after.setValue(0.5)
    times.stays.setValue(1.0)
    pane = session.project.choice("A", 0).layout.panes[1]
    assert pane.stay == PaneTiming(0.5, 1.5, Entry.FADE, Entry.FADE)
    settled(session)
    session.go(session.analysis.shots[0].start + 24)
    (left, right), (top, bottom) = session.solution("A", 0).placed.panes[1].region
    rect = aim.canvases.rects()[0]
    at = rect.topLeft() + type(rect.topLeft())((left + right) / 2 * rect.width(),
                                               (top + bottom) / 2 * rect.height())
    drag(qtbot, aim.canvases, at.toPoint(), (at + type(at)(0, -40)).toPoint())
    moved = session.project.choice("A", 0).layout.panes[1]
    assert moved.stay == pane.stay and moved.region[1][0] < top
    aim.layouts.amounts["Left"].setValue(10)
    aim.layouts.amounts["Top"].setValue(20)
    aim.layouts.amounts["High"].setValue(30)
    assert session.project.choice("A", 0).layout.panes[1].region[1] == pytest.approx((0.2, 0.5))
    assert session.project.choice("A", 0).layout.panes[1].region[0][0] == pytest.approx(0.1)


def test_a_layout_is_copied_to_another_shot_version_and_film(window, qtbot):
    session, menus = window.film.session, window
    session.choose_version("A")
    made = with_pane_stay(stack(session.sheet("A").frame), 1, PaneTiming(1.0))
    session.edit(with_layout(session.project, "A", session.shot, made), "x")
    window.activateWindow()
    both = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(menus, Qt.Key.Key_C, both)
    text = QGuiApplication.clipboard().text()
    assert 'kind = "stack"' in text and "comes_s = 1.0" in text  # what a layout file holds
    window.film.show_view("Board")
    window.film.board.grid.select((("A", 2), ("B", 4)))
    qtbot.keyClick(menus, Qt.Key.Key_V, both)
    for letter, shot in (("A", 2), ("B", 4)):
        assert session.project.choice(letter, shot).layout == made
    session.document.undo()
    for letter, shot in (("A", 2), ("B", 4)):
        assert session.project.choice(letter, shot).layout != made
    heard = []
    session.said.connect(heard.append)
    for wrong in ("hello", "kind = 3", "[" * 5000, 'kind = "x"\npanes = []', ""):
        QGuiApplication.clipboard().setText(wrong)
        before = session.project
        qtbot.keyClick(menus, Qt.Key.Key_V, both)
        assert session.project is before
    assert len(heard) == 5 and all(words.startswith("No layout was copied.") for words in heard)


def test_what_is_offered_is_taken_in_all_like_shots(aim, window, qtbot):
    """The talkers' shot in two: both halves are of one set-up."""
    session = window.film.session
    start = session.analysis.shots[TALKERS].start
    session.edit(split_at(session.found, session.project, start + 60), "split")
    session.go(start + 10)
    for shot in (TALKERS, TALKERS + 1):
        session.told("A", shot)
    settled(session)
    aim.head.sync()
    assert aim.head.whole.text() == "Show both" and aim.head.like.isVisible()
    assert aim.head.like.text() == "And 1 similar"
    aim.head.like.click()
    for shot in (TALKERS, TALKERS + 1):
        assert session.project.choice("A", shot).layout.kind == "stack"
    session.document.undo()
    assert session.project.choice("A", TALKERS + 1).layout.kind == "fill"


def test_a_beat_and_a_dissolve_are_a_click_each(aim, window):
    session, panel = window.film.session, aim.overlays
    panel.add_shape(ShapeKind.CIRCLE)
    for beats in ((session.frame,), ()):
        panel.buttons["Pulse at playhead"].click()
        assert session.project.version("A").overlays[-1].beats == beats
    panel.add_shape(ShapeKind.BAR)
    bar = session.project.version("A").overlays[-1]
    assert bar.region == BAR_REGION and (bar.start, bar.end_exclusive) == (0, 1500)
    fades = aim.finish.fades
    fades.lengths["Joins"].setValue(0.4)
    fades.dissolves.click()
    assert session.project.version("A").fades.dissolves
    assert session.project.version("A").fades.joint == 10


def test_a_layout_of_one_pane_of_the_second_is_the_second_s(demo):
    layout = msgspec.structs.replace(
        stack(SHEET.frame), panes=(
            msgspec.structs.replace(stack(SHEET.frame).panes[0], content=Crop(Role.SECOND),
                                    region=EVERYWHERE),))
    project = with_layout(first_project(demo.master.frames), "A", TALKERS, layout)
    own = with_keyframe(project, "A", TALKERS, Keyframe(
        demo.shots[TALKERS].start, (960.0, 540.0)), Role.SECOND)
    assert middles(demo, own)[0] == pytest.approx(960.0, abs=0.5)
