"""Words in the window: captions taken in, edited, found, mended and given out; titles and cards."""

import msgspec
import numpy as np
import pytest
import shiboken6
from PIL import Image
from PySide6.QtCore import QPointF, Qt, QTimer
from PySide6.QtWidgets import QPushButton, QWidget
from skimage.metrics import structural_similarity

from caracal.core.exchange.caption_files import read_captions
from caracal.core.layout.entrance import Entry
from caracal.core.project.storage import read_document
from caracal.core.text.caption_look import CaptionManner, CaptionPlace
from caracal.core.text.cues import Cue
from caracal.core.text.style import Align, Title
from caracal.ui.widgets.questions import about_changes
from conftest import DEMO, drag, settled

LEFT = Qt.MouseButton.LeftButton
SRT = DEMO.with_suffix(".srt")


@pytest.fixture
def words(window, qtbot):
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow)
    qtbot.keyClick(window, Qt.Key.Key_3)
    assert window.film.view == "Words"
    return window.film.words


@pytest.fixture
def taken(words):
    words.cue_actions.take_in(SRT)
    words.cue_actions.choose(0)
    return words


def _said(window):
    return window.statusBar().currentMessage()


def test_captions_are_taken_in_and_shown_in_every_version(window, words, qtbot):
    session = window.film.session
    assert words.list.ways.isVisible() and not words.editor.text.isEnabled()
    words.cue_actions.take_in(SRT)
    assert len(session.project.captions) == 11 and words.list.table.isVisible()
    assert session.project.captions_file == str(SRT)
    words.cue_actions.choose(0)
    assert session.frame == 169  # 6.75 s at 25 fps: the first frame whose time lies in it
    assert words.editor.text.toPlainText().startswith("We fire")
    assert words.editor.times["In"].text() == "00:00:06:19"
    settled(session)
    layer = session.scene("A", 170, (142, 252)).over[-1]
    assert " ".join(layer.block.lines) == "We fire the big kiln once a year,"
    session.document.undo()
    assert not session.project.captions and not session.scene("A", 170, (142, 252)).over


def test_what_is_wrong_with_a_file_is_said(window, words, tmp_path):
    (tmp_path / "empty.srt").write_text("nothing")
    words.cue_actions.take_in(tmp_path / "empty.srt")
    assert "no captions in this file" in _said(window)
    odd = tmp_path / "odd.srt"
    odd.write_bytes(SRT.read_bytes().replace(b"big", b"gro\xdfe"))
    words.cue_actions.take_in(odd)
    assert "cp1252" in _said(window) and "große" in window.film.session.project.captions[0].text


def test_a_timer_that_runs_out_after_its_film_was_closed_finds_nothing(window, taken):
    """A caption's contrast is looked at a moment later: the film may have gone by then."""
    check = taken.captions.check
    settled(window.film.session)
    window.close_film()
    found = []
    check.found.connect(found.append)
    check._look()
    assert found == [] and window.film is None


def test_a_caption_is_typed_split_joined_and_moved(window, taken, qtbot):
    session, actions = window.film.session, taken.cue_actions
    editor = taken.editor
    editor.text.setFocus()
    editor.text.selectAll()
    qtbot.keyClicks(editor.text, "We fire it twice")
    assert session.project.captions[0].text == "We fire it twice"
    session.document.seal()
    session.document.undo()
    assert session.project.captions[0].text.startswith("We fire the big")  # typing is one step
    session.document.redo()
    cursor = editor.text.textCursor()
    cursor.setPosition(8)
    editor.text.setTextCursor(cursor)
    qtbot.keyClick(editor.text, Qt.Key.Key_D,
                   Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert [cue.text for cue in session.project.captions[:2]] == ["We fire", "it twice"]
    assert session.project.captions[0].end_s == session.project.captions[1].start_s
    qtbot.keyClick(window, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
    assert session.project.captions[0].text == "We fire it twice"
    session.go(180)
    qtbot.keyClick(window, Qt.Key.Key_BracketLeft, Qt.KeyboardModifier.ControlModifier)
    assert session.project.captions[0].start_s == 7.2
    session.go(199)
    qtbot.keyClick(window, Qt.Key.Key_BracketRight, Qt.KeyboardModifier.ControlModifier)
    assert session.project.captions[0].end_s == 8.0
    qtbot.keyClick(window, Qt.Key.Key_Period, Qt.KeyboardModifier.ControlModifier)
    assert session.project.captions[0].start_s == pytest.approx(7.24)
    editor.times["Out"].setText("8.6")
    editor.times["Out"].editingFinished.emit()
    assert session.project.captions[0].end_s == 8.6
    editor.times["In"].setText("soon")
    editor.times["In"].editingFinished.emit()
    assert "not a timecode" in _said(window) and editor.times["In"].text() == "00:00:07:06"
    editor.times["In"].setText("9")
    editor.times["In"].editingFinished.emit()
    assert "ends before it begins" in _said(window)
    assert actions.number == 0 and session.project.captions[0].start_s == pytest.approx(7.24)


def test_captions_are_added_taken_away_found_and_replaced(window, taken, qtbot):
    session, actions = window.film.session, taken.cue_actions
    session.go(600)
    qtbot.keyClick(window, Qt.Key.Key_Insert)
    assert actions.cue.start_s == 24.0 and len(session.project.captions) == 12
    taken.list.table.setFocus()
    qtbot.keyClick(taken.list.table, Qt.Key.Key_Delete)
    assert len(session.project.captions) == 11
    taken.list.wanted.setText("KILN")
    taken.list.by.setText("oven")
    qtbot.keyClick(taken.list.wanted, Qt.Key.Key_Return)
    assert "kiln" in actions.cue.text
    actions.replace("KILN", "oven")
    assert sum("oven" in cue.text for cue in session.project.captions) == 2
    assert "2 times" in _said(window)
    actions.replace("nowhere", "x")
    assert "No caption contains" in _said(window)
    session.document.undo()
    assert not any("oven" in cue.text for cue in session.project.captions)


def test_what_must_be_looked_at_is_listed_and_mended(window, taken):
    session, actions = window.film.session, taken.cue_actions
    cues = list(session.project.captions)
    cues[0] = msgspec.structs.replace(cues[0], end_s=cues[1].start_s + 0.5)
    from caracal.core.project.caption_edits import with_captions

    session.edit(with_captions(session.project, cues), "overlap")
    assert "overlap" in taken.list.rows.rows[0][3].text
    assert "too quick" in taken.list.rows.rows[6][3].text  # "wait." in 0.35 s
    actions.mend()
    assert "Fix timing" in _said(window) and taken.list.rows.rows[6][3].text == ""
    assert not any("overlap" in row[3].text for row in taken.list.rows.rows)
    actions.mend()
    assert "Nothing can be fixed" in _said(window)
    cues = list(session.project.captions)
    cues[1] = msgspec.structs.replace(cues[1], start_s=cues[0].start_s, end_s=cues[0].end_s)
    session.edit(with_captions(session.project, cues), "both at once")
    actions.mend()  # two become one
    assert "Fix timing" in _said(window) and len(session.project.captions) == len(cues) - 1


def test_a_question_whose_window_goes_away_is_answered_by_staying(qtbot):
    parent = QWidget()
    QTimer.singleShot(300, lambda: shiboken6.delete(parent))
    assert about_changes("a sheet", parent) == "stay"
    other = QWidget()
    qtbot.addWidget(other)
    QTimer.singleShot(300, lambda: next(
        button for button in other.findChildren(QPushButton)
        if button.text().replace("&", "") == "Discard").click())
    assert about_changes("a sheet", other) == "discard"


def test_the_list_follows_the_playhead_and_clicks_go_there(window, taken, qtbot):
    session, actions = window.film.session, taken.cue_actions
    session.go(290)  # 11.6 s
    assert actions.number == 2
    table = taken.list.table
    at = table.visualRect(taken.list.rows.index(4, 2)).center()
    qtbot.mouseClick(table.viewport(), LEFT, pos=at)
    assert actions.number == 4 and session.frame == 438
    qtbot.keyClick(window, Qt.Key.Key_Down, Qt.KeyboardModifier.ControlModifier
                   | Qt.KeyboardModifier.ShiftModifier)
    assert actions.number == 5


def test_captions_are_given_out_for_the_film_and_a_version(window, taken, tmp_path):
    session = window.film.session
    taken.cue_actions.give_out(tmp_path / "film.vtt")
    assert read_captions(tmp_path / "film.vtt").cues == session.project.captions
    taken.show_page("Cards")
    taken.cards.length.setValue(2.0)
    taken.cue_actions.give_out(tmp_path / "a.srt", "A")
    found = read_captions(tmp_path / "a.srt").cues
    assert [cue.start_s for cue in found] == pytest.approx(
        [cue.start_s + 2.0 for cue in session.project.captions])
    taken.cue_actions.give_out(tmp_path / "a.docx")
    assert "cannot be written" in _said(window)


def test_captions_are_styled_and_every_version_can_look_so(window, taken, qtbot):
    session, panel = window.film.session, taken.captions
    panel.manner.activated.emit(list(CaptionManner).index(CaptionManner.WORDS))
    panel.place.activated.emit(list(CaptionPlace).index(CaptionPlace.TOP))
    panel.fields.parts["box"].click()
    panel.fields.size_box.setValue(8.0)
    panel.fields.colour.changed.emit("#ffee00")
    look = session.project.version("A").look
    assert (look.manner, look.place, look.style.size) == (
        CaptionManner.WORDS, CaptionPlace.TOP, 0.08)
    assert look.style.box is not None and look.style.colour == "#ffee00"
    assert session.project.version("B").look != look
    panel.to_all()
    assert all(version.look == look for version in session.project.versions)
    panel.burnt.activated.emit(2)
    assert session.project.version("A").burnt is False
    settled(session)
    assert not session.scene("A", 170, (142, 252)).over
    assert session.scene("B", 170, (142, 142)).over


def test_a_font_that_cannot_be_used_is_told(window, taken, tmp_path):
    (tmp_path / "bad.ttf").write_bytes(b"no font at all")
    taken.captions.fields.use_font(tmp_path / "bad.ttf")
    assert "font" in _said(window) and "Choose another" in _said(window)
    assert window.film.session.project.version("A").look.style.font == "Figtree SemiBold"


def test_titles_are_written_styled_timed_and_dragged(window, words, qtbot):
    session = window.film.session
    session.go(300)
    words.show_page("Titles")
    qtbot.mouseClick(words.titles.buttons["Headline"], LEFT)
    qtbot.keyClicks(words.titles.text, "Kiln day")
    (title,) = session.project.version("A").overlays
    assert isinstance(title.content, Title) and title.content.text == "Kiln day"
    assert (title.start, title.end_exclusive) == (290, 390) and title.name == "“Kiln day”"
    words.titles.fields.align.activated.emit(list(Align).index(Align.LEFT))
    words.titles.comes.activated.emit(list(Entry).index(Entry.WIPE))
    session.go(320)
    qtbot.mouseClick(words.titles.buttons["To playhead"], LEFT)
    (title,) = session.project.version("A").overlays
    assert (title.end_exclusive, title.entry) == (321, Entry.WIPE)
    assert title.content.style.align is Align.LEFT
    qtbot.mouseClick(words.titles.buttons["Whole version"], LEFT)
    rect = words.canvases.rects()[0]
    (left, right), (top, bottom) = title.region
    start = QPointF(rect.left() + (left + right) / 2 * rect.width(),
                    rect.top() + (top + bottom) / 2 * rect.height()).toPoint()
    drag(qtbot, words.canvases, start, start + QPointF(0, 60).toPoint())
    (moved,) = session.project.version("A").overlays
    assert moved.region[1][0] > top + 0.1 and words.titles.chosen == moved
    qtbot.mouseClick(words.titles.buttons["Delete"], LEFT)
    assert not session.project.version("A").overlays
    for _ in range(20):
        session.document.undo()
    assert not session.project.version("A").overlays


def test_a_title_that_cannot_be_read_is_told_and_gets_a_box(window, words, qtbot):
    """White on a white card: a ratio of 1 where 3 is asked; on a dark box it is enough."""
    session, cards = window.film.session, words.cards
    words.show_page("Cards")
    cards.length.setValue(2.0)
    for colour in cards.colours.values():
        colour.changed.emit("#ffffff")
    titles = cards.titles
    titles.list.setCurrentRow(0)
    style = session.project.version("A").opening.overlays[0].content.style
    titles._restyle(msgspec.structs.replace(style, colour="#ffffff", shadow=None, box=None), "x")
    qtbot.waitUntil(lambda: "Contrast 1.0, too little" in titles.contrast.text(), timeout=20_000)
    assert titles.help.isVisible()
    qtbot.mouseClick(titles.help, LEFT)
    qtbot.waitUntil(lambda: "enough" in titles.contrast.text(), timeout=20_000)
    assert not titles.help.isVisible()
    words.show_page("Titles")
    qtbot.mouseClick(words.titles.buttons["Headline"], LEFT)
    qtbot.waitUntil(lambda: "Contrast" in words.titles.contrast.text(), timeout=20_000)
    qtbot.mouseClick(words.titles.buttons["Delete"], LEFT)
    assert not words.titles.contrast.text()


def test_cards_are_made_coloured_and_seen(window, words, qtbot, tmp_path):
    session, cards = window.film.session, words.cards
    words.show_page("Cards")
    assert not cards.titles.isEnabled()
    cards.length.setValue(2.0)
    card = session.project.version("A").opening
    assert card.frames == 50 and isinstance(card.overlays[0].content, Title)
    qtbot.keyClicks(cards.titles.text, "!")
    cards.colours["colour"].changed.emit("#204060")
    Image.new("RGB", (40, 20), (250, 10, 10)).save(tmp_path / "logo.png")
    cards.titles.add_file(tmp_path / "logo.png")
    window.film.session.assets.wait()
    cards.length.setValue(3.0)
    card = session.project.version("A").opening
    assert (card.frames, card.backdrop.colour, len(card.overlays)) == (75, "#204060", 2)
    assert card.overlays[0].end_exclusive == 75  # what lay there to the end still does
    cards.to_all()
    assert all(version.opening.frames == 75 for version in session.project.versions)
    cards.show_card("closing")
    assert cards.length.value() == 0
    cards.length.setValue(1.0)
    cards.length.setValue(0.0)
    assert session.project.version("A").closing is None
    seconds = window.film.batch.versions.plan.seconds("A")
    assert seconds == session.analysis.master.frames / 25 + 3


def test_words_are_kept_in_the_project(window, taken, tmp_path):
    session = window.film.session
    taken.show_page("Titles")
    taken.titles.add("Lower third")
    taken.cards.length.setValue(1.5)
    window.film.files.save_to(tmp_path / "p.caracal")
    window.film.files.wait()
    kept = read_document(tmp_path / "p.caracal").project
    assert kept == session.project
    assert kept.captions[0] == Cue(6.75, 8.732, "We fire the big kiln once a year,")


def test_the_preview_of_a_caption_is_what_the_file_has(
        third_sheets, window, taken, qtbot, tmp_path):
    """SSIM as in the other tests of the preview: styled captions and a title, in two shapes."""
    from caracal.core.base.time import FrameRange
    from caracal.core.convert import convert
    from caracal.core.project.recipe import recipe_of
    from test_preview import LEAST_SSIM, WIDE, _pictures, _seen

    session, at = window.film.session, 182
    taken.cue_actions.set_times(7.0, 7.6)  # frames 175 to 189
    session.go(at)
    taken.captions.manner.activated.emit(list(CaptionManner).index(CaptionManner.WORDS))
    taken.captions.fields.parts["box"].click()
    taken.captions.to_all()
    taken.titles.add("Headline")
    taken.titles.text.setPlainText("What the fire gave us back")
    for letter in "AB":
        session.path(letter, session.shot)
    settled(session)
    recipes = [msgspec.structs.replace(
        recipe_of(session.project, letter, msgspec.structs.replace(
            session.sheet(letter), duration=msgspec.structs.replace(
                session.sheet(letter).duration, least_s=0.1))), ranges=(FrameRange(174, 191),))
        for letter in "AB"]
    for letter, made in zip("AB", convert(DEMO, recipes, tmp_path), strict=True):
        ratio = float(session.sheet(letter).shape.ratio)
        canvas = (WIDE, 2 * round(WIDE / ratio / 2))
        picture = Image.fromarray(_pictures(made.file)[at - 174])
        meant = picture.resize(canvas, Image.Resampling.BOX).convert("L")
        seen = Image.fromarray(np.ascontiguousarray(_seen(session, letter, at, canvas, qtbot)))
        found = structural_similarity(
            np.asarray(meant), np.asarray(seen.convert("L")), data_range=255,
            gaussian_weights=True, sigma=1.5, use_sample_covariance=False)
        assert found >= LEAST_SSIM, (letter, found)
