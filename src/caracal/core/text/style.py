"""How words look. All lengths go by the size of the letters, so that a style fits every canvas."""

from __future__ import annotations

from enum import StrEnum

import msgspec

from caracal.core.base.colours import rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.translation import mark, tr

DEFAULT_FONT = "Figtree SemiBold"
LEAST_SIZE, MOST_SIZE = 0.01, 0.6  # of the canvas's shorter side
LEAST_GAP, MOST_GAP = 0.7, 3.0
MOST_STROKE, MOST_DISTANCE, MOST_PADDING = 0.3, 0.5, 2.0  # of the letters' size
MOST_PATH = 4096  # characters


class Align(StrEnum):
    """Where the lines of a text stand in their box."""

    LEFT = mark("left")
    MIDDLE = mark("middle")
    RIGHT = mark("right")


class Stroke(msgspec.Struct, frozen=True):
    """A line round each letter: its colour, and its ``width`` as a share of the letters' size."""

    colour: str = "#121110"
    width: float = 0.06


class TextShadow(msgspec.Struct, frozen=True):
    """What letters darken behind them.

    ``distance`` (downward) and ``softness`` (a standard deviation) are shares of the letters' size;
    ``strength`` is how much light is taken away, 0 to 1.
    """

    colour: str = "#000000"
    distance: float = 0.05
    softness: float = 0.10
    strength: float = 0.7


class TextBox(msgspec.Struct, frozen=True):
    """A box behind each line; ``padding`` and ``radius`` are shares of the letters' size."""

    colour: str = "#121110"
    opacity: float = 0.8
    padding: float = 0.30
    radius: float = 0.18


class TextStyle(msgspec.Struct, frozen=True):
    """The look of a text.

    ``font`` is the name of one that ships, or the path of a font file. ``size`` is that of the
    letters (their em) as a share of the canvas's shorter side. ``line_gap`` is the way from one
    baseline to the next, in sizes. ``capitals`` writes all of it in capital letters.
    """

    font: str = DEFAULT_FONT
    size: float = 0.062
    colour: str = "#ffffff"
    outline: Stroke | None = None
    shadow: TextShadow | None = None
    box: TextBox | None = None
    capitals: bool = False
    line_gap: float = 1.18
    align: Align = Align.MIDDLE


class Title(msgspec.Struct, frozen=True, tag="title"):
    """Words that fit themselves into the box they are laid in.

    They are as large as fits, ``style.size`` at the most, in ``most_lines`` lines or fewer. A line
    break in ``text`` always breaks.
    """

    text: str
    style: TextStyle = TextStyle(size=0.12)
    most_lines: int = 4


def style_error(style: TextStyle) -> str:
    """What in ``style`` cannot be, though each value by itself could: or nothing."""
    stroke, shadow, box = (style.outline or Stroke(), style.shadow or TextShadow(),
                           style.box or TextBox())
    try:
        for colour in (style.colour, stroke.colour, shadow.colour, box.colour):
            rgb_of(colour)
    except InputError as problem:
        return problem.what
    within = {
        tr("words have no font"): 0 < len(style.font) <= MOST_PATH and "\0" not in style.font,
        tr("words are too small or too large"): LEAST_SIZE <= style.size <= MOST_SIZE,
        tr("the line spacing is out of range"): LEAST_GAP <= style.line_gap <= MOST_GAP,
        tr("an outline is too wide"): 0 < stroke.width <= MOST_STROKE,
        tr("a shadow has impossible amounts"): (
            abs(shadow.distance) <= MOST_DISTANCE and 0 <= shadow.softness <= MOST_DISTANCE
            and 0 <= shadow.strength <= 1),
        tr("a box has impossible amounts"): (
            0 <= box.opacity <= 1 and 0 <= box.padding <= MOST_PADDING
            and 0 <= box.radius <= MOST_PADDING),
    }
    return next((words for words, right in within.items() if not right), "")
