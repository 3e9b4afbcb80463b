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


@pytest.mark.usefixtures("small_sheets")
def test_the_usual_job_takes_few_clicks(window, qtbot, tmp_path, monkeypatch):
    window.close_film()
    hand, views = Hand(qtbot), []
    hand.item(window.start.recent, 0)  # open
    qtbot.waitUntil(lambda: window.film is not None and window.film.session.found.whole,
                    timeout=60_000)
    film = window.film
    session, grid = film.session, film.board.grid
    assert session.film == DEMO_FILM and film.view == "Board"
    film.shown.connect(views.append)
    for name in ("vertical-short", "square-feed", "portrait-feed"):  # quick to encode
        sheet = session.sheets.by_name[name]
        session.sheets.by_name[name] = with_value(
            sheet, "canvas", (sheet.canvas[0] // 6, sheet.canvas[1] // 6 // 2 * 2))

    # Fix the lead of one shot: into it by a double click, then click the other talker.
    settled(session)
    hand.double_click(grid.viewport(), grid.cell_rect(TALKERS, 1).center().toPoint())
    session.solution("A", TALKERS)
    settled(session)
    stage = film.aim.stage
    lead = session.path("A", TALKERS).lead
    assert film.view == "Aim" and session.shot == TALKERS
    other = next(one for one in session.people.subjects(TALKERS)
                 if one.id != lead and one.box_at(session.frame) is not None)
    spot = stage.place_of(other.box_at(session.frame)).center().toPoint()
    hand.click(stage, spot)
    assert session.project.cast(TALKERS).lead == other.id
    settled(session)

    # Give the shot a layout, and the similar shots the same.
    hand.click(film.aim.head.whole)
    offer = next(button for button in window.messages.offers if "similar" in button.text())
    hand.click(offer)
    layouts = {shot: session.project.choice("A", shot).layout.kind
               for shot in range(len(session.analysis.shots))}
    assert sum(kind == "stack" for kind in layouts.values()) == 2

    # Captions from the speech, one of them corrected.
    hand.click(film.buttons["Words"])
    words = film.words
    hand.click(words.list.ways.transcribe)
    qtbot.waitUntil(lambda: len(session.project.captions) > 5, timeout=120_000)
    table = words.list.table
    hand.click(table.viewport(), table.visualRect(words.list.rows.index(1, 2)).center())
    words.editor.text.setPlainText("and the whole quay comes.")
    assert session.project.captions[1].text == "and the whole quay comes."

    # A headline in all versions.
    hand.click(words.side.tabs["Titles"])
    hand.click(words.titles.buttons["Headline"])
    qtbot.keyClicks(words.titles.text, "Kiln day")
    assert all(version.overlays[0].content.text == "Kiln day"
               for version in session.project.versions)

    # Choose the folder, encode (here a few seconds of it), see the proof.
    session.edit(msgspec.structs.replace(session.project, span=FrameRange(400, 480)), "range")
    monkeypatch.setattr(QFileDialog, "getExistingDirectory",
                        lambda *_: str(tmp_path / "versions"))
    hand.click(film.buttons["Batch"])
    hand.click(film.batch.choose)
    with qtbot.waitSignal(film.batch.working.over, timeout=200_000):
        hand.click(film.batch.start_button)
    assert "properties right" in film.batch.proofs.head.text()
    assert len(list((tmp_path / "versions").glob("*.mp4"))) == 3
    assert hand.clicks <= MOST_CLICKS and len(views) <= MOST_VIEWS, (hand.clicks, views)
