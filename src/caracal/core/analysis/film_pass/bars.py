"""The active picture: what lies inside baked-in black bars."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from caracal.core.media.planes import Plane

DARK = 22.0  # limited-range luma; black is 16, compression wobbles a little
LEAST_BAR = 0.015  # thinner edges are blanking errors, not letterbox
LEAST_BRIGHT = 40.0  # a frame this dark everywhere says nothing about bars


class BarFinder:
    """Collects, over many frames, how bright each row and column ever gets."""

    def __init__(self) -> None:
        self._rows: NDArray[np.float64] | None = None
        self._columns: NDArray[np.float64] | None = None

    def add(self, luma: Plane) -> None:
        """Take one full-size luma plane (h, w) into account."""
        if float(luma[::16, ::16].max()) < LEAST_BRIGHT:
            return
        # A high percentile rather than the maximum: one bright speck is not a picture.
        rows = np.percentile(luma[:, ::16], 98, axis=1)
        columns = np.percentile(luma[::16, :], 98, axis=0)
        self._rows = rows if self._rows is None else np.maximum(self._rows, rows)
        self._columns = columns if self._columns is None else np.maximum(self._columns, columns)

    def state(self) -> tuple[bytes, bytes]:
        """What is known so far, for :meth:`restore`; as exact as :meth:`active` needs it."""
        if self._rows is None or self._columns is None:
            return b"", b""
        return (np.ceil(self._rows).astype(np.uint8).tobytes(),
                np.ceil(self._columns).astype(np.uint8).tobytes())

    def restore(self, rows: bytes, columns: bytes) -> None:
        """Go on from a :meth:`state`."""
        self._rows = np.frombuffer(rows, np.uint8).astype(np.float64) if rows else None
        self._columns = np.frombuffer(columns, np.uint8).astype(np.float64) if columns else None

    def active(self, width: int, height: int) -> tuple[float, float, float, float]:
        """The active picture (x, y, w, h) of a picture ``width`` x ``height`` (upright)."""
        if self._rows is None or self._columns is None:
            return (0.0, 0.0, float(width), float(height))
        top, bottom = _lit(self._rows)
        left, right = _lit(self._columns)
        scale = width / len(self._columns)
        return (left * scale, float(top), (right - left) * scale, float(bottom - top))


def _lit(profile: NDArray[np.float64]) -> tuple[int, int]:
    """First and last-exclusive lit line; bars must be on both sides and about equal."""
    lit = np.nonzero(profile > DARK)[0]
    if len(lit) == 0:
        return 0, len(profile)
    first, last = int(lit[0]), int(lit[-1]) + 1
    before, after = first, len(profile) - last
    if max(before, after) < LEAST_BAR * len(profile):
        return 0, len(profile)
    return first, last
