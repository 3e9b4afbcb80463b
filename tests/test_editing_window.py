"""Editing in the real interface: the Board's many cells, Aim's strip and numbers, project files."""

import pytest
from PySide6.QtCore import QPoint, Qt

from caracal.core.framing.choice import Keyframe
from caracal.core.framing.motion import Manner
from caracal.core.project.board_order import Filter
from caracal.core.project.edits import (
    with_manner,
)
from caracal.core.project.keyframe_edits import (
    with_keyframe,
)
from conftest import settled, solved

LEFT, CTRL, SHIFT = (Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier,
                     Qt.KeyboardModifier.ShiftModifier)


def _shot(truth, name):
    return next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == name)


def _click(qtbot, window, shot, column, keys=Qt.KeyboardModifier.NoModifier):
    grid = window.film.board.grid
    window.film.session.go(window.film.session.analysis.shots[shot].start)
    place = grid.cell_rect(shot, column).center().toPoint()
    qtbot.mouseClick(grid.viewport(), LEFT, keys, place)


def test_many_cells_get_one_manner_and_one_undo(window, qtbot):
    session, bar = window.film.session, window.film.board.bar
    _click(qtbot, window, 2, 1)
    _click(qtbot, window, 3, 2, SHIFT)
    assert bar._count.text() == "4 selected"
    bar.manner.setCurrentIndex(3)
    bar.manner.activated.emit(3)
    cells = [(letter, shot) for letter in "AB" for shot in (2, 3)]
    assert all(session.project.choice(*cell).manner is Manner.GLIDE for cell in cells)
    qtbot.keyClick(window, Qt.Key.Key_Z, CTRL)
    assert not any(session.project.choice(*cell).touched for cell in cells)


def test_ctrl_adds_and_takes_cells_and_copies_framing(window, qtbot):
    session, board = window.film.session, window.film.board
    session.edit(with_manner(session.project, "A", 2, Manner.CHASE), "chase")
    _click(qtbot, window, 2, 1)
    _click(qtbot, window, 3, 3, CTRL)
    _click(qtbot, window, 3, 2, CTRL)
    _click(qtbot, window, 3, 2, CTRL)
    board.bar.copy.trigger()
    assert session.project.choice("C", 3).manner is Manner.CHASE
    assert not session.project.choice("B", 3).touched


def test_one_person_leads_in_all_selected_shots(window, qtbot, truth):
    """Tobias, chosen among two talkers and alone elsewhere, by what he looks like."""
    session, board = window.film.session, window.film.board
    alone, toast = _shot(truth, "lower third"), _shot(truth, "two talkers")
    _click(qtbot, window, alone, 1)
    _click(qtbot, window, toast, 1, CTRL)
    assert board.bar.lead.isEnabled()
    board.bar.lead.trigger()
    person = session.people.person_of(alone, session.project.cast(alone).lead)
    assert session.people.person_of(toast, session.project.cast(toast).lead) == person is not None


def test_filters_show_flagged_rows_only(window, qtbot):
    board, session = window.film.board, window.film.session
    board.bar.only.setCurrentIndex(list(Filter).index(Filter.FLAGGED))
    rows = board.grid._rows
    assert rows and all(any(session.flags(x, shot) for x in "ABC") for shot in rows)
    assert board.grid.cell_rect(2, 1).isEmpty()
    board.bar.only.setCurrentIndex(list(Filter).index(Filter.TOUCHED))
    assert board.grid._rows == () and not window.grab().isNull()


def test_a_keyframe_is_set_dragged_and_removed_in_the_strip(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    shot = _shot(truth, "marsh")
    session.go(session.analysis.shots[shot].start + 20)
    strip = film.aim.strip
    middle = QPoint(strip.width() // 2, strip.height() // 2)
    qtbot.mouseDClick(strip, LEFT, pos=middle)
    (key,) = session.project.choice("A", shot).keyframes
    spot = strip.point_of(key).toPoint()
    qtbot.mousePress(strip, LEFT, pos=spot)
    qtbot.mouseMove(strip, spot + QPoint(80, 20))
    qtbot.mouseRelease(strip, LEFT, pos=spot + QPoint(80, 20))
    (moved,) = session.project.choice("A", shot).keyframes
    assert moved.frame > key.frame and moved.centre[0] > key.centre[0]
    qtbot.keyClick(strip, Qt.Key.Key_Delete)
    assert session.project.choice("A", shot).keyframes == ()


def test_numbers_can_be_typed_and_arrows_nudge(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    session.go(session.analysis.shots[_shot(truth, "marsh")].start + 5)
    numbers = film.aim.moves
    numbers.centre_x.setValue(700.0)
    x, _, w, _ = settled(session).window("A", session.frame)
    assert x + w / 2 == pytest.approx(700, abs=0.1)
    qtbot.keyClick(window, Qt.Key.Key_Right, CTRL)
    assert settled(session).window("A", session.frame)[0] == pytest.approx(x + 8, abs=0.1)
    numbers.zoom.setValue(1.5)
    assert settled(session).window("A", session.frame)[2] == pytest.approx(607.5 / 1.5)


def test_roles_are_chosen_in_the_list_of_people(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    shot = _shot(truth, "toast")
    session.go(session.analysis.shots[shot].start + 5)
    lead = session.path("A", shot).lead
    qtbot.waitUntil(lambda: lead in film.aim.people.rows)
    other = next(row for row in film.aim.people.rows if row != lead)
    qtbot.mouseClick(film.aim.people.rows[other]["Lead"], LEFT)
    assert solved(session, "A", shot).lead == other
    qtbot.mouseClick(film.aim.people.rows[other]["Ignore"], LEFT)
    assert solved(session, "A", shot).lead != other
    assert film.aim.people.rows[other]["Ignore"].isChecked()


def test_a_flag_is_accepted_with_a_reason(window, qtbot):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    qtbot.keyClick(window, Qt.Key.Key_F)
    letter, shot = session.letter, session.shot
    assert session.flags(letter, shot)
    film.aim.head.reason.setText("the headline says it again")
    qtbot.mouseClick(film.aim.head.accept, LEFT)
    assert session.flags(letter, shot) == ()
    assert "the headline" in film.aim.head.issue.text()


def test_speakers_are_swapped_by_one_button(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    shot = _shot(truth, "two talkers")
    session.go(session.analysis.shots[shot].start + 5)
    assert film.aim.head.swap.isVisible()
    qtbot.mouseClick(film.aim.head.swap, LEFT)
    qtbot.waitUntil(lambda: bool(session.project.choice("A", shot).swaps), timeout=20_000)
    assert film.aim.head.unswap.isVisible()
    qtbot.mouseClick(film.aim.head.unswap, LEFT)
    assert session.project.choice("A", shot).swaps == ()


def test_shots_are_split_and_joined_by_key(window, qtbot):
    session = window.film.session
    session.go(600)
    count = len(session.analysis.shots)
    qtbot.keyClick(window, Qt.Key.Key_S)
    assert len(session.analysis.shots) == count + 1
    assert session.analysis.shots[session.shot].start == 600
    assert session.path("A", session.shot).start == 600
    qtbot.keyClick(window, Qt.Key.Key_S, SHIFT)
    assert len(session.analysis.shots) == count and session.project.starts == ()
    assert not window.grab().isNull()


def test_playing_drops_frames_rather_than_time(window, qtbot):
    """Against the clock: the frame that shows is the one that is due, give or take the last."""
    from PySide6.QtCore import QElapsedTimer

    session, clock, ahead = window.film.session, QElapsedTimer(), []
    session.go(100)
    clock.start()
    session.cursor.frame_changed.connect(
        lambda frame: ahead.append(frame - 100 - clock.elapsed() / 1000 * 25))
    qtbot.keyClick(window, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: session.frame >= 130, timeout=10_000)
    qtbot.keyClick(window, Qt.Key.Key_Space)
    assert session.speed == 0 and max(ahead) <= 0.5


def test_going_elsewhere_while_playing_plays_on_from_there(window, qtbot):
    session = window.film.session
    qtbot.keyClick(window, Qt.Key.Key_L)
    qtbot.waitUntil(lambda: session.frame > 3, timeout=6000)
    session.go(700)
    qtbot.waitUntil(lambda: session.frame > 703, timeout=6000)
    assert session.frame < 760
    qtbot.keyClick(window, Qt.Key.Key_K)


def test_a_box_drawn_round_anything_is_followed_and_leads(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    shot = _shot(truth, "pan")
    session.go(session.analysis.shots[shot].start + 50)
    qtbot.mouseClick(film.aim.draw, LEFT)
    assert film.aim.stage.drawing
    bottle = next({int(r[0]): r[1:] for r in t["boxes"]} for t in truth["tracks"]
                  if t["shot"] == shot and t["identity"] == "pot 7")[session.frame]
    place = film.aim.stage.place_of(tuple(bottle)).toRect()
    qtbot.mousePress(film.aim.stage, LEFT, pos=place.topLeft())
    qtbot.mouseMove(film.aim.stage, place.center())
    qtbot.mouseMove(film.aim.stage, place.bottomRight())
    qtbot.mouseRelease(film.aim.stage, LEFT, pos=place.bottomRight())
    qtbot.waitUntil(lambda: bool(session.project.drawn), timeout=20_000)
    assert solved(session, "A", shot).lead == session.project.drawn[0].subject
    assert not film.aim.stage.drawing
    qtbot.keyClick(window, Qt.Key.Key_Z, CTRL)
    assert session.project.drawn == ()


def test_select_all_takes_every_cell(window, qtbot):
    qtbot.keyClick(window, Qt.Key.Key_A, CTRL)
    count = 3 * len(window.film.session.analysis.shots)
    assert window.film.board.bar._count.text() == f"{count} selected"


def test_aim_says_what_was_rejected_and_who_is_left_out(window, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    session.go(session.analysis.shots[_shot(truth, "runner")].start)
    settled(session)
    assert "Rejected: locked" in film.aim.head.issue.text()
    session.go(session.analysis.shots[_shot(truth, "two talkers")].start)
    settled(session)
    assert "does not fit" in film.aim.head.issue.text()
    session.go(session.analysis.shots[_shot(truth, "talker")].start)
    settled(session)
    assert film.aim.head.issue.text() == ""


def test_a_hundred_and_more_shots_scroll(window, qtbot):
    """300 shots by a cut list: the Board paints only what shows."""
    from caracal.core.project.model import ShotStart
    from caracal.core.project.shots import with_starts

    session, grid = window.film.session, window.film.board.grid
    starts = [ShotStart(frame) for frame in range(0, 1500, 5)]
    session.edit(with_starts(session.found, session.project, starts), "many")
    assert len(grid._rows) == 300
    painted, tile = [], grid._tile
    grid._tile = lambda shot: painted.append(shot) or tile(shot)
    grid.verticalScrollBar().setValue(grid.verticalScrollBar().maximum() // 2)
    grid.viewport().repaint()
    assert 8 <= len(set(painted)) <= 24 and min(painted) > 100
    qtbot.waitUntil(lambda: set(grid._in_sight()) <= set(grid._kept._painted), timeout=10_000)


def test_similar_shots_are_selected_too(window, qtbot, truth):
    far, near = _shot(truth, "talker"), _shot(truth, "talker closer")
    _click(qtbot, window, far, 1)
    qtbot.mouseClick(window.film.board.bar.similar, LEFT)
    assert window.film.board.grid._cells == (("A", far), ("A", near))


def test_one_person_leads_in_the_whole_film(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    shot = _shot(truth, "lower third")
    session.go(session.analysis.shots[shot].start + 5)
    lead = session.path("A", shot).lead
    qtbot.waitUntil(lambda: lead in film.aim.people.rows)
    film.aim.side.shots.setCurrentIndex(2)
    film.aim.side.shots.activated.emit(2)
    qtbot.mouseClick(film.aim.people.rows[lead]["Lead"], LEFT)
    assert window.messages.said[0].words.startswith("Whole film, all versions: ")
    two = _shot(truth, "two talkers")
    person = session.people.person_of(shot, lead)
    assert session.project.cast(two).lead == session.people.subject_of(two, person) is not None


def test_ctrl_and_wheel_punch_in_from_here_on(window, qtbot, truth):
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QWheelEvent

    session, stage = window.film.session, window.film.aim.stage
    window.film.show_view("Aim")
    shot = _shot(truth, "marsh")
    session.go(session.analysis.shots[shot].start + 30)
    before = session.window("A", session.frame)
    for keys in (CTRL, CTRL):
        stage.wheelEvent(QWheelEvent(
            QPointF(50, 50), QPointF(50, 50), QPoint(0, 0), QPoint(0, 120), Qt.MouseButton.NoButton,
            keys, Qt.ScrollPhase.NoScrollPhase, False))
    (key,) = session.project.choice("A", shot).keyframes
    assert key.zoom == pytest.approx(1.06 ** 2, abs=0.01)
    assert settled(session).window("A", session.frame)[2] < before[2]


def test_right_click_changes_how_a_keyframe_goes_on(window, qtbot, truth):
    from caracal.core.framing.choice import Interpolation

    session, film = window.film.session, window.film
    film.show_view("Aim")
    shot = _shot(truth, "marsh")
    session.go(session.analysis.shots[shot].start + 10)
    key = Keyframe(session.frame, (800.0, 540.0))
    session.edit(with_keyframe(session.project, "A", shot, key), "k")
    spot = film.aim.strip.point_of(key).toPoint()
    for joint in (Interpolation.STRAIGHT, Interpolation.HOLD, Interpolation.EASED):
        qtbot.mouseClick(film.aim.strip, Qt.MouseButton.RightButton, pos=spot)
        assert session.project.choice("A", shot).keyframes[0].interpolation is joint
    assert not window.grab().isNull()


def test_a_second_look_waits_for_the_first(window, qtbot, truth):
    session, film = window.film.session, window.film
    film.show_view("Aim")
    session.go(session.analysis.shots[_shot(truth, "two talkers")].start + 5)
    told = []
    session.said.connect(told.append)
    film.aim.propose_swaps()
    film.aim.propose_swaps()
    assert any("Please wait" in words for words in told)
    qtbot.waitUntil(lambda: film.aim._work is None, timeout=20_000)


def test_closing_stops_a_look_that_runs(window, truth):
    session, film = window.film.session, window.film
    session.go(session.analysis.shots[_shot(truth, "two talkers")].start + 5)
    film.aim.propose_swaps()
    window.close_film()
    assert window.film is None


def test_a_selected_shot_that_undo_takes_away_is_selected_no_more(window, qtbot):
    session, bar = window.film.session, window.film.board.bar
    session.go(600)
    qtbot.keyClick(window, Qt.Key.Key_S)  # one shot more
    last = len(session.analysis.shots) - 1
    bar.select((("A", last), ("A", 0)))
    session.document.undo()
    assert len(session.analysis.shots) == last and bar._cells == (("A", 0),)
