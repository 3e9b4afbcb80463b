"""What lies behind pictures: one colour, or a soft copy of the same moment."""

from __future__ import annotations

import functools

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.framing.choice import Finish
from caracal.core.geometry import Box
from caracal.core.layout.model import Canvas, SoftBackdrop
from caracal.core.media.planes import Picture, Plane, Planes
from caracal.core.render.fill import filled

SMALL_SIDE = 128  # pixels of a soft copy's longer side before it is enlarged
LOWEST, MIDDLE = 16, 128  # luma of black, chroma of grey
TILE = 64  # pixels: side of the noise that keeps slow gradients from showing steps
# RGB (0..1) to YCbCr (ITU-R BT.709-6, 3.2 to 3.5), in limited range of 8 bits.
LUMA = np.array([0.2126, 0.7152, 0.0722])
BLUE, RED = 1.8556, 1.5748


def plain(rgb: tuple[int, int, int], canvas: Canvas) -> Picture:
    """A canvas (width, height) of one colour (0..255, BT.709). Its planes are not to be changed."""
    return _plain(rgb, canvas)


@functools.lru_cache(16)
def _plain(rgb: tuple[int, int, int], canvas: Canvas) -> Picture:
    width, height = canvas
    y, u, v = (np.full((height // step, width // step), level, np.uint8)
               for level, step in zip(levels(rgb), (1, 2, 2), strict=True))
    for plane in (y, u, v):
        plane.flags.writeable = False
    return y, u, v


def levels(rgb: tuple[int, int, int]) -> tuple[int, int, int]:
    """The 8-bit levels of luma and chroma, in limited range, of a colour (0..255)."""
    colour = np.array(rgb) / 255
    luma = float(LUMA @ colour)
    blue, red = (float(colour[2]) - luma) / BLUE, (float(colour[0]) - luma) / RED
    return (round(LOWEST + 219 * luma), round(MIDDLE + 224 * blue), round(MIDDLE + 224 * red))


def soft(
    planes: Planes, window: Box, canvas: Canvas, backdrop: SoftBackdrop, turned: Finish
) -> Picture:
    """``window`` of ``planes`` on a canvas (width, height), blurred and dimmed.

    It is blurred when it is small: so it costs little, and is the same on a canvas of any size.
    """
    scale = min(1.0, SMALL_SIDE / max(canvas))
    small = (max(8, 2 * round(canvas[0] * scale / 2)), max(8, 2 * round(canvas[1] * scale / 2)))
    sigma = backdrop.blur * max(small)
    made = []
    for plane, step, dark in zip(filled(planes, window, small, turned), (1, 2, 2),
                                 (LOWEST, MIDDLE, MIDDLE), strict=True):
        values = plane.astype(np.float32)
        if sigma > 0:
            values = np.asarray(cv2.GaussianBlur(values, (0, 0), sigma / step), np.float32)
        values = dark + (values - dark) * (1 - backdrop.dim)
        made.append(_enlarged(values, (canvas[0] // step, canvas[1] // step)))
    return made[0], made[1], made[2]


def _enlarged(values: NDArray[np.float32], size: Canvas) -> Plane:
    """``values`` (h, w) brought to ``size`` (width, height), rounded with noise of one level."""
    large = cv2.resize(values, size, interpolation=cv2.INTER_CUBIC)
    across, down = -(-size[0] // TILE), -(-size[1] // TILE)
    cv2.add(large, np.tile(_noise(), (down, across))[: size[1], : size[0]], dst=large)
    return np.asarray(cv2.convertScaleAbs(large), np.uint8)


@functools.cache
def _noise() -> NDArray[np.float32]:
    """Noise (TILE, TILE) between -0.5 and 0.5, always the same."""
    return np.random.default_rng(709).uniform(-0.5, 0.5, (TILE, TILE)).astype(np.float32)
