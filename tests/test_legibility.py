"""How well captions stand out, by WCAG's own figures."""

from fractions import Fraction

import numpy as np
import pytest

from caracal.core.render.legibility import LARGE, least_contrast, legibility, ratio_on, too_small
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.captions import Stage, set_captions
from caracal.core.text.cues import Cue
from caracal.core.text.style import TextBox, TextStyle
from caracal.core.time import FrameRange

TALL = Stage((1080, 1920), ((0.05, 0.88), (0.2, 0.8)), Fraction(25))
FILM = (FrameRange(0, 1500),)


def test_what_is_asked_goes_by_the_size_of_letters():
    """WCAG 2.2, 1.4.3: 4.5, or 3 from 24 px; capitals of 2.2 % of the height (common practice)."""
    assert least_contrast(TextStyle(size=LARGE * 0.9)) == 4.5
    assert least_contrast(TextStyle(size=LARGE)) == 3
    assert too_small(TextStyle(size=0.05), 0.7, (1080, 1920))
    assert not too_small(TextStyle(size=0.062), 0.7, (1080, 1920))
    assert not too_small(TextStyle(size=0.035), 0.7, (1080, 1080))


@pytest.mark.parametrize("manner", list(CaptionManner))
def test_nothing_is_lost_of_long_captions_without_spaces(manner):
    """Where words are written without spaces a caption of many lines comes in turn, too."""
    text = ("今年最初の陶器が窯から出てきました。港の人々はみな集まり、"
            "火が何を残してくれたかを見つめています。") * 2
    track = set_captions((Cue(0, 12, text),), CaptionLook(manner=manner), TALL, FILM, Fraction(25),
                         ())
    assert "".join("".join(each.block.lines) for each in track.captions) == text
    assert all(each.end_exclusive - each.start > 5 for each in track.captions)
    room = 0.83 * 1080 / 1080
    assert all(each.block.width * 0.062 <= room + 1e-6 for each in track.captions)


@pytest.mark.parametrize(("colour", "grey", "ratio"), [
    ("#ffffff", 0x77, 4.48), ("#ffffff", 0x00, 21.0), ("#000000", 0x77, 4.69)])
def test_contrast_with_the_pictures_behind_is_that_of_wcag(colour, grey, ratio):
    """WCAG 2.2; #777777 on white is 4.48 (TRADE.md), on black 21 / 4.48."""
    look = CaptionLook(TextStyle(colour=colour))
    track = set_captions((Cue(0, 4, "Kiln day"),), look, TALL, FILM, Fraction(25), ())
    level = np.full((480, 270), round(16 + 219 * grey / 255), np.uint8)
    picture = (level, level[::2, ::2], level[::2, ::2])
    assert ratio_on(track, track.captions[0], (1080, 1920), picture) == pytest.approx(
        ratio, rel=0.02)
    light = np.full_like(level, 235)
    worst = legibility(track, track.captions[0], (1080, 1920),
                       lambda frame: picture if frame else (light, light, light))
    assert worst.frame == (0 if colour == "#ffffff" else 50)
    boxed = CaptionLook(TextStyle(box=TextBox("#000000", 1.0)))
    track = set_captions((Cue(0, 4, "Kiln day"),), boxed, TALL, FILM, Fraction(25), ())
    assert ratio_on(track, track.captions[0], (1080, 1920), (light, light, light)) == (
        pytest.approx(21))
