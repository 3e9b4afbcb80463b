"""Overlays taken hold of on a canvas: dragged, or made larger at a corner; with snaps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

from caracal.core.base.geometry import Region
from caracal.core.layout.model import EVERYWHERE
from caracal.core.layout.overlay import LEAST_SIDE, Overlay, presence
from caracal.ui.canvases.pane_handles import Grip, share_of
from caracal.ui.canvases.snapping import NEAR_PX, snapped_region

Place = tuple[float, float]
REACH = 0.03  # of the canvas: so much of a dragged overlay stays on it


@dataclass(frozen=True)
class OverlayHold:
    """A grip on overlay ``number`` of a version, whose place was ``region`` when it was taken hold
    of at ``point`` (shares of the canvas)."""

    grip: Grip
    letter: str
    number: int
    region: Region
    point: Place
    others: tuple[Region, ...] = ()


def overlay_at(
    overlays: Sequence[Overlay], frame: int, point: QPointF, canvas: QRectF
) -> tuple[int, Grip] | None:
    """The number of the foremost overlay at ``frame`` that the pointer takes hold of, and how.

    One that covers all of the canvas, or is locked, is not taken hold of: nothing else could be.
    """
    x, y = share_of(point, canvas)
    near = NEAR_PX / canvas.width(), NEAR_PX / canvas.height()
    for number in reversed(range(len(overlays))):
        overlay = overlays[number]
        if overlay.locked or overlay.region == EVERYWHERE or presence(overlay, frame) is None:
            continue
        (left, right), (top, bottom) = overlay.region
        if min(abs(x - left), abs(x - right)) < near[0] and (
                min(abs(y - top), abs(y - bottom)) < near[1]):
            return number, Grip.CORNER
        if left <= x <= right and top <= y <= bottom:
            return number, Grip.PANE
    return None


def dragged_overlay(
    hold: OverlayHold, to: Place, canvas: QRectF, clear: Region | None, free: bool = False
) -> tuple[Region, tuple[tuple[int, float], ...]]:
    """Where the overlay lies when it is dragged ``to`` there, and the guides it snapped to.

    At a corner it grows round its middle and keeps its shape.
    """
    (left, right), (top, bottom) = hold.region
    if hold.grip is Grip.CORNER:
        across, down = (left + right) / 2, (top + bottom) / 2
        grown = max(abs(to[0] - across) / max((right - left) / 2, LEAST_SIDE),
                    abs(to[1] - down) / max((bottom - top) / 2, LEAST_SIDE))
        least = max(LEAST_SIDE / (right - left), LEAST_SIDE / (bottom - top))
        grown = min(max(grown, least), 1 / max(right - left, bottom - top, 0.5))
        wide, high = (right - left) / 2 * grown, (bottom - top) / 2 * grown
        return ((across - wide, across + wide), (down - high, down + high)), ()
    moved = tuple(_within_reach(low + to[axis] - hold.point[axis], high - low)
                  for axis, (low, high) in enumerate(hold.region))
    return snapped_region((moved[0], moved[1]), canvas, clear, hold.others, free)


def _within_reach(start: float, size: float) -> tuple[float, float]:
    """A side moved so that some of it can be taken hold of still."""
    held = min(max(start, REACH - size), 1 - REACH)
    return held, held + size
