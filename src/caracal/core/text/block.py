"""Lines of a text with their place, in sizes of its letters: the same on every canvas."""

from __future__ import annotations

import functools
from pathlib import Path

import msgspec

from caracal.core.text.breaking import balanced, broken
from caracal.core.text.fonts import Vertical, font_for, lacks, vertical, width_of
from caracal.core.text.spelling import language_of
from caracal.core.text.style import TextStyle, Title

LINES_TRIED = 12
SHRUNK = 0.5  # of the size asked for: letters so small may be larger with a hyphen
WORTH_A_HYPHEN = 1.25  # times as large
SAME_SIZE = 1.04  # fewer lines are taken unless letters would be so much larger in more


class TextBlock(msgspec.Struct, frozen=True):
    """``lines`` in the font of a file, their ``widths`` in sizes.

    ``margin`` is what an outline, a box or a shadow takes on every side, and ``gap`` the way from
    one baseline to the next, in sizes.
    """

    lines: tuple[str, ...]
    font: str
    widths: tuple[float, ...]
    gap: float
    margin: float

    @property
    def measures(self) -> Vertical:
        """How far the font's letters go up and down."""
        return vertical(Path(self.font))

    @property
    def width(self) -> float:
        """Of all of it, margins and all, in sizes."""
        return max(self.widths) + 2 * self.margin

    @property
    def height(self) -> float:
        """Of all of it, margins and all, in sizes."""
        measures = self.measures
        return (measures.ascent + measures.descent + (len(self.lines) - 1) * self.gap
                + 2 * self.margin)


def margin_of(style: TextStyle) -> float:
    """What lies round the letters, in sizes: a box or an outline, and as much of a shadow."""
    around = max(style.outline.width if style.outline else 0.0,
                 style.box.padding if style.box else 0.0)
    if style.shadow is not None:
        around += abs(style.shadow.distance) + 2 * style.shadow.softness
    return around


def set_lines(text: str, style: TextStyle) -> str:
    """``text`` as its style writes it."""
    return text.upper() if style.capitals else text


def block_of(lines: list[str], font: Path, style: TextStyle) -> TextBlock:
    """These ``lines`` in that font."""
    return TextBlock(tuple(lines), str(font), tuple(width_of(font, line) for line in lines),
                     style.line_gap, margin_of(style))


@functools.lru_cache(512)
def lines_within(
    text: str, style: TextStyle, most: float, most_lines: int, language: str = "en"
) -> TextBlock:
    """``text`` broken into lines of at most ``most`` sizes. Raises InputError without a font."""
    words = set_lines(text, style)
    font = font_for(style.font, words)
    lines = broken(words, most - 2 * margin_of(style), functools.partial(width_of, font),
                   most_lines, language)
    return block_of(lines, font, style)


@functools.lru_cache(512)
def fitted(title: Title, width: float, height: float) -> tuple[TextBlock, float]:
    """The lines of ``title`` in a box, and how large its letters are.

    The box's sides and the size are shares of the canvas's shorter side. A word is hyphenated where
    its letters would else be less than half as large as they are asked to be. Raises InputError.
    """
    best = _fitted(title, width, height, "")
    if best[1] >= SHRUNK * title.style.size or "\n" in title.text.strip():
        return best
    parted = _fitted(title, width, height, language_of([title.text]))
    return parted if parted[1] > WORTH_A_HYPHEN * best[1] else best


def _fitted(title: Title, width: float, height: float, language: str) -> tuple[TextBlock, float]:
    style, words = title.style, set_lines(title.text, title.style)
    font = font_for(style.font, words)
    best: tuple[TextBlock, float] | None = None
    for count in range(1, min(title.most_lines, LINES_TRIED) + 1):
        lines = balanced(words, functools.partial(width_of, font), count, language)
        block = block_of(lines, font, style)
        size = min(width / block.width, height / block.height, style.size)
        if best is None or size > best[1] * SAME_SIZE:
            best = (block, size)
    assert best is not None, "a title has a line"
    return best


@functools.lru_cache(16_384)
def missing_letters(text: str, style: TextStyle) -> str:
    """The characters of ``text`` for which no font is there."""
    words = set_lines(text, style)
    return lacks(font_for(style.font, words), words)
