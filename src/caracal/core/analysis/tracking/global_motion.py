"""How the camera moves: the motion of what stands still in the picture.

The background's motion between two frames is the median of the optical flow where the picture has
texture and nobody was found (common practice in tracking by detection). Added up over a shot it
says where a place of the scene has gone, so that people are matched, and the direction they go in
is read, against the scene and not against the picture.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis
from caracal.core.analysis.tracking.flow import Field, median_move
from caracal.core.base.geometry import Box
from caracal.core.media.planes import Plane

Array = NDArray[np.float64]

STEP = 4  # tiny pixels between the places whose flow is read
TEXTURE = 12.0  # luma steps across two pixels: flow is a guess where nothing can be seen to move
PAIR = 8  # bytes of the two float32 kept for a frame
LEAST_PLACES = 12  # fewer say nothing about the camera


def global_move(field: Field, tiny: Plane, people: Sequence[Box]) -> tuple[float, float]:
    """How far the background moved from the frame before, (dx, dy) in tiny pixels.

    ``field`` (h, w, 2) is the flow, ``tiny`` (h, w) the picture it leads to, ``people`` are boxes
    in it that move by themselves. (0, 0) where too little can be seen.
    """
    seen = _textured(tiny)
    for x, y, w, h in people:
        top, bottom = _steps(y, h)
        left, right = _steps(x, w)
        seen[top:bottom, left:right] = False
    places = field[::STEP, ::STEP][seen]
    if len(places) < LEAST_PLACES:
        return 0.0, 0.0
    return median_move(places)


def _textured(tiny: Plane) -> NDArray[np.bool_]:
    """Where every STEP-th pixel of ``tiny`` differs enough from those beside it and above."""
    padded = cv2.copyMakeBorder(tiny, 1, 1, 1, 1, cv2.BORDER_REFLECT_101).astype(np.int32)
    height, width = tiny.shape
    rows, columns = slice(1, height + 1, STEP), slice(1, width + 1, STEP)
    across = padded[rows, 2 : width + 2 : STEP] - padded[rows, 0:width:STEP]
    down = padded[2 : height + 2 : STEP, columns] - padded[0:height:STEP, columns]
    return np.asarray(across * across + down * down > TEXTURE * TEXTURE)


def _steps(start: float, length: float) -> tuple[int, int]:
    """The places [first, end) of every STEP-th pixel in ``length`` pixels from ``start`` on."""
    first, end = max(0, int(start)), max(0, int(start + length) + 1)
    return -(-first // STEP), -(-end // STEP)


@dataclass(frozen=True)
class GlobalMotion:
    """Where the scene has gone in the picture, (frames, 2) in master pixels, from ``start`` on."""

    start: int
    gone: Array

    @classmethod
    def still(cls) -> GlobalMotion:
        """Returns the motion of a camera that does not move."""
        return cls(0, np.zeros((1, 2)))

    @classmethod
    def over(cls, moves: Array, start: int, end: int) -> GlobalMotion:
        """The camera over a shot [start, end); ``moves`` (n, 2) are those of the whole film.

        The move to the first frame is one over the cut, and no move of the camera.
        """
        part = moves[start:end].copy()
        if len(part) == 0:
            return cls.still()
        part[0] = 0.0
        return cls(start, np.cumsum(part, axis=0))

    @classmethod
    def of_shot(cls, analysis: Analysis, start: int, end: int) -> GlobalMotion:
        """The camera of an analysed film over [start, end)."""
        known = len(analysis.camera) // PAIR
        first, last = min(start, known), min(end, known)
        moves = np.frombuffer(analysis.camera, np.float32, 2 * (last - first), PAIR * first)
        return cls.over(moves.reshape(-1, 2).astype(np.float64), 0, last - first).since(start)

    def since(self, start: int) -> GlobalMotion:
        """The same motion, counted from frame ``start``."""
        return GlobalMotion(start, self.gone)

    def over_frames(self, start: int, count: int) -> Array:
        """How far (count, 2) the scene has gone in the frames from ``start`` on."""
        at = np.clip(np.arange(start, start + count) - self.start, 0, len(self.gone) - 1)
        return np.asarray(self.gone[at])

    def at(self, frame: int) -> Array:
        """How far (2,) the scene has gone by ``frame``; held beyond the ends."""
        return np.asarray(self.gone[min(max(frame - self.start, 0), len(self.gone) - 1)])
