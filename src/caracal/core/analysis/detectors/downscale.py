"""The small picture every analysis step looks at, and the proxy shows: made once a frame."""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.media.planes import Plane, Planes

LONG_SIDE = 960  # sharp enough to judge a framing on; halving 1080p to it is nearly free


def proxy_size(width: int, height: int) -> tuple[int, int]:
    """Even (width, height) with the master's shape whose long side is at most LONG_SIDE."""
    scale = min(1.0, LONG_SIDE / max(width, height))
    return max(2, round(width * scale / 2) * 2), max(2, round(height * scale / 2) * 2)


def halved(picture: Plane, wanted: tuple[int, int]) -> Plane:
    """``picture`` (h, w) or (h, w, 3), halved while it stays as wide as ``wanted`` (w, h).

    Halving by area averaging is many times faster than any other exact scale.
    """
    while picture.shape[1] // 2 >= wanted[0] and picture.shape[0] >= wanted[1] * 1.5:
        half = (picture.shape[1] // 2, picture.shape[0] // 2)
        picture = np.asarray(cv2.resize(picture, half, interpolation=cv2.INTER_AREA), np.uint8)
    return picture


def downscaled(planes: Planes, size: tuple[int, int]) -> Planes:
    """``planes`` scaled to ``size`` (width, height) with square pixels, by area averaging."""
    width, height = size
    half = (width // 2, height // 2)

    def fit(plane: Plane, wanted: tuple[int, int]) -> Plane:
        plane = halved(plane, wanted)
        if plane.shape == (wanted[1], wanted[0]):
            return plane.copy() if not plane.flags.owndata else plane
        return np.asarray(cv2.resize(plane, wanted, interpolation=cv2.INTER_LINEAR), np.uint8)

    return Planes(fit(planes.y, size), fit(planes.u, half), fit(planes.v, half))
