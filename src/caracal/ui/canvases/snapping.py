"""Where what is dragged on a canvas snaps to: middles and thirds, the clear area, what else lies
there, and equal gaps between that. Places are shares of the canvas.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import permutations

from PySide6.QtCore import QRectF

from caracal.core.base.geometry import Region

NEAR_PX = 8  # of the screen: so near the pointer takes hold, and an edge snaps
THIRDS = (1 / 3, 0.5, 2 / 3)
LEAST_GAP = 0.005  # of the canvas: less is none

Span = tuple[float, float]
Guides = tuple[tuple[int, float], ...]  # (axis, share) of the canvas: what was snapped to


def snapped_region(
    region: Region, canvas: QRectF, clear: Region | None, others: Sequence[Region] = (),
    free: bool = False,
) -> tuple[Region, Guides]:
    """``region`` moved to near places, and the guides that it snapped to, unless it is ``free``.

    ``others`` are the regions of what else lies on the ``canvas``.
    """
    if free:
        return region, ()
    near = NEAR_PX / canvas.width(), NEAR_PX / canvas.height()
    moved: list[Span] = []
    guides: Guides = ()
    for axis, (low, high) in enumerate(region):
        beside = [other[axis] for other in others]
        lines = (*THIRDS, *(clear[axis] if clear else (0.0, 1.0)),
                 *(line for start, end in beside for line in (start, (start + end) / 2, end)))
        steps = [(line - place, line) for place in (low, (low + high) / 2, high) for line in lines]
        steps += [(start - low, line) for start, line in _equal_gaps(high - low, beside)]
        off, line = min(steps, key=lambda step: abs(step[0]))
        if abs(off) > near[axis]:
            off = 0.0
        else:
            guides += ((axis, line),)
        moved.append((low + off, high + off))
    return (moved[0], moved[1]), guides


def line_near(place: float, near: float, lines: Iterable[float] = THIRDS) -> float | None:
    """The one of ``lines`` that is ``near`` a ``place``; None: none is."""
    line = min(lines, key=lambda each: abs(each - place))
    return line if abs(line - place) <= near else None


def _equal_gaps(length: float, spans: Sequence[Span]) -> list[tuple[float, float]]:
    """Where something of that ``length`` begins so that its gap to one of ``spans`` is that
    between two of them, or is the same on both sides; and the edge from which that is counted.
    """
    found = []
    for (first, end), (start, far) in permutations(spans, 2):
        gap = start - end
        if gap < LEAST_GAP:
            continue
        found += [(far + gap, far), (first - gap - length, first)]
        if gap > length:
            found.append((end + (gap - length) / 2, end))
    return found
