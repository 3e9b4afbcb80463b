"""Emoji as pictures, from the colour font that ships."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from caracal.core.base.resources import shipped
from caracal.core.text.runs import WIDE

FONT = "NotoColorEmoji.ttf"
STRIKE = 109  # pixels of an em: the one size in which the font has its pictures
SHEET = 2 * STRIKE
FINE = 4  # times as large an emoji is placed, for moves of less than a pixel

Picture = NDArray[np.float32]


@functools.lru_cache(1)
def _font() -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(str(shipped("fonts", FONT)), STRIKE,
                              layout_engine=ImageFont.Layout.RAQM)


@functools.lru_cache(512)
def _drawn(cluster: str) -> Image.Image:
    """The picture of ``cluster``, premultiplied, as large as the font has it."""
    sheet = Image.new("RGBA", (SHEET * max(2, len(cluster)), SHEET))
    ImageDraw.Draw(sheet).text((STRIKE // 2, SHEET - STRIKE // 2), cluster, font=_font(),
                               embedded_color=True, anchor="ls")
    return sheet.crop(sheet.getbbox() or (0, 0, STRIKE, STRIKE)).convert("RGBa")


def emoji_on(
    shape: tuple[int, ...], cluster: str, left: float, middle: float, size_px: float
) -> tuple[tuple[slice, slice], Picture, Picture] | None:
    """The picture of ``cluster`` on a sprite of (height, width), beside letters of ``size_px``.

    Its left edge and its middle lie there. Returns where it lies (rows, columns), its colours
    (h, w, 3) and what they cover (h, w), of 0..1; None: it lies outside.
    """
    drawn, side = _drawn(cluster), WIDE * size_px
    share = min(side / drawn.width, side / drawn.height)
    wide, high = drawn.width * share, drawn.height * share
    left, top = left + (side - wide) / 2, middle - high / 2
    x, y = int(np.floor(left)), int(np.floor(top))
    columns, rows = int(np.ceil(left + wide)) - x + 1, int(np.ceil(top + high)) - y + 1
    fine = Image.new("RGBa", (columns * FINE, rows * FINE))
    fine.paste(drawn.resize((max(1, round(wide * FINE)), max(1, round(high * FINE))),
                            Image.Resampling.LANCZOS, reducing_gap=3.0),
               (round((left - x) * FINE), round((top - y) * FINE)))
    made = np.asarray(fine.reduce(FINE).convert("RGBA"), np.float32) / np.float32(255)
    cut = (slice(max(0, -y), max(0, min(rows, shape[0] - y))),
           slice(max(0, -x), max(0, min(columns, shape[1] - x))))
    made = made[cut]
    if not made.size:
        return None
    place = (slice(y + cut[0].start, y + cut[0].start + made.shape[0]),
             slice(x + cut[1].start, x + cut[1].start + made.shape[1]))
    return place, made[..., :3], made[..., 3]
