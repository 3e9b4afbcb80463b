"""How many clicks and view changes the usual job takes, counted while the window is driven."""

import msgspec
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.specs.fields import with_value
from conftest import settled

LEFT = Qt.MouseButton.LeftButton
TALKERS = 5  # the demo's sixth shot: two talkers who do not both fit
MOST_CLICKS, MOST_VIEWS = 14, 3


class Hand:
    """Clicks that are counted; a double click is one."""

    def __init__(self, qtbot):
        self._qtbot, self.clicks = qtbot, 0

    def click(self, widget, at=None):
        self.clicks += 1
        self._qtbot.mouseClick(widget, LEFT, pos=at or widget.rect().center())

    def double_click(self, widget, at):
        self.clicks += 1
        self._qtbot.mouseDClick(widget, LEFT, pos=at)

    def item(self, view, row):
        self.click(view.viewport(), view.visualItemRect(view.item(row)).center())


def open_recent(window, hand, qtbot):
    """From the start page; sheets are made quick to encode."""
    hand.item(window.start.recent, 0)
    qtbot.waitUntil(lambda: window.film is not None and window.film.session.found.whole,
                    timeout=60_000)
    session = window.film.session
    assert session.film == DEMO_FILM and window.film.view == "Board"
    for name in ("vertical-short", "square-feed", "portrait-feed"):
        sheet = session.sheets.by_name[name]
        session.sheets.by_name[name] = with_value(
            sheet, "canvas", (sheet.canvas[0] // 6, sheet.canvas[1] // 6 // 2 * 2))
    settled(session)


def fix_the_lead(film, hand):
    """Into the shot by a double click, then a click on the other talker."""
    session, grid, stage = film.session, film.board.grid, film.aim.stage
    hand.double_click(grid.viewport(), grid.cell_rect(TALKERS, 1).center().toPoint())
    session.solution("A", TALKERS)
    settled(session)
    assert film.view == "Aim" and session.shot == TALKERS
    lead = session.path("A", TALKERS).lead
    other = next(one for one in session.people.subjects(TALKERS)
                 if one.id != lead and one.box_at(session.frame) is not None)
    hand.click(stage, stage.place_of(other.box_at(session.frame)).center().toPoint())
    assert session.project.cast(TALKERS).lead == other.id
    settled(session)


def use_a_layout_in_similar_shots(window, hand):
    hand.click(window.film.aim.head.whole)
    hand.click(next(button for button in window.messages.offers if "similar" in button.text()))
    session = window.film.session
    kinds = [session.project.choice("A", shot).layout.kind
             for shot in range(len(session.analysis.shots))]
    assert kinds.count("stack") == 2


def transcribe_and_correct(film, hand, qtbot):
    words, session = film.words, film.session
    hand.click(film.buttons["Words"])
    hand.click(words.list.ways.transcribe)
    qtbot.waitUntil(lambda: len(session.project.captions) > 5, timeout=120_000)
    table = words.list.table
    hand.click(table.viewport(), table.visualRect(words.list.rows.index(1, 2)).center())
    words.editor.text.setPlainText("and the whole quay comes.")
    assert session.project.captions[1].text == "and the whole quay comes."


def add_a_headline(film, hand, qtbot):
    hand.click(film.words.side.tabs["Titles"])
    hand.click(film.words.titles.buttons["Headline"])
    qtbot.keyClicks(film.words.titles.text, "Kiln day")
    assert all(version.overlays[0].content.text == "Kiln day"
               for version in film.session.project.versions)


def encode(film, hand, qtbot, folder):
    """Choose the folder, encode (here a few seconds of the film), see the proof."""
    session = film.session
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(400, 480)), "range")
    hand.click(film.buttons["Batch"])
    hand.click(film.batch.choose)
    with qtbot.waitSignal(film.batch.working.over, timeout=200_000):
        hand.click(film.batch.start_button)
    assert "properties right" in film.batch.proofs.head.text()
    assert len(list(folder.glob("*.mp4"))) == 3


@pytest.mark.usefixtures("small_sheets")
def test_the_usual_job_takes_few_clicks(window, qtbot, tmp_path, monkeypatch):
    folder = tmp_path / "versions"
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    window.close_film()
    hand, views = Hand(qtbot), []
    open_recent(window, hand, qtbot)
    film = window.film
    film.shown.connect(views.append)
    fix_the_lead(film, hand)
    use_a_layout_in_similar_shots(window, hand)
    transcribe_and_correct(film, hand, qtbot)
    add_a_headline(film, hand, qtbot)
    encode(film, hand, qtbot, folder)
    assert hand.clicks <= MOST_CLICKS and len(views) <= MOST_VIEWS, (hand.clicks, views)
