"""What lies behind pictures: one colour, two that blend, or a soft copy of the same moment."""

from __future__ import annotations

import functools
import math

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.colours import Rgb
from caracal.core.base.geometry import Box
from caracal.core.framing.choice import Finish
from caracal.core.layout.model import Canvas, SoftBackdrop
from caracal.core.media.bt709 import LOWEST, MIDDLE, exact_levels, levels
from caracal.core.media.planes import Picture, Plane, Planes
from caracal.core.render.painters.fill import filled

SMALL_SIDE = 128  # pixels of a soft copy's longer side before it is enlarged
TILE = 64  # pixels: side of the noise that keeps slow gradients from showing steps


def plain(rgb: Rgb, canvas: Canvas) -> Picture:
    """A canvas (width, height) of one colour (0..255, BT.709). Its planes are not to be changed."""
    return _plain(rgb, canvas)


@functools.lru_cache(16)
def _plain(rgb: Rgb, canvas: Canvas) -> Picture:
    width, height = canvas
    y, u, v = (np.full((height // step, width // step), level, np.uint8)
               for level, step in zip(levels(rgb), (1, 2, 2), strict=True))
    for plane in (y, u, v):
        plane.flags.writeable = False
    return y, u, v


def blend(rgb: Rgb, other: Rgb, degrees: float, canvas: Canvas) -> Picture:
    """A canvas (width, height) that goes from one colour to the other, 0..255 of BT.709.

    0 ``degrees`` goes from left to right, 90 from top to bottom. Its planes are not to be changed.
    """
    return _blend(rgb, other, degrees, canvas)


@functools.lru_cache(4)
def _blend(rgb: Rgb, other: Rgb, degrees: float, canvas: Canvas) -> Picture:
    """Mixed in the colours' own values, as drawing programs do (common practice)."""
    across, down = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    long = abs(canvas[0] * across) + abs(canvas[1] * down)
    made = []
    for level, end, step in zip(exact_levels(rgb), exact_levels(other), (1, 2, 2), strict=True):
        width, height = canvas[0] // step, canvas[1] // step
        # Luma from each pixel's middle; chroma lies on even columns, between two rows.
        x = (np.arange(width) + 0.5) if step == 1 else (np.arange(width) * 2 + 0.5)
        y = (np.arange(height) + 0.5) if step == 1 else (np.arange(height) * 2 + 1.0)
        share = 0.5 + ((x - canvas[0] / 2)[None] * across
                       + (y - canvas[1] / 2)[:, None] * down) / long
        values = (level + (end - level) * np.clip(share, 0, 1)).astype(np.float32)
        made.append(_dithered(values))
        made[-1].flags.writeable = False
    return made[0], made[1], made[2]


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
    return _dithered(np.asarray(cv2.resize(values, size, interpolation=cv2.INTER_CUBIC)))


def _dithered(values: NDArray[np.float32]) -> Plane:
    """``values`` (h, w), which are used up, rounded with noise of one level."""
    height, width = values.shape
    across, down = -(-width // TILE), -(-height // TILE)
    cv2.add(values, np.tile(_noise(), (down, across))[:height, :width], dst=values)
    return np.asarray(cv2.convertScaleAbs(values), np.uint8)


@functools.cache
def _noise() -> NDArray[np.float32]:
    """Noise (TILE, TILE) between -0.5 and 0.5, always the same."""
    return np.random.default_rng(709).uniform(-0.5, 0.5, (TILE, TILE)).astype(np.float32)
