"""RGB to YCbCr as ITU-R BT.709-6, 3.2 to 3.5, has it, in limited range of 8 bits."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from caracal.core.base.colours import Rgb

Samples = NDArray[np.float32]

LOWEST, MIDDLE = 16, 128  # luma of black, chroma of grey
LUMA = np.array([0.2126, 0.7152, 0.0722])
BLUE, RED = 1.8556, 1.5748


def levels(rgb: Rgb) -> tuple[int, int, int]:
    """The 8-bit levels of luma and chroma, in limited range, of a colour (0..255)."""
    y, u, v = exact_levels(rgb)
    return round(y), round(u), round(v)


def exact_levels(rgb: Rgb) -> tuple[float, float, float]:
    """As :func:`levels`, before they are rounded."""
    colour = np.array(rgb) / 255
    luma = float(LUMA @ colour)
    blue, red = (float(colour[2]) - luma) / BLUE, (float(colour[0]) - luma) / RED
    return LOWEST + 219 * luma, MIDDLE + 224 * blue, MIDDLE + 224 * red


def to_ycbcr(rgb: Samples) -> tuple[Samples, Samples, Samples]:
    """Luma (0..1) and the two colour differences (-0.5..0.5), (h, w) each, of ``rgb`` (h, w, 3),
    0..1."""
    luma = rgb @ LUMA.astype(np.float32)
    return luma, (rgb[:, :, 2] - luma) / BLUE, (rgb[:, :, 0] - luma) / RED


def from_ycbcr(luma: NDArray[Any], blue: NDArray[Any], red: NDArray[Any]) -> Samples:
    """The reverse of :func:`to_ycbcr`, held within 0..1: (h, w, 3)."""
    r, b = luma + RED * red, luma + BLUE * blue
    g = (luma - LUMA[0] * r - LUMA[2] * b) / LUMA[1]
    return np.asarray(np.clip(np.dstack([r, g, b]), 0, 1), np.float32)


def luma_levels(luma: Samples) -> Samples:
    """Luma (0..1) in levels of 8 bits, limited range, before they are rounded."""
    return LOWEST + 219 * luma


def chroma_levels(difference: Samples) -> Samples:
    """A colour difference (-0.5..0.5) in levels of 8 bits, limited range, before rounding."""
    return MIDDLE + 224 * difference
