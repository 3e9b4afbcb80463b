"""Words that are wider than any line: hyphenated, never lost, and told where they get too small."""

from datetime import date
from fractions import Fraction

import msgspec
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.batch.concerns import ConcernKind, concerns_about_words
from caracal.core.layout.overlay import Overlay
from caracal.core.project.requested import requested_of_film
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.block import fitted, lines_within
from caracal.core.text.breaking import syllables
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.captions import Stage, set_captions
from caracal.core.text.cues import Cue
from caracal.core.text.style import TextStyle, Title

TALL = Stage((1080, 1920), ((0.05, 0.88), (0.2, 0.8)), Fraction(25))
LONG = "Donaudampfschifffahrtsgesellschaftskapitän"
TODAY = date(2026, 12, 1)


@pytest.mark.parametrize(("word", "language", "parts"), [
    ("hyphenation", "en", ["hy\u00ad", "phen\u00ad", "ation"]),  # Knuth, The TeXbook, appendix H
    ("Silbentrennung", "de", ["Sil\u00ad", "ben\u00ad", "tren\u00ad", "nung"]),  # Duden
    ("“hyphenation”,", "en", ["“hy\u00ad", "phen\u00ad", "ation”,"]),
    ("short", "en", ["short"]), ("https://example.com/hyphenation", "en",
                                 ["https://example.com/hyphenation"]),
    ("第一次世界大戦", "en", ["第一次世界大戦"]), ("2026", "en", ["2026"]), ("", "en", []),
])
def test_words_are_parted_as_their_language_does(word, language, parts):
    assert syllables(word, language) == parts


@pytest.mark.parametrize("manner", list(CaptionManner))
def test_a_long_word_in_captions_is_hyphenated_and_nothing_is_lost(manner):
    """A line holds some 14 letters: all of the word is there once the hyphens are taken out."""
    text = f"Das ist der {LONG} und er ist mit dem Schiff auf der Donau"
    look = CaptionLook(style=TextStyle(size=0.11), manner=manner)
    track = set_captions((Cue(0, 9, text),), look, TALL, (FrameRange(0, 400),), Fraction(25), ())
    lines = [line for each in track.captions for line in each.block.lines]
    room = 0.83 / 0.11
    assert all(width <= room + 1e-6 for each in track.captions for width in each.block.widths)
    assert sum(line.endswith("-") for line in lines) >= 2
    assert "".join(lines).replace("-", "").replace(" ", "") == text.replace(" ", "")
    for each in track.captions:  # each word is marked where its own letters stand
        joined = " ".join(each.block.lines)
        for word in each.words:
            marked = joined[word.first : word.end]
            assert marked.strip("-") and not marked.startswith((" ", "-"))


def test_a_title_is_hyphenated_rather_than_made_tiny():
    box = (0.5, 0.5)
    whole = TextStyle(size=0.12)
    block, size = fitted(Title(LONG, whole), *box)
    assert len(block.lines) > 1 and all(line.endswith("-") for line in block.lines[:-1])
    assert "".join(block.lines).replace("-", "") == LONG
    alone = 0.5 / lines_within(LONG, whole, 99.0, 1).width
    assert size > 1.25 * alone
    assert "-" not in "".join(fitted(Title("Kiln day at Marram Quay", whole), *box)[0].lines)


@pytest.mark.parametrize(("text", "wide", "told"), [
    ("Kiln day", 0.8, False), ("x" * 90, 0.5, True),
    ("https://example.com/" + "a" * 60, 0.4, True)])
def test_a_title_too_small_to_read_is_told_before_a_batch(text, wide, told):
    sheet = find_sheet("vertical-short")
    recipe = requested_of_film(sheet, FrameRange(0, 100)).recipe()
    title = Overlay(Title(text, most_lines=1), 0, 100, ((0.1, 0.1 + wide), (0.3, 0.4)))
    recipe = msgspec.structs.replace(recipe, overlays=(title,))
    small = [each for each in concerns_about_words("A", recipe) if each.kind is ConcernKind.SMALL]
    assert bool(small) == told
    if told:
        assert "too small for a phone" in small[0].sentence and not small[0].stops
