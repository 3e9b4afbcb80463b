"""What moves by itself in a shot of which the detectors know nothing: a subject of its own.

It is one patch that moves otherwise than the background, shows detail, and stays in one piece
through the shot.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, gaussian_filter1d, label

from caracal.core.analysis.labels import MOVING_THING
from caracal.core.analysis.model import Track
from caracal.core.analysis.tracking.motion_maps import GRID, STILL, UNIT, Map, MotionLook
from caracal.core.base.geometry import Box, shared_area
from caracal.core.media.planes import Plane

MOST_LOOKS = 1500  # a take longer than ten minutes has no one thing that moves
BLUR = 1.2  # cells; and in time:
BLUR_LOOKS = 1.5
RIM = 0.22  # of the strongest motion in a look: cells below are not the thing's
LEAST_ENERGY = 2.0  # sum of a look's map, in tiny pixels a frame x cells: less is no movement
SHARE = 0.6  # of all movement of a look, in the patch
LEAST_LOOKS = 0.4  # of the looks in which the patch is clear
LARGEST = 0.45  # of the picture: more is water, leaves, or the camera
SMALLEST = 0.008
WIDEST = 0.6  # of the picture's width
FILLED = 0.4  # of the patch's box
SAME = 0.3  # of the smaller of two boxes in the other, from look to look: less is another thing
SHARP = 0.7  # of the picture's mean detail, in the patch: less is out of focus
TAIL = 0.04  # of the patch's motion, left out at each side of its box
SMOOTH_S = 0.3  # over which the box is averaged
LEAST_S = 0.8  # a shorter shot shows too little of a move


def mover(
    looks: Sequence[MotionLook], start: int, end: int, rate: float, picture: tuple[float, float]
) -> Track | None:
    """The one thing that moves by itself in a shot [start, end), as a track; None: there is none.

    ``looks`` lie within it, ``picture`` is the film's (width, height). The track's ids are 0.
    """
    if end - start < LEAST_S * rate or not 2 <= len(looks) <= MOST_LOOKS:
        return None
    maps = np.stack([np.maximum(look.motion * np.float32(UNIT) - STILL, 0.0) for look in looks])
    calm = gaussian_filter(maps, (BLUR_LOOKS, BLUR, BLUR), mode="nearest")
    boxes: list[tuple[int, Box]] = []
    for number, look in enumerate(looks):
        found = _patch(calm[number], look.detail)
        if found is not None:
            boxes.append(((look.first + look.frame) // 2, found))
    if len(boxes) < max(2, LEAST_LOOKS * len(looks)):
        return None
    if any(shared_area(one, other) < SAME * min(one[2] * one[3], other[2] * other[3])
           for (_, one), (_, other) in pairwise(boxes)):
        return None
    return Track(0, MOVING_THING, 0, 0, 0.5, start, _smooth(boxes, start, end, rate, picture))


def _patch(motion: Map, detail: Plane) -> Box | None:
    """The box, in cells, of the one patch that moves; None where no patch stands out."""
    if float(motion.sum()) < LEAST_ENERGY:
        return None
    parts, count = label(motion > RIM * motion.max())
    if not count:
        return None
    sums = np.bincount(parts.ravel(), motion.ravel(), count + 1)
    best = 1 + int(np.argmax(sums[1:]))
    inside = parts == best
    weights = np.where(inside, motion, 0.0)
    (left, right), (top, bottom) = (_most_of(weights.sum(axis=axis)) for axis in (0, 1))
    wide, high = right - left, bottom - top
    clear = (sums[best] >= SHARE * motion.sum() and wide <= WIDEST * GRID[1]
             and SMALLEST <= inside.mean() <= LARGEST and inside.sum() >= FILLED * wide * high
             and detail[inside].mean() >= SHARP * detail.mean())
    return (left, top, wide, high) if clear else None


def _most_of(profile: NDArray[np.float64]) -> tuple[float, float]:
    """From where to where, in cells, most of the motion lies: its rim is the flow's own blur."""
    total = np.concatenate([[0.0], np.cumsum(profile)]) / profile.sum()
    low, high = np.interp((TAIL, 1 - TAIL), total, np.arange(len(total)))
    return float(low), float(high)


def _smooth(
    boxes: list[tuple[int, Box]], start: int, end: int, rate: float, picture: tuple[float, float]
) -> tuple[Box, ...]:
    """A box for every frame, in master pixels, inside the ``picture``."""
    at = [frame for frame, _ in boxes]
    sides = np.array([[x, y, x + w, y + h] for _, (x, y, w, h) in boxes])
    each = np.stack([np.interp(np.arange(start, end), at, side) for side in sides.T], axis=1)
    calm = gaussian_filter1d(each, SMOOTH_S * rate, axis=0, mode="nearest")
    scale = np.array([picture[0] / GRID[1], picture[1] / GRID[0]] * 2)
    low = np.maximum(calm[:, :2] * scale[:2], 0.0)
    high = np.minimum(calm[:, 2:] * scale[2:], np.array(picture))
    return tuple((round(x, 1), round(y, 1), round(r - x, 1), round(b - y, 1))
                 for (x, y), (r, b) in zip(low.tolist(), high.tolist(), strict=True))
