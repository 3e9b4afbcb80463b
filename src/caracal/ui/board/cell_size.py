"""How large the Board's cells are: as the window allows, or as somebody asked for."""

from __future__ import annotations

from collections.abc import Sequence

from caracal.ui.board.head import HEAD
from caracal.ui.board.rows import GAP, about_wide, state_high

ROWS = 3.3  # that a window shows to begin with: the next one is seen to be there
FEWEST_ROWS, MOST_ROWS = 1.0, 12.0
LEAST_HIGH = 60  # pixels of a picture
STEP = 1.15  # of a notch of the wheel

Columns = list[tuple[float, float]]  # left and width of the master's and each version's


def laid_out(
    wide: int, high: int, ratios: Sequence[float], rows: float
) -> tuple[float, Columns]:
    """The height of pictures and their columns in a window of ``wide`` by ``high`` pixels.

    ``rows`` are to be seen at once, as far as the width allows; ``ratios`` are the columns' shapes.
    """
    room = wide - about_wide() - GAP * (len(ratios) + 2)
    tall = (high - HEAD) / rows - state_high() - GAP
    picture = 2.0 * int(max(min(room / sum(ratios), tall), LEAST_HIGH) / 2)
    widths = [2.0 * round(picture * ratio / 2) for ratio in ratios]
    at, found = float(GAP + about_wide()), []
    spare = int((wide - at - sum(widths)) / (len(ratios) + 1))
    step = min(max(GAP, spare), 4 * GAP)
    for value in widths:
        found.append((at, value))
        at += value + step
    return picture, found


def next_rows(rows: float, larger: bool) -> float:
    """``rows`` after a notch of the wheel, with ``larger`` cells or smaller ones."""
    return min(max(rows / STEP if larger else rows * STEP, FEWEST_ROWS), MOST_ROWS)
