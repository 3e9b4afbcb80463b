"""The small picture every analysis step looks at, and the proxy shows: made once a frame."""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.media.planes import Plane, Planes

LONG_SIDE = 960  # sharp enough to judge a framing on; halving 1080p to it is nearly free


def small_size(width: int, height: int) -> tuple[int, int]:
    """Even (width, height) with the master's shape whose long side is at most LONG_SIDE."""
    scale = min(1.0, LONG_SIDE / max(width, height))
    return max(2, round(width * scale / 2) * 2), max(2, round(height * scale / 2) * 2)


def shrink(planes: Planes, size: tuple[int, int]) -> Planes:
    """``planes`` scaled to ``size`` (width, height) with square pixels, by area averaging."""
    width, height = size
    half = (width // 2, height // 2)

    def fit(plane: Plane, wanted: tuple[int, int]) -> Plane:
        # Halving by area averaging is many times faster than any other exact scale.
        while plane.shape[1] >= wanted[0] * 1.5 and plane.shape[0] >= wanted[1] * 1.5:
            halved = (plane.shape[1] // 2, plane.shape[0] // 2)
            if halved[0] < wanted[0]:
                break
            plane = np.asarray(cv2.resize(plane, halved, interpolation=cv2.INTER_AREA))
        if plane.shape == (wanted[1], wanted[0]):
            return plane.copy() if not plane.flags.owndata else plane
        return np.asarray(cv2.resize(plane, wanted, interpolation=cv2.INTER_LINEAR), np.uint8)

    return Planes(fit(planes.y, size), fit(planes.u, half), fit(planes.v, half))
