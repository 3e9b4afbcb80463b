"""Paths as cubic B-splines: few numbers a second, smooth by construction.

A path is the curve of control points that lie ``knot`` frames apart. A curve stays between its
neighbouring control points and moves no faster than they do, so that limits put on the points hold
for every frame. Source: de Boor, "A Practical Guide to Splines", 1978, chapters IX and XI.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.interpolate import BSpline

Array = NDArray[np.float64]

DEGREE = 3


@dataclass(frozen=True)
class Basis:
    """The curve of a shot of ``frames`` frames: places = ``matrix`` (frames, points) @ points."""

    frames: int
    knot: int
    matrix: sparse.csr_matrix

    @property
    def points(self) -> int:
        """How many control points there are."""
        return int(self.matrix.shape[1])

    def under(self, values: Array) -> Array:
        """For each control point the least of ``values`` (frames,) in the frames it touches."""
        return self._folded(values, np.minimum, np.inf)

    def over(self, values: Array) -> Array:
        """For each control point the most of ``values`` (frames,) in the frames it touches."""
        return self._folded(values, np.maximum, -np.inf)

    def _folded(self, values: Array, fold: np.ufunc, nothing: float) -> Array:
        touched = self.matrix.tocoo()
        found = np.full(self.points, nothing)
        fold.at(found, touched.col, values[touched.row])
        missing = ~np.isfinite(found)
        found[missing] = fold.reduce(values)
        return found


@functools.lru_cache(maxsize=256)
def basis(frames: int, knot: int) -> Basis:
    """The uniform cubic basis over ``frames`` frames with a control point every ``knot``."""
    spans = max(1, -(-(frames - 1) // knot))
    knots = np.arange(-DEGREE, spans + DEGREE + 1, dtype=np.float64) * knot
    matrix = BSpline.design_matrix(np.arange(frames, dtype=np.float64), knots, DEGREE)
    return Basis(frames, knot, sparse.csr_matrix(matrix))
