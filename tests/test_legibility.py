"""How well captions stand out, by WCAG's own figures."""

from fractions import Fraction

import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.layout.overlay import Overlay
from caracal.core.render.captions.legibility import (
    LARGE,
    least_contrast,
    legibility,
    ratio_on,
    title_legibility,
    too_small,
)
from caracal.core.render.painters.titles import title_area
from caracal.core.text.caption_look import CaptionLook, CaptionManner
from caracal.core.text.captions import Stage, set_captions
from caracal.core.text.cues import Cue
from caracal.core.text.style import Align, TextBox, TextStyle, Title

TALL = Stage((1080, 1920), ((0.05, 0.88), (0.2, 0.8)), Fraction(25))
FILM = (FrameRange(0, 1500),)


def test_what_is_asked_goes_by_the_size_of_letters():
    """WCAG 2.2, 1.4.3: 4.5, or 3 from 24 px; capitals of 2.2 % of the height (common practice)."""
    assert least_contrast(LARGE * 0.9) == 4.5
    assert least_contrast(LARGE) == 3
    assert too_small(TextStyle(size=0.05), 0.7, (1080, 1920))
    assert not too_small(TextStyle(size=0.062), 0.7, (1080, 1920))
    assert not too_small(TextStyle(size=0.035), 0.7, (1080, 1080))


@pytest.mark.parametrize(("grey", "style", "ratio"), [
    (235, TextStyle(size=0.12), 1.0),  # white on white
    (16, TextStyle(size=0.12), 21.0),  # white on black
    (235, TextStyle(size=0.12, colour="#000000"), 21.0),
    (235, TextStyle(size=0.12, box=TextBox("#000000", opacity=1.0)), 21.0),
])
def test_a_title_is_judged_where_its_lines_lie(grey, style, ratio):
    """The picture is grey there, and the other extreme everywhere else (WCAG 2.2: 1 to 21)."""
    overlay = Overlay(Title("Kiln day", style), 10, 60, ((0.1, 0.9), (0.4, 0.6)))
    luma = np.full((192, 108), 251 - grey, np.uint8)
    luma[60:132] = grey
    asked = []

    def picture_at(frame):
        asked.append(frame)
        return luma, luma[::2, ::2], luma[::2, ::2]

    found = title_legibility(overlay, (1080, 1920), picture_at)
    assert found.ratio == pytest.approx(ratio, rel=0.02) and asked == [10, 34, 59]
    assert found.least == 3 and found.right == (ratio > 3)


def test_a_title_s_lines_lie_in_its_box_as_they_are_aligned():
    """By their widths: at the left, in the middle or at the right, and in the middle of the height.
    """
    region, canvas = ((0.1, 0.9), (0.4, 0.6)), (1080, 1920)
    places = {align: title_area(Title("Kiln", TextStyle(size=0.06, align=align)), region, canvas)
              for align in Align}
    wide = places[Align.LEFT][2]
    assert places[Align.LEFT][0] == pytest.approx(108)
    assert places[Align.MIDDLE][0] == pytest.approx(540 - wide / 2)
    assert places[Align.RIGHT][0] == pytest.approx(972 - wide)
    assert all(y + high / 2 == pytest.approx(960) for _, y, _, high in places.values())


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
