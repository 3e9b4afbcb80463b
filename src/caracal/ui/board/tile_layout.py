"""Where the Board's tiles lie: as many columns as fit, at one of a few sizes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

SIZES = (56, 72, 96, 116, 140, 180, 220)  # pixels: heights of pictures
USUAL, LARGE = 140, 220
CONTACT_SHEET = 72  # up to here a tile has one line of words: issues are shapes in it
EDGE = 12  # pixels left of the first column
TILE_GAP, PICTURE_GAP = 16, 6  # pixels between tiles, and between the pictures of one
LINE = 20  # pixels: a line of words, as drawn
LEAST_HIGH = 32  # pixels of a picture where many wide versions share a narrow window
MASTER = 16 / 9


@dataclass(frozen=True)
class TileLayout:
    """Sizes in pixels of every tile, and how they flow.

    ``pictures`` are the left edge in the tile and the width of the master's picture, which is 0
    wide where it is not shown, and of each version's. ``above`` is the height of the words over the
    pictures, ``below`` that of the issues under them.
    """

    picture_high: float
    pictures: tuple[tuple[float, float], ...]
    above: int
    below: int
    across: int
    step: float

    @property
    def wide(self) -> float:
        """The width of a tile."""
        left, width = self.pictures[-1]
        return left + width

    @property
    def high(self) -> float:
        """The height of a tile with the gap below it."""
        return self.above + self.picture_high + self.below + TILE_GAP / 2

    def place(self, number: int) -> tuple[float, float]:
        """The upper left corner of tile ``number`` in the whole flow."""
        return EDGE + number % self.across * self.step, number // self.across * self.high

    def whole_high(self, count: int) -> float:
        """The height of ``count`` tiles."""
        return -(-count // self.across) * self.high

    def number_at(self, x: float, y: float) -> int | None:
        """The number of the tile at a point of the flow; None beside all columns."""
        column = int((x - EDGE + TILE_GAP / 2) // self.step) if x >= EDGE - TILE_GAP / 2 else -1
        if not 0 <= column < self.across or y < 0:
            return None
        return int(y // self.high) * self.across + column


def flow(wide: int, ratios: Sequence[float], size: int, scale: float = 1.0) -> TileLayout:
    """The layout in a view ``wide`` pixels, of versions with these ``ratios`` of width to height.

    ``size`` is the height of pictures that is wanted; they are smaller where a tile would be wider
    than the view. ``scale`` is how many times as large as drawn words are.
    """
    large = size >= LARGE
    shapes = [MASTER if large else 0.0, *ratios]
    gaps = PICTURE_GAP * (len(ratios) - 1 + large)
    room = wide - 2 * EDGE - gaps
    high = 2.0 * int(max(min(float(size), room / sum(shapes)), LEAST_HIGH) / 2)
    pictures, at = [], 0.0
    for shape in shapes:
        width = 2.0 * round(high * shape / 2)
        pictures.append((at, width))
        at += width + (PICTURE_GAP if width else 0)
    tile = pictures[-1][0] + pictures[-1][1]
    across = max(1, int((wide - 2 * EDGE + TILE_GAP) // (tile + TILE_GAP)))
    step = (wide - 2 * EDGE + TILE_GAP) / across if across > 1 else tile + TILE_GAP
    line = round(LINE * scale)
    return TileLayout(high, tuple(pictures), line * (2 if large else 1),
                      0 if size <= CONTACT_SHEET else line, across, float(int(step)))


def next_size(size: int, larger: bool) -> int:
    """The size after ``size``, one step larger or smaller."""
    at = min(range(len(SIZES)), key=lambda number: abs(SIZES[number] - size))
    return SIZES[min(max(at + (1 if larger else -1), 0), len(SIZES) - 1)]
