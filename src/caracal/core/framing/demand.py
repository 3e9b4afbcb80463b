"""What the window must hold in each frame, as allowed positions of its left or top edge."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Box, FoundShot
from caracal.core.framing.lead import Subject

Array = NDArray[np.float64]

FACE_SIDE = 0.30  # of the face's width, free at each side: ears and hair
FACE_ABOVE = 0.45  # of the face's height: hair and headroom
FACE_BELOW = 0.35  # of the face's height: never the chin
BODY_MARGIN = 0.02  # of the window: a box never quite touches the edge
EYES_AT = 1 / 3  # of the window's height, for faces when the window may move up and down
LOOSE = 0.96  # of the window: companions must fit into this


@dataclass(frozen=True)
class Demand:
    """Allowed positions of the window's near edge along one axis, frame by frame, in pixels.

    ``must`` holds the face (or the whole lead where it has none), ``want`` all of the lead and its
    company. Rows are frames, columns lowest and highest position; NaN where nothing is asked.
    ``wish`` (n,) is where the window would sit best. ``extent`` (n, 2) is the lead itself.
    """

    must: Array
    want: Array
    wish: Array
    extent: Array


def demand_along(
    axis: int, shot: FoundShot, lead: Subject, others: tuple[Subject, ...], size: float
) -> Demand:
    """The demand along ``axis`` (0 across, 1 down) for a window ``size`` pixels long."""
    body = _extents(shot, lead.box_at, axis)
    face = _extents(shot, _face_with_margins(lead), axis)
    core = np.where(np.isnan(face), body, face)
    group = _with_company(body, [_extents(shot, one.box_at, axis) for one in others], size)
    margin = BODY_MARGIN * size
    want = _allowed(group, size, margin)
    must = _allowed(core, size, 0.0)
    share = EYES_AT + 0.05 if axis == 1 and lead.face is not None else 0.5
    middle = np.where(np.isnan(face), body, face).mean(axis=1)
    fits = (group[:, 1] - group[:, 0]) <= size
    centre = np.where(fits & (axis == 0), group.mean(axis=1), middle)
    return Demand(must, want, centre - size * share, body)


def _face_with_margins(lead: Subject) -> Callable[[int], Box | None]:
    def box(frame: int) -> Box | None:
        found = lead.face.box_at(frame) if lead.face is not None else None
        if found is None:
            return None
        x, y, w, h = found
        return (x - FACE_SIDE * w, y - FACE_ABOVE * h, w * (1 + 2 * FACE_SIDE),
                h * (1 + FACE_ABOVE + FACE_BELOW))

    return box


def _extents(shot: FoundShot, box_at: Callable[[int], Box | None], axis: int) -> Array:
    rows = np.full((shot.frames, 2), np.nan)
    for i in range(shot.frames):
        box = box_at(shot.start + i)
        if box is not None:
            rows[i] = (box[axis], box[axis] + box[axis + 2])
    return rows


def _with_company(lead: Array, others: list[Array], size: float) -> Array:
    """The lead's extent widened by each companion with whom it fits through most of the shot."""
    group = lead
    for other in others:
        both = np.stack([np.fmin(group[:, 0], other[:, 0]), np.fmax(group[:, 1], other[:, 1])], 1)
        length = both[:, 1] - both[:, 0]
        if np.nanpercentile(length, 95) <= LOOSE * size:
            group = np.where(np.isnan(group), np.nan, both)
    return group


def _allowed(extent: Array, size: float, margin: float) -> Array:
    """Positions of a window ``size`` long that hold ``extent`` or lie inside it if it is longer."""
    low, high = extent[:, 0], extent[:, 1]
    spare = np.clip((size - (high - low)) / 2, 0, margin)
    holding = np.stack([high + spare - size, low - spare], axis=1)
    inside = np.stack([low, high - size], axis=1)
    longer = ((high - low) > size)[:, None]
    return np.where(longer, inside, holding)
