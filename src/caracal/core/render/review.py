"""A review copy's overlay: the destination's zones over the picture, drawn once for all frames."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from caracal.core.media.planes import Picture
from caracal.core.resources import shipped
from caracal.core.specs.sheet import SpecSheet, Zone
from caracal.core.specs.zones import safe_areas

Weights = NDArray[np.float32]

COVER = (20, 20, 20, 120)
INK = (230, 218, 196, 210)
LINE_SHARE = 0.004  # of the canvas's width
WORDS_SHARE = 0.03
# RGB to limited-range BT.709 YCbCr (ITU-R BT.709-6, 3.2 to 3.5).
TO_YUV = np.array([[0.2126, 0.7152, 0.0722], [-0.1146, -0.3854, 0.5], [0.5, -0.4542, -0.0458]])
SCALE, OFFSET = np.array([219, 224, 224]) / 255, np.array([16, 128, 128])


@dataclass(frozen=True)
class DrawnZones:
    """Planes to lay over a canvas, and how much of them: 0..1, luma (h, w), chroma (h/2, w/2)."""

    planes: tuple[Weights, Weights, Weights]
    luma_share: Weights
    chroma_share: Weights

    def over(self, canvas: Picture) -> Picture:
        """Returns ``canvas`` with the drawn zones over it."""
        shares = (self.luma_share, self.chroma_share, self.chroma_share)
        y, u, v = (np.rint(plane + (mine - plane) * share).astype(np.uint8)
                   for plane, mine, share in zip(canvas, self.planes, shares, strict=True))
        return y, u, v


def review_overlay(sheet: SpecSheet, canvas: tuple[int, int]) -> DrawnZones:
    """The covers and safe areas of ``sheet`` on a canvas (width, height), in words what lies there.
    """
    width, height = canvas
    image = Image.new("RGBA", (width, height), (0, 0, 0, 0))
    draw = ImageDraw.Draw(image, "RGBA")
    font = ImageFont.truetype(str(next(shipped("fonts").glob("Figtree*.ttf"))),
                              max(10, round(WORDS_SHARE * width)))
    line = max(1, round(LINE_SHARE * width))
    for zone in sheet.covers:
        box = _box(zone, canvas)
        draw.rectangle(box, COVER, INK, line)
        _words(draw, zone.what, box, font)
    for zone in safe_areas(sheet):
        box = _box(zone, canvas)
        draw.rectangle(box, None, INK, line)
        draw.text((box[0] + 3 * line, box[1] + 2 * line), zone.what, INK, font)
    pixels = np.asarray(image, np.float32)
    share: Weights = np.asarray(pixels[..., 3] / 255, np.float32)
    yuv: Weights = np.asarray(pixels[..., :3] @ TO_YUV.T * SCALE + OFFSET, np.float32)
    return DrawnZones((yuv[..., 0], _halved(yuv[..., 1]), _halved(yuv[..., 2])), share,
                   _halved(share))


def _halved(plane: Weights) -> Weights:
    """Means of 2 x 2 pixels."""
    height, width = plane.shape
    pairs = plane.reshape(height // 2, 2, width // 2, 2)
    return np.asarray(pairs.mean((1, 3)), np.float32)


def _box(zone: Zone, canvas: tuple[int, int]) -> tuple[float, float, float, float]:
    (left, right), (top, bottom) = zone.part
    width, height = canvas
    return left * width, top * height, right * width - 1, bottom * height - 1


def _words(
    draw: ImageDraw.ImageDraw, words: str, box: tuple[float, float, float, float],
    font: ImageFont.FreeTypeFont,
) -> None:
    """In the middle of a zone, if there is room."""
    wide = draw.textlength(words, font)
    if wide < box[2] - box[0]:
        draw.text(((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), words, INK, font, anchor="mm")
