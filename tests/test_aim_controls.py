"""Aim's finer controls, driven as a person would: punch-in, swaps by hand, finish, free zoom."""

from collections import Counter

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from caracal.core.framing.choice import Finish
from caracal.core.render.preview.process import PreviewProcess
from caracal.ui.aim import subject_marks
from caracal.ui.session import playing
from caracal.ui.widgets.picture_paint import canvas_of
from conftest import settled, solved

LEFT = Qt.MouseButton.LeftButton
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def film(window):
    window.film.show_view("Aim")
    return settled(window.film.session) and window.film


def _go(film, truth, name, frame=40):
    shot = next(i for i, row in enumerate(truth["shots"]) if name in row["name"])
    film.session.go(film.session.analysis.shots[shot].start + frame)
    return shot


def test_two_clicks_punch_in_and_come_back(film, qtbot, truth):
    session, shot = film.session, _go(film, truth, "marsh")
    start = session.analysis.shots[shot].start
    before = session.window("A", session.frame)
    spot = film.aim.stage.picture().center().toPoint() + QPoint(40, 10)
    qtbot.mouseClick(film.aim.stage, LEFT, SHIFT, spot)
    assert settled(session).window("A", session.frame)[2] == pytest.approx(before[2] / 1.5)
    assert session.window("A", session.frame - 1) == before
    session.go(start + 60)
    qtbot.mouseClick(film.aim.stage, LEFT, SHIFT, spot)
    (punch,) = session.project.choice("A", shot).punches
    assert (punch.frame, punch.end_exclusive) == (start + 40, start + 60)
    assert settled(session).window("A", session.frame) == before


def test_a_drawn_area_is_punched_in_to_by_button_and_key(film, qtbot, truth):
    session, shot = film.session, _go(film, truth, "marsh")
    qtbot.mouseClick(film.aim.moves.punch, LEFT)
    stage, middle = film.aim.stage, film.aim.stage.picture().center().toPoint()
    qtbot.mousePress(stage, LEFT, pos=middle - QPoint(40, 70))
    qtbot.mouseMove(stage, middle)
    qtbot.mouseMove(stage, middle + QPoint(40, 70))
    qtbot.mouseRelease(stage, LEFT, pos=middle + QPoint(40, 70))
    (punch,) = session.project.choice("A", shot).punches
    x, _, w, _ = settled(session).window("A", session.frame)
    scale = session.analysis.master.width / stage.picture().width()
    assert w == pytest.approx(80 * scale, rel=0.03)
    assert x + w / 2 == pytest.approx(punch.centre[0], abs=0.1)
    assert film.aim.moves.punch.text() == "Punch out"
    film.aim.punch_or_back()
    assert session.project.choice("A", shot).punches == ()


def test_a_part_ends_with_the_picture_and_nobody_has_one_by_a_translation(
    film, truth, monkeypatch
):
    monkeypatch.setattr(subject_marks, "tr", lambda text, **values: f"¡{text.format(**values)}!")
    session, shot = film.session, _go(film, truth, "two talkers")
    lead = solved(session, "A", shot).lead
    area = QRectF(20, 20, 200, 100)

    def written(subject, over=False):
        image = QImage(240, 140, QImage.Format.Format_ARGB32)
        image.fill(0)
        with QPainter(image) as p:
            subject_marks.paint_part(p, session, subject, QRectF(190, 60, 40, 40), over, area)
        seen = np.frombuffer(image.constBits(), np.uint8).reshape(140, 240, 4)[..., 3] > 0
        return np.nonzero(seen)[1]

    (first,) = [who for who in session.people.subjects(shot) if who.id == lead]
    (other,) = [who for who in session.people.subjects(shot)
                if who.kind == "person" and who.id != lead]
    at = written(first)
    assert len(at) and at.min() >= 20 and at.max() < 220 and not len(written(other))
    assert len(written(other, over=True))


def test_ctrl_and_click_swaps_from_here_on(film, qtbot, truth):
    session, shot = film.session, _go(film, truth, "two talkers")
    lead = solved(session, "A", shot).lead
    other = next(subject for subject in session.people.subjects(shot)
                 if subject.kind == "person" and subject.id != lead)
    spot = film.aim.stage.place_of(other.box_at(session.frame)).center().toPoint()
    qtbot.mouseClick(film.aim.stage, LEFT, CTRL, spot)
    path = solved(session, "A", shot)
    assert path.lead_at(session.frame - 1) == lead and path.lead_at(session.frame) == other.id
    assert abs(session.window("A", session.frame)[0]
               - session.window("A", session.frame - 1)[0]) > 300
    session.document.undo()
    assert solved(session, "A", shot).lead_at(session.frame) == lead


def test_the_list_of_people_swaps_here_too(film, qtbot, truth):
    session, shot = film.session, _go(film, truth, "two talkers", 70)
    lead = solved(session, "A", shot).lead
    other = next(row for row in film.aim.people.rows if row != lead)
    qtbot.mouseClick(film.aim.people.rows[other]["At playhead"], LEFT)
    (swap,) = session.project.choice("A", shot).swaps
    assert (swap.frame, swap.lead) == (session.frame, other)


@pytest.mark.parametrize(("called", "whole"), [
    ("person 2", True), ("sports ball 2", True), ("skateboard", True),
    ("somebody whose name is very long", False)])
def test_a_longer_name_is_read_whole_where_buttons_can_spare_the_room(
        film, truth, monkeypatch, called, whole):
    shot, people = _go(film, truth, "two talkers"), film.aim.people
    monkeypatch.setattr(type(film.session.people), "name", lambda *_: called)
    people._shown = None
    people.sync()
    for label in people._names.values():
        label.ensurePolished()
        needed = label.fontMetrics().horizontalAdvance(label.text())
        assert (label.width() >= needed) is whole, (shot, label.width(), needed)
    assert people.horizontalScrollBar().maximum() == 0  # the buttons are in sight


def test_the_finish_is_typed_and_turned(film, qtbot, truth):
    session, shot = film.session, _go(film, truth, "marsh")
    panel = film.aim.finish
    panel.straighten.setValue(2.5)
    panel.sharpen.setValue(40)
    assert session.project.choice("A", shot).finish == Finish(0, 2.5, 0.4)
    film.aim.side.show_page("Finish")
    qtbot.waitUntil(panel.isVisible)
    panel.sync()
    leaning = solved(session, "A", shot).windows[0]
    assert leaning[3] < 1080
    panel.turn.click()
    for row in panel._rows[:3]:  # rotation, straightening, sharpening: a dot takes each back
        row.dot.click()
    assert session.project.choice("A", shot).finish == Finish()
    for _ in range(3):
        session.document.undo()
    assert session.project.choice("A", shot).finish.quarter_turns == 1
    assert solved(session, "A", shot).windows[0, 2] > solved(session, "A", shot).windows[0, 3]


def test_zoom_is_free_until_it_is_held(film, qtbot, truth):
    session, shot = film.session, _go(film, truth, "hands", 20)
    session.choose_version("B")
    near = solved(session, "B", shot).windows[0, 2]
    assert film.aim.moves.auto_zoom.isChecked() and near < 1000
    qtbot.mouseClick(film.aim.moves.auto_zoom, LEFT)
    held = session.project.choice("B", shot).zoom
    assert held == pytest.approx(1080 / near, abs=0.01)
    film.aim.moves.zoom.setValue(1.0)
    assert solved(session, "B", shot).windows[0, 2] == 1080
    qtbot.mouseClick(film.aim.moves.auto_zoom, LEFT)
    assert session.project.choice("B", shot).zoom is None


def test_the_window_never_waits_for_the_solver(film, truth, monkeypatch):
    """Right after an edit the old path is shown; the new one comes by itself."""
    session, shot = film.session, _go(film, truth, "runner")
    before = solved(session, "A", shot)
    from caracal.core.framing.motion import Manner
    from caracal.core.project.edits import with_manner

    session.edit(with_manner(session.project, "A", shot, Manner.LOCKED), "locked")
    assert session.path("A", shot) is before and session.solving.busy
    assert settled(session).path("A", shot).still


def test_answers_about_older_shots_are_dropped(film, truth):
    from caracal.core.project.shots import split_at

    session, shot = film.session, _go(film, truth, "runner")
    session.path("B", shot)
    session.edit(split_at(session.found, session.project, session.frame), "split")
    assert settled(session)
    path = solved(session, "A", shot)
    assert len(path.windows) == 40 and path.start == session.analysis.shots[shot].start


def test_limits_of_motion_are_set_in_one_dialog(film, window, qtbot, truth):
    from caracal.core.framing.motion import Motion
    from caracal.ui.shell.motion_dialog import GROUPS, MotionDialog

    session, shot = film.session, _go(film, truth, "runner")
    before = solved(session, "A", shot).windows[:, 0]
    window.actions_by_name["Motion limits…"].trigger()
    (dialog,) = window.findChildren(MotionDialog)
    fields = {setting.field for group in GROUPS.values() for setting in group}
    assert fields <= set(Motion.__struct_fields__) and len(fields) == len(dialog.boxes)
    dialog.boxes["chase_crossing_frames"].setValue(70)
    after = solved(session, "A", shot).windows[:, 0]
    assert session.project.motion.chase_crossing_frames == 70
    assert abs(np.diff(after)).max() <= 607.5 / 70 + 1e-6 < abs(np.diff(before)).max()
    dialog.boxes["still_want"].setValue(5)
    assert session.project.motion.still_want == pytest.approx(0.05)
    dialog.usual.click()
    assert session.project.motion == Motion()
    session.document.undo()
    dialog.accept()


def test_a_ground_is_painted_once_until_it_changes(film, truth):
    """The strip's layer is made anew for another path, not for another frame."""
    session, strip = film.session, film.aim.strip
    shot = _go(film, truth, "runner")
    settled(session)
    strip.grab()
    key = strip._ground._key
    session.go(session.frame + 5)
    strip.grab()
    assert strip._ground._key == key
    from caracal.core.framing.motion import Manner
    from caracal.core.project.edits import with_manner

    session.edit(with_manner(session.project, "A", shot, Manner.GLIDE), "glide")
    settled(session)
    strip.grab()
    assert strip._ground._key != key


def test_pictures_have_the_pixels_that_the_screen_shows(film, qtbot):
    session, area = film.session, film.aim.stage.picture()
    canvas = canvas_of(area, 1.0)
    assert canvas == (area.width(), area.height())
    at = session.analysis.shots[3].poster_frame
    qtbot.waitUntil(lambda: session.preview.get("", at, canvas) is not None, timeout=5_000)
    assert session.preview.get("", at, canvas).size().toTuple() == canvas  # never scaled
    assert session.preview.later("B", at, (160, 160)) is None
    qtbot.waitUntil(lambda: session.preview.later("B", at, (160, 160)) is not None, timeout=5_000)


def test_what_is_near_is_shown_until_the_picture_is_there(film, qtbot, truth):
    """No flicker to another moment of the film, and none beyond the shot."""
    session, shot = film.session, _go(film, truth, "runner", 30)
    preview, found, at = session.preview, session.analysis.shots[shot], session.frame

    def wish(canvas):  # by a name that nobody else in the window asks for
        return preview.get_scene("mine", at, session.scene("A", at, canvas), canvas)

    qtbot.waitUntil(lambda: wish((108, 192)) is not None, timeout=5_000)
    size = lambda image: image.size().toTuple()  # noqa: E731
    assert size(preview.near("mine", at + 3, found.start, found.end)) == (108, 192)
    assert wish((54, 96)) is None  # it was made smaller: the old one stands in
    assert size(preview.near("mine", at, at, at + 1)) == (108, 192)
    qtbot.waitUntil(lambda: wish((54, 96)) is not None, timeout=5_000)
    assert preview.near("A", found.end + 5, found.end, found.end + 1) is None
    preview.prepare(range(found.start + 50, found.start + 55))
    qtbot.waitUntil(lambda: preview.near("A", found.start + 54, found.start + 54, found.start + 55)
                    is not None, timeout=5_000)


def test_playing_begins_with_pictures_and_makes_none_twice(film, qtbot, truth, monkeypatch):
    """Time passes when the next pictures are there, and each picture is asked for once."""
    session = film.session
    _go(film, truth, "runner", 30)
    began, made = session.frame, Counter()
    qtbot.waitUntil(lambda: film.aim.canvases.isVisible() and not session.solving.busy)
    pictures = PreviewProcess.pictures

    def counted(process, request):
        made.update((request.frame, request.exact, *each) for each in request.pictures)
        return pictures(process, request)

    monkeypatch.setattr(PreviewProcess, "pictures", counted)
    monkeypatch.setattr(playing, "PREROLL_S", 30.0)  # a machine that is busy waits for pictures
    session.play(1)
    qtbot.waitUntil(lambda: session.frame > began, timeout=30_000)
    following = range(began + 1, began + 1 + playing.PREROLL)
    assert all(session.preview.near("A", frame, frame, frame + 1) for frame in following)
    qtbot.waitUntil(lambda: session.frame > began + 20)
    session.play(0)
    assert made
    assert max(made.values()) == 1
