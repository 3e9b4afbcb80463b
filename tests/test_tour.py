"""The tour: each step is completed by the real action, and by nothing else."""

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.ui.shell.tour import STEPS, snapshot
from conftest import settled

LEFT = Qt.MouseButton.LeftButton


def step(window, qtbot, number):
    """Wait until step ``number`` is shown, counted from 0."""
    qtbot.waitUntil(lambda: window.tour.number == number, timeout=60_000)
    assert window.tour_bar.isVisible()
    assert f"{number + 1} of {len(STEPS)}" in window.tour_bar.title.text()


@pytest.mark.usefixtures("small_sheets")
def test_the_tour_is_completed_by_doing_the_six_steps(window, qtbot, tmp_path, monkeypatch):
    window.close_film()
    bar = window.tour_bar
    assert not bar.isVisible()
    qtbot.mouseClick(window.start.tour_button, LEFT)
    step(window, qtbot, 0)
    qtbot.mouseClick(bar.show_button, LEFT)
    step(window, qtbot, 1)
    film = window.film
    assert film.session.film == DEMO_FILM
    settled(film.session)
    grid = film.board.grid
    qtbot.mouseClick(grid.viewport(), LEFT, pos=grid.cell_rect(2, 2).center().toPoint())
    step(window, qtbot, 2)
    qtbot.mouseClick(bar.show_button, LEFT)
    settled(film.session)
    session, stage = film.session, film.aim.stage
    assert film.view == "Aim"
    lead = session.path(session.letter, session.shot).lead_at(session.frame)
    other = next(one for one in session.people.subjects(session.shot)
                 if one.id != lead and one.box_at(session.frame) is not None)
    qtbot.mouseClick(stage, LEFT, pos=stage.place_of(
        other.box_at(session.frame)).center().toPoint())
    step(window, qtbot, 3)
    qtbot.mouseClick(bar.show_button, LEFT)
    settled(session)
    cards = film.aim.layouts.cards
    qtbot.mouseClick(cards, LEFT, pos=cards.rects()[1].center().toPoint())
    step(window, qtbot, 4)
    qtbot.mouseClick(bar.show_button, LEFT)
    captions = str(DEMO_FILM.with_suffix(".srt"))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (captions, ""))
    film.words.ask_take_in()
    step(window, qtbot, 5)
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 25)), "one second")
    qtbot.mouseClick(bar.show_button, LEFT)
    batch = film.batch
    batch.folder = tmp_path / "out"
    batch.start()
    qtbot.waitUntil(lambda: not bar.skip.isVisible(), timeout=30_000)
    assert bar.title.text() == "Tour completed"
    qtbot.mouseClick(bar.leave, LEFT)
    assert not bar.isVisible() and not window.tour.runs


def test_the_tour_goes_on_where_it_was_left(window, qtbot):
    tour = window.tour
    tour.start()
    qtbot.mouseClick(window.tour_bar.skip, LEFT)
    qtbot.mouseClick(window.tour_bar.skip, LEFT)
    assert tour.number == 2
    qtbot.mouseClick(window.tour_bar.leave, LEFT)
    assert not tour.runs and not window.tour_bar.isVisible()
    window.actions_by_name["Tour"].trigger()
    assert tour.runs and tour.number == 2


def test_other_edits_do_not_complete_a_step(window):
    session = window.film.session
    before = snapshot(window)
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(0, 100)), "range")
    now = snapshot(window)
    assert not any(step.done(before, now) for step in STEPS[1:])
