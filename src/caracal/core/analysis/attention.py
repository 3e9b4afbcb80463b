"""Where a shot draws the eye when nobody is in it: a coarse map of contrast and motion."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import ATTENTION_SHAPE
from caracal.core.media.planes import Plane

MOTION_WEIGHT = 4.0  # a luma step between looks counts this much more than one between pixels
GRID = (128, 72)  # width, height of the picture whose gradients are summed

Map = NDArray[np.float32]


class AttentionMaker:
    """Adds up contrast and motion of the looked-at frames of a shot."""

    def __init__(self) -> None:
        self._last: Map | None = None

    def look(self, luma: Plane) -> Map:
        """The map (rows, columns) of this look; motion is against the look before."""
        grid = cv2.resize(luma, GRID, interpolation=cv2.INTER_AREA).astype(np.float32)
        across, down = np.gradient(grid, axis=1), np.gradient(grid, axis=0)
        energy = np.hypot(across, down)
        if self._last is not None:
            energy += MOTION_WEIGHT * np.abs(grid - self._last)
        self._last = grid
        rows, columns = ATTENTION_SHAPE
        return np.asarray(
            cv2.resize(energy, (columns, rows), interpolation=cv2.INTER_AREA), np.float32
        )
