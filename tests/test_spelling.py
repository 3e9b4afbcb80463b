"""Words that are spelt wrongly: found in several languages, mended in the window by one click."""

import pytest
from PySide6.QtCore import Qt

from caracal.core.project.caption_edits import with_captions
from caracal.core.text.cues import Cue
from caracal.core.text.spelling import language_of, misspelt

RIGHT = {  # sentences anybody would write (from memory)
    "en": "We fire the big kiln once a year, and the whole quay comes. It's the centre's colour.",
    "de": "Wir brennen den großen Ofen einmal im Jahr, und alle kommen. Das Feuer entscheidet es.",
    "fr": "Nous allumons le grand four une fois par an, c'est l'heure où tout le quai vient.",
    "pt": "Acendemos o grande forno uma vez por ano, e todos vêm à casa com os amigos.",
    "it": "Accendiamo il grande forno una volta all'anno, e tutta la gente viene a vedere.",
    "nl": "Wij stoken de grote oven een keer per jaar, en iedereen komt naar de haven.",
}


@pytest.mark.parametrize("code", RIGHT)
def test_right_sentences_have_no_wrong_word_and_their_language_is_known(code):
    assert language_of([RIGHT[code]]) == code
    wrong = set(misspelt([RIGHT[code]], code))
    assert len(wrong) <= 1, wrong  # a list may lack a rare word


@pytest.mark.parametrize(("text", "code", "wrong"), [
    ("My first bottel cracked.", "en", {"bottel": "bottle"}),
    ("the wolrd and its Tobais", "en", {"wolrd": "world"}),  # a name is nobody's mistake
    ("Kiln at MARRAM, by the qauy", "en", {"qauy": "quay"}),
    ("Das Feur entscheidet", "de", {"feur": "feuer"}),
    ("nous allons voire la maisson", "fr", {"maisson": "maison"}),
    ("Tobais fires it", "en", {"tobais"}), ("x 1234 ok?", "en", set()), ("", "en", set())])
def test_wrong_words_are_found_with_better_ones(text, code, wrong):
    found = misspelt([text], code)
    assert set(found) == set(wrong)
    if isinstance(wrong, dict):
        assert found == wrong


def test_names_of_the_film_and_unknown_languages_are_left_alone():
    assert misspelt(["Tobais fires it"], "en", ["Tobais Fenn"]) == {}
    assert misspelt(["Ala ma kotta"], "pl") == {}


def test_a_wrong_word_is_marked_and_mended_in_the_window(window, qtbot):
    session = window.film.session
    session.edit(with_captions(session.project, (
        Cue(1, 3, "All is well here."), Cue(4, 6, "The bottel is on the table."),
        Cue(7, 9, "Another bottel, and the fire."))), "captions")
    window.film.show_view("Words")
    part = window.film.words.list
    qtbot.mouseClick(part.spelling, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: part._worker is None and bool(part.wrong), timeout=30_000)
    marks = [row[3].text for row in part.rows.rows]
    assert "bottel" not in marks[0] and "“bottel”" in marks[1] and "“bottel”" in marks[2]
    assert (part.wanted.text(), part.by.text()) == ("bottel", "bottle")
    assert "“en”" in window.statusBar().currentMessage()
    window.film.words.cue_actions.replace(part.wanted.text(), part.by.text())
    assert [cue.text for cue in session.project.captions][1:] == [
        "The bottle is on the table.", "Another bottle, and the fire."]
    assert "bottel" not in "".join(row[3].text for row in part.rows.rows)
    session.document.undo()
    assert "“bottel”" in part.rows.rows[1][3].text
