"""Words of the master covered before anything is made of its picture, so that they are covered
however it is cropped.

Without a colour the place is filled from the pixels round it: a bilinearly blended Coons patch
(Coons 1967), whose edges are those of the picture there, so that no seam is seen.
"""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.colours import rgb_of
from caracal.core.base.geometry import Box
from caracal.core.layout.redaction import Redaction
from caracal.core.media.bt709 import levels
from caracal.core.media.planes import Plane, Planes

RING = 3  # pixels round the place from which it is filled
SMOOTH = 0.06  # of a side: what lies along it is smoothed by so much, so that no streaks appear
Span = tuple[int, int]
Line = NDArray[np.float32]


def redacted(planes: Planes, redactions: Sequence[Redaction]) -> Planes:
    """``planes`` with the places of ``redactions``, whose boxes are in upright pixels of theirs,
    covered.
    """
    if not redactions:
        return planes
    made = [planes.y.copy(), planes.u.copy(), planes.v.copy()]
    for each in redactions:
        colours = levels(rgb_of(each.colour)) if each.colour else (None, None, None)
        for plane, part, colour in zip(made, (1, 2, 2), colours, strict=True):
            across, down = _pixels(each.box, planes.pixel_aspect, part, plane)
            if across[0] < across[1] and down[0] < down[1]:
                place = plane[down[0] : down[1], across[0] : across[1]]
                place[:] = _patch(plane, across, down) if colour is None else colour
    return Planes(made[0], made[1], made[2], planes.siting, planes.pixel_aspect)


def _pixels(box: Box, aspect: float, part: int, plane: Plane) -> tuple[Span, Span]:
    """The columns and rows of ``plane``, of so small a ``part`` of luma and pixels of that
    ``aspect``, that ``box`` touches.
    """
    x, y, w, h = (side / part for side in box)
    x, w = x / aspect, w / aspect
    height, width = plane.shape
    return ((max(0, int(x)), min(width, int(np.ceil(x + w)))),
            (max(0, int(y)), min(height, int(np.ceil(y + h)))))


def _patch(plane: Plane, across: Span, down: Span) -> Plane:
    """What would be in that place if the pixels round it went on in it."""
    (left, right), (top, bottom) = across, down
    height, width = plane.shape
    above = plane[max(0, top - RING) : top, left:right]
    below = plane[bottom : min(height, bottom + RING), left:right]
    before = plane[top:bottom, max(0, left - RING) : left]
    after = plane[top:bottom, right : min(width, right + RING)]
    upper, lower = _pair(_line(above, 0), _line(below, 0))
    near, far = _pair(_line(before, 1), _line(after, 1))
    if upper is None or lower is None or near is None or far is None:
        ends = [line for line in (upper, lower, near, far) if line is not None]
        if not ends:
            return np.full((bottom - top, right - left), int(plane.mean()), np.uint8)
    u = ((np.arange(right - left, dtype=np.float32) + 0.5) / (right - left))[None]
    v = ((np.arange(bottom - top, dtype=np.float32) + 0.5) / (bottom - top))[:, None]
    if upper is None or lower is None:
        assert near is not None and far is not None
        made = (1 - u) * near[:, None] + u * far[:, None]
    elif near is None or far is None:
        made = (1 - v) * upper[None] + v * lower[None]
    else:
        corners = (upper[0] + near[0]) / 2, (upper[-1] + far[0]) / 2, (
            lower[0] + near[-1]) / 2, (lower[-1] + far[-1]) / 2
        made = ((1 - v) * upper[None] + v * lower[None] + (1 - u) * near[:, None]
                + u * far[:, None] - ((1 - u) * (1 - v) * corners[0] + u * (1 - v) * corners[1]
                                      + (1 - u) * v * corners[2] + u * v * corners[3]))
    return np.asarray(np.rint(np.clip(made, 0, 255)), np.uint8)


def _line(strip: Plane, axis: int) -> Line | None:
    """The mean of a ``strip`` across itself, smoothed along; None: there is none."""
    if strip.size == 0:
        return None
    line = strip.mean(axis=axis, dtype=np.float32)
    sigma = max(0.5, SMOOTH * len(line))
    smooth = cv2.GaussianBlur(line[None], (0, 0), sigma, borderType=cv2.BORDER_REPLICATE)
    return np.asarray(smooth[0], np.float32)


def _pair(one: Line | None, other: Line | None) -> tuple[Line | None, Line | None]:
    """Both lines; where the place touches the picture's edge, one stands for both."""
    return (other, other) if one is None else (one, one if other is None else other)
