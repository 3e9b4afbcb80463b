"""Panes taken hold of on a canvas: dragged, made larger at a corner, parted elsewhere; with snaps.

Regions are shares of the canvas. While a pane is dragged its edges and its middle snap to the
canvas's middle and thirds and to the clear area; what it snapped to is drawn as a guide.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from PySide6.QtCore import QPointF, QRectF

from caracal.core.base.geometry import Region
from caracal.core.layout.amounts import (
    inset_of,
    with_inset_at,
    with_inset_wide,
    with_side_cut,
)
from caracal.core.layout.model import Crop, Layout, Role, WholePicture
from caracal.core.layout.pane_splits import rows_of, split_of, with_split
from caracal.ui.canvases.snapping import NEAR_PX, line_near, snapped_region


class Grip(Enum):
    """What was taken hold of."""

    PANE = "pane"
    CORNER = "corner"
    SIDE = "side"
    SPLIT = "split"


@dataclass(frozen=True)
class Hold:
    """A grip on a version's layout as it was at ``point`` (shares of the canvas); ``others`` are
    the regions of what else lies there. ``side`` is the side that is held: its axis, and whether it
    is the right or the lower one.
    """

    grip: Grip
    letter: str
    layout: Layout
    point: tuple[float, float]
    others: tuple[Region, ...] = ()
    side: tuple[int, bool] = (0, False)


@dataclass(frozen=True)
class Dragged:
    """A layout after a drag, and the guides it snapped to: (axis, share) of the canvas."""

    layout: Layout
    guides: tuple[tuple[int, float], ...] = ()


def share_of(point: QPointF, canvas: QRectF) -> tuple[float, float]:
    """A point of the screen as shares of the ``canvas`` that is drawn there."""
    return ((point.x() - canvas.left()) / canvas.width(),
            (point.y() - canvas.top()) / canvas.height())


def grip_at(layout: Layout, point: QPointF, canvas: QRectF) -> Grip | None:
    """What of ``layout``, drawn on ``canvas``, the pointer takes hold of at ``point``."""
    x, y = share_of(point, canvas)
    near = NEAR_PX / canvas.width(), NEAR_PX / canvas.height()
    number = inset_of(layout)
    if number is not None:
        (left, right), (top, bottom) = layout.panes[number].region
        if min(abs(x - left), abs(x - right)) < near[0] and (
                min(abs(y - top), abs(y - bottom)) < near[1]):
            return Grip.CORNER
        if left <= x <= right and top <= y <= bottom:
            return Grip.PANE
    share, rows = split_of(layout), rows_of(layout)
    if share is None or rows is None:
        return None
    off = abs((x, y)[rows.axis] - share)
    return Grip.SPLIT if off < max(near[rows.axis], rows.gap / 2) else None


def side_at(layout: Layout, point: QPointF, canvas: QRectF) -> tuple[int, bool] | None:
    """Which side of the whole picture in an inset is at ``point``: its axis, and whether it is the
    right or the lower one; None: no side is.
    """
    number = inset_of(layout)
    if number is None or not isinstance(layout.panes[number].content, WholePicture):
        return None
    spot = share_of(point, canvas)
    near = NEAR_PX / canvas.width(), NEAR_PX / canvas.height()
    region = layout.panes[number].region
    for axis in (0, 1):
        low, high = region[1 - axis]
        if low <= spot[1 - axis] <= high:
            for far, edge in enumerate(region[axis]):
                if abs(spot[axis] - edge) < near[axis]:
                    return axis, bool(far)
    return None


def role_at(layout: Layout, point: tuple[float, float]) -> Role | None:
    """Whom the foremost pane of ``layout`` at ``point`` (shares of the canvas) follows; None: it
    follows nobody.
    """
    for pane in reversed(layout.panes):
        (left, right), (top, bottom) = pane.region
        if left <= point[0] <= right and top <= point[1] <= bottom:
            return pane.content.role if isinstance(pane.content, Crop) else None
    return None


def dragged(
    hold: Hold, to: tuple[float, float], canvas: QRectF, clear: Region | None, free: bool = False
) -> Dragged:
    """The layout when what is held is dragged ``to`` there; it snaps unless it is ``free``."""
    layout, near = hold.layout, (NEAR_PX / canvas.width(), NEAR_PX / canvas.height())
    if hold.grip is Grip.SPLIT:
        rows = rows_of(layout)
        axis = rows.axis if rows is not None else 1
        line = None if free else line_near(to[axis], near[axis])
        if line is None:
            return Dragged(with_split(layout, to[axis]))
        return Dragged(with_split(layout, line), ((axis, line),))
    if hold.grip is Grip.SIDE:
        axis, far = hold.side
        return Dragged(with_side_cut(layout, axis, far, to[axis]))
    number = inset_of(layout)
    assert number is not None
    (left, right), (top, bottom) = layout.panes[number].region
    if hold.grip is Grip.CORNER:
        middle = (left + right) / 2
        held = abs(hold.point[0] - middle)
        grown = abs(to[0] - middle) / max(held, 1e-6)
        return Dragged(with_inset_wide(layout, (right - left) * grown))
    by = to[0] - hold.point[0], to[1] - hold.point[1]
    moved, guides = snapped_region(
        ((left + by[0], right + by[0]), (top + by[1], bottom + by[1])), canvas, clear, hold.others,
        free)
    return Dragged(with_inset_at(layout, moved), guides)
