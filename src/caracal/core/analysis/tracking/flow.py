"""Where the picture moves from one frame to the next, and what a box does with it.

Dense optical flow by inverse search (DIS; Kroeger, Timofte, Dai and Van Gool 2016) on a tiny
picture: a tenth of a detector's look, so every frame can have it. A box moves by the median of the
flow in its middle, as in median-flow tracking (Kalal, Mikolajczyk and Matas 2010).
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.geometry import Box
from caracal.core.media.planes import Plane

LONG_SIDE = 160  # of the picture flow is found on; 320 costs five times as much for 2 % less error
SHORT_SIDE = 32  # at least: the method needs room for its patches
MIDDLE = 0.25  # part of the box left out at each side: what is behind shows at the edges
SAMPLES = 8  # places along each side of a box, at least, whose flow is read
LEAST_PIXELS = 2  # a box is at least this wide when its flow is read

Field = NDArray[np.float32]


class FlowFinder:
    """Flow between each picture it is given and the one before. One thread at a time."""

    def __init__(self, width: int, height: int) -> None:
        scale = LONG_SIDE / max(width, height)
        self.size = (max(SHORT_SIDE, round(width * scale)), max(SHORT_SIDE, round(height * scale)))
        self._finder = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_ULTRAFAST)
        self._last: Plane | None = None

    def shrink(self, luma: Plane) -> Plane:
        """``luma`` (h, w) at this finder's size."""
        return np.asarray(cv2.resize(luma, self.size, interpolation=cv2.INTER_AREA), np.uint8)

    def add(self, tiny: Plane) -> Field:
        """Flow (h, w, 2) in tiny pixels a frame, from the picture before (0 for the first)."""
        last, self._last = self._last, tiny
        none = np.zeros((*tiny.shape, 2), np.float32)
        if last is None:
            return none
        return np.asarray(self._finder.calc(last, tiny, none), np.float32)


def box_move(field: Field, box: Box) -> tuple[float, float]:
    """How far the middle of ``box`` (tiny pixels) moves by ``field``, (dx, dy) in tiny pixels."""
    height, width = field.shape[:2]
    left, right = _middle(box[0], box[2], width)
    top, bottom = _middle(box[1], box[3], height)
    down, across = max(1, (bottom - top) // SAMPLES), max(1, (right - left) // SAMPLES)
    return median_move(field[top:bottom:down, left:right:across].reshape(-1, 2))


def median_move(moves: Field) -> tuple[float, float]:
    """The median of ``moves`` (n, 2), each axis by itself; the upper one if n is even."""
    half = len(moves) // 2
    return (float(np.partition(moves[:, 0], half)[half]),
            float(np.partition(moves[:, 1], half)[half]))


def _middle(start: float, length: float, limit: int) -> tuple[int, int]:
    low = int(start + MIDDLE * length)
    high = int(np.ceil(start + (1 - MIDDLE) * length))
    low = min(max(0, low), limit - LEAST_PIXELS)
    return low, min(limit, max(high, low + LEAST_PIXELS))
