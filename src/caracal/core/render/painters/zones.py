"""A review copy's overlay: the destination's zones over the picture, drawn once for all frames."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from caracal.core.base.resources import shipped
from caracal.core.layout.model import Canvas
from caracal.core.media.bt709 import chroma_levels, luma_levels, to_ycbcr
from caracal.core.media.planes import Picture
from caracal.core.render.layers import ZonesLayer
from caracal.core.render.masks import with_chroma
from caracal.core.render.painters.registry import Painting, paints
from caracal.core.specs.sheet import SpecSheet, Zone
from caracal.core.specs.zones import safe_areas

Weights = NDArray[np.float32]

COVER = (20, 20, 20, 120)
INK = (230, 218, 196, 210)
LINE_SHARE = 0.004  # of the canvas's width
WORDS_SHARE = 0.03


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
    luma, blue, red = to_ycbcr(pixels[..., :3] / np.float32(255))
    planes = (luma_levels(luma), chroma_levels(with_chroma(blue)[1]),
              chroma_levels(with_chroma(red)[1]))
    return DrawnZones(planes, *with_chroma(pixels[..., 3] / np.float32(255)))


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


@functools.lru_cache(4)
def _drawn(sheet: SpecSheet, canvas: Canvas) -> DrawnZones:
    return review_overlay(sheet, canvas)


@paints(ZonesLayer)
def paint_zones(layer: ZonesLayer, canvas: Picture | None, painting: Painting) -> Picture:
    """The destination's zones over a finished picture."""
    assert canvas is not None, "zones lie over a picture"
    return _drawn(layer.sheet, painting.scene.canvas).over(canvas)
