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

    def look(self, luma: Plane, moved: tuple[float, float] = (0.0, 0.0)) -> Map:
        """The map (rows, columns) of this look; motion is against the look before.

        ``moved`` (dx, dy) is how far the background went since then, in pixels of ``luma``: it is
        taken out, so that a pan makes nothing of the scenery.
        """
        grid = cv2.resize(luma, GRID, interpolation=cv2.INTER_AREA).astype(np.float32)
        across, down = np.gradient(grid, axis=1), np.gradient(grid, axis=0)
        energy = np.hypot(across, down)
        if self._last is not None:
            dx, dy = moved[0] * GRID[0] / luma.shape[1], moved[1] * GRID[1] / luma.shape[0]
            shift = np.array([[1.0, 0.0, dx], [0.0, 1.0, dy]])
            # What came in over an edge was not there before: NaN there, and no motion.
            before = cv2.warpAffine(self._last, shift, GRID, borderMode=cv2.BORDER_CONSTANT,
                                    borderValue=float("nan"))
            energy += MOTION_WEIGHT * np.nan_to_num(np.abs(grid - before))
        self._last = grid
        rows, columns = ATTENTION_SHAPE
        return np.asarray(
            cv2.resize(energy, (columns, rows), interpolation=cv2.INTER_AREA), np.float32
        )
