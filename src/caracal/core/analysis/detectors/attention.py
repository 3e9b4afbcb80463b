"""Where a shot draws the eye when nobody is in it: a coarse map of focus, motion and colour.

What is moving, what is in focus and what has another colour than the rest stands out: contrast with
the surround along each of a few channels (Itti, Koch and Niebur, "A Model of Saliency-Based Visual
Attention for Rapid Scene Analysis", 1998), here the three that a camera and an editor work with.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import ATTENTION_SHAPE
from caracal.core.media.planes import Plane

GRID = (128, 72)  # width, height of the picture whose motion is summed
FULL_MOTION = 20.0  # luma steps of the part that moves most, at which motion has all its weight
STILL = 3.0  # luma steps from look to look that are grain, or a camera's move not quite taken out
MISPLACED = 0.5  # pixels by which the camera's move may be wrong: so edges differ by themselves
WEIGHTS = {"motion": 0.45, "focus": 0.30, "colour": 0.25}
LEAST_COLOUR = 2.0  # steps of U or V from the picture's mean: less is noise

Map = NDArray[np.float32]


class AttentionMaker:
    """Makes a map of each looked-at frame, against the one before."""

    def __init__(self) -> None:
        self._last: Map | None = None

    def score(
        self, luma: Plane, moved: tuple[float, float] = (0.0, 0.0), fine: Plane | None = None,
        colour: tuple[Plane, Plane] | None = None,
    ) -> Map:
        """The map (rows, columns) of this look, summing to 1, or 0 where nothing stands out.

        Motion is seen in ``luma``, against the look before. ``moved`` (dx, dy) is how far the
        background went since then, in pixels of ``luma``: it is taken out, so that a pan makes
        nothing of the scenery. Focus is seen in ``fine``, a larger luma of the same picture (None:
        in ``luma``), ``colour`` are its U and V.
        """
        found = {"focus": _focus(luma if fine is None else fine)}
        grid = cv2.resize(luma, GRID, interpolation=cv2.INTER_AREA).astype(np.float32)
        weights = dict(WEIGHTS)
        if self._last is not None:
            found["motion"], much = self._motion(grid, luma.shape[1], luma.shape[0], moved)
            weights["motion"] *= min(1.0, much / FULL_MOTION)
        self._last = grid
        if colour is not None:
            found["colour"] = _colour(*colour)
        total = np.zeros(ATTENTION_SHAPE, np.float32)
        for name, part in found.items():
            if part.sum() > 0:
                total += weights[name] * part / part.sum()
        whole = float(total.sum())
        return total / whole if whole > 0 else total

    def _motion(
        self, grid: Map, width: int, height: int, moved: tuple[float, float]
    ) -> tuple[Map, float]:
        """The map of what moved, and by how much luma changed where it moved most."""
        assert self._last is not None
        dx, dy = moved[0] * GRID[0] / width, moved[1] * GRID[1] / height
        shift = np.array([[1.0, 0.0, dx], [0.0, 1.0, dy]])
        # What came in over an edge was not there before: NaN there, and no motion.
        before = cv2.warpAffine(self._last, shift, GRID, borderMode=cv2.BORDER_CONSTANT,
                                borderValue=float("nan"))
        change = np.nan_to_num(np.abs(grid - before))
        edges = np.hypot(np.gradient(grid, axis=1), np.gradient(grid, axis=0))
        moving = _coarse(np.maximum(change - STILL - MISPLACED * edges, 0.0))
        return moving, float(moving.max())


def _focus(luma: Plane) -> Map:
    """Squared gradients: edges out of focus have a fraction of them."""
    picture = luma.astype(np.float32)
    across, down = np.diff(picture, axis=1)[:-1], np.diff(picture, axis=0)[:, :-1]
    return np.sqrt(_coarse(across**2 + down**2))


def _colour(u: Plane, v: Plane) -> Map:
    """How far the colour of each part is from the picture's own."""
    columns = (ATTENTION_SHAPE[1], ATTENTION_SHAPE[0])
    small = [cv2.resize(plane, columns, interpolation=cv2.INTER_AREA).astype(np.float32)
             for plane in (u, v)]
    away = np.hypot(*(moves - np.median(moves) for moves in small))
    return np.asarray(np.maximum(away - LEAST_COLOUR, 0.0), np.float32)


def _coarse(values: Map) -> Map:
    columns = (ATTENTION_SHAPE[1], ATTENTION_SHAPE[0])
    return np.asarray(cv2.resize(values, columns, interpolation=cv2.INTER_AREA), np.float32)
