"""How sharp a part of a picture is: what the camera is focused on is what it means to show."""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.base.geometry import Box
from caracal.core.media.planes import Plane

FAR = 4  # pixels: the distance over which a sharp edge changes no more than over one
INNER = 0.1  # of the box left out at each side: what is behind shows there
LEAST_SIDE = 12  # pixels: smaller parts say nothing
LEAST_CONTRAST = 2.0  # luma steps over FAR pixels: an even face of cloth says nothing


def sharpness(luma: Plane, box: Box) -> float | None:
    """How sharp ``luma`` (h, w) is inside ``box`` (pixels): 1 for hard edges, 0.25 for soft ones.

    The squared gradient over one pixel to that over four, times four: a step has as much change in
    one pixel as in four, a slope a sixteenth (arithmetic). None where there is too little to say.
    """
    x, y, w, h = box
    left, right = int(x + INNER * w), int(x + (1 - INNER) * w)
    top, bottom = int(y + INNER * h), int(y + (1 - INNER) * h)
    part = luma[max(0, top) : max(0, bottom), max(0, left) : max(0, right)]
    if min(part.shape) < LEAST_SIDE:
        return None
    part = np.ascontiguousarray(part)
    near = _change(part, 1)
    far = _change(part, FAR)
    return round(near / far * FAR, 3) if far >= LEAST_CONTRAST**2 else None


def _change(part: Plane, step: int) -> float:
    """The mean squared difference over ``step`` pixels, across and down."""
    across = cv2.norm(part[:, step:], part[:, :-step], cv2.NORM_L2SQR)
    down = cv2.norm(part[step:], part[:-step], cv2.NORM_L2SQR)
    return float(across + down) / part.size
