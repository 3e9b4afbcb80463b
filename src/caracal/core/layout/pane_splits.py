"""Panes that lie above or beside each other: where they meet, and the gap between them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import accumulate, pairwise

import msgspec

from caracal.core.layout.model import EVERYWHERE, Layout, Pane, PlainBackdrop, tiled

WHOLE = (0.0, 1.0)
LEAST_SHARE, MOST_SHARE = 0.15, 0.85  # of the canvas: a pane stays one
MOST_GAP = 0.1  # of the canvas, between two panes
EXACT = 1e-6  # of the canvas: so near is the same place

Span = tuple[float, float]


@dataclass(frozen=True)
class Rows:
    """Panes in a line: their ``numbers`` in the layout, along which ``axis`` they lie (0 across,
    1 down), and the ``spans`` that they take of it, in shares of the canvas.
    """

    numbers: tuple[int, ...]
    axis: int
    spans: tuple[Span, ...]

    @property
    def gap(self) -> float:
        """What is free between the first two, as a share of the canvas."""
        return self.spans[1][0] - self.spans[0][1]


def rows_of(layout: Layout) -> Rows | None:
    """The panes of ``layout`` that lie in a line from edge to edge, with equal gaps: all of them,
    or all but the backdrop behind them. None: they do not.
    """
    for first in (0, 1):
        panes = layout.panes[first:]
        for axis in (0, 1):
            spans = tuple(pane.region[axis] for pane in panes)
            if all(pane.region[1 - axis] == WHOLE for pane in panes) and _in_line(spans):
                return Rows(tuple(range(first, len(layout.panes))), axis, spans)
    return None


def beside(layout: Layout) -> tuple[int, ...]:
    """The numbers of panes none of which lies over another, and which take all of the canvas but
    for gaps: all, or all but the backdrop behind them. None: there are no such panes.
    """
    rows = rows_of(layout)
    if rows is not None:
        return rows.numbers
    for first in (0, 1):
        panes = layout.panes[first:]
        if len(panes) > 1 and panes[0].region != EVERYWHERE and tiled(panes) and not (
                tiled(panes[:-1]) or tiled(panes[1:])):  # then one lies over the others
            return tuple(range(first, len(layout.panes)))
    return ()


def split_of(layout: Layout) -> float | None:
    """Where a layout of two panes in a line is parted, as a share: the middle of their gap."""
    rows = rows_of(layout)
    if rows is None or len(rows.spans) != 2:
        return None
    return (rows.spans[0][1] + rows.spans[1][0]) / 2


def with_split(layout: Layout, share: float) -> Layout:
    """``layout`` with its two panes parted at ``share``; as it is if it has no such two."""
    rows = rows_of(layout)
    if rows is None or len(rows.spans) != 2:
        return layout
    share, half = min(max(share, LEAST_SHARE), MOST_SHARE), rows.gap / 2
    return _placed(layout, rows, ((0.0, share - half), (share + half, 1.0)))


def gap_of(layout: Layout) -> float | None:
    """How much is free between panes in a line, as a share of the canvas; None: there are none."""
    rows = rows_of(layout)
    return rows.gap if rows is not None else None


def with_gap(layout: Layout, gap: float) -> Layout:
    """``layout`` with that much of the canvas between its panes in a line, which keep their sizes
    beside each other; a plain backdrop comes behind them where there is none. As it is if it has
    no such panes.
    """
    rows = rows_of(layout)
    if rows is None:
        return layout
    gaps = len(rows.spans) - 1
    scale = (1 - gaps * gap) / (1 - gaps * rows.gap)
    lengths = [(end - start) * scale for start, end in rows.spans]
    starts = [number * gap + before
              for number, before in enumerate(accumulate(lengths[:-1], initial=0.0))]
    spans = [(round(start, 12), round(start + length, 12))
             for start, length in zip(starts, lengths, strict=True)]
    spans[-1] = (spans[-1][0], 1.0)
    made = _placed(layout, rows, spans)
    if gap == 0 or rows.numbers[0] == 1:
        return made
    return msgspec.structs.replace(made, panes=(Pane(PlainBackdrop()), *made.panes))


def _in_line(spans: Sequence[Span]) -> bool:
    """Whether ``spans`` follow each other from 0 to 1 with equal gaps."""
    if len(spans) < 2 or abs(spans[0][0]) > EXACT or abs(spans[-1][1] - 1) > EXACT:
        return False
    gaps = [later[0] - earlier[1] for earlier, later in pairwise(spans)]
    return min(gaps) > -EXACT and max(gaps) < MOST_GAP + EXACT and max(gaps) - min(gaps) < EXACT


def _placed(layout: Layout, rows: Rows, spans: Sequence[Span]) -> Layout:
    """``layout`` with the panes of ``rows`` at these ``spans``."""
    panes = list(layout.panes)
    for number, span in zip(rows.numbers, spans, strict=True):
        region = (span, WHOLE) if rows.axis == 0 else (WHOLE, span)
        panes[number] = msgspec.structs.replace(panes[number], region=region)
    return msgspec.structs.replace(layout, panes=tuple(panes))
