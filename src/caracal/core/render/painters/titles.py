"""Words as planes: titles that fit their box, and lines of captions."""

from __future__ import annotations

import functools
import math

from caracal.core.base.geometry import Box, Region
from caracal.core.layout.model import Canvas, Target
from caracal.core.layout.overlay import title_box
from caracal.core.media.planes import Picture
from caracal.core.render.assets.pictures import planes_of
from caracal.core.render.layers import TextLayer
from caracal.core.render.masks import Masks, mixed_onto, with_chroma
from caracal.core.text.block import TextBlock, fitted
from caracal.core.text.caption_track import CaptionTrack, SetCaption
from caracal.core.text.raster import NOTHING_SAID, NOWHERE, Said, Shift, sprite
from caracal.core.text.style import Align, TextStyle, Title

STEPS = 8  # of a pixel: finer nobody sees, and sprites are kept


def title_planes(
    title: Title, box: tuple[float, float], target: Target
) -> tuple[Picture, Masks, Target]:
    """A title's pixels, what they cover, and where they lie in its ``target``.

    ``box`` is what it fits, in shorter sides of the canvas; smaller in pixels while it grows.
    Raises InputError when its font cannot be used.
    """
    block, size_px, (x, y, _, _) = _laid(title, box, target)
    return text_at(block, title.style, size_px, (x, y))


def title_area(title: Title, region: Region, canvas: Canvas) -> Box:
    """Where (x, y, w, h) on ``canvas`` the lines of a title lie. Raises InputError."""
    (left, right), (top, bottom) = region
    whole = (left * canvas[0], top * canvas[1], (right - left) * canvas[0],
             (bottom - top) * canvas[1])
    return _laid(title, title_box(region, canvas), whole)[2]


def _laid(
    title: Title, box: tuple[float, float], target: Box
) -> tuple[TextBlock, float, Box]:
    """A title's lines in a ``target``, the size of their letters in pixels, and their place."""
    block, size = fitted(title, *box)
    x, y, width, height = target
    size_px = size * width / box[0]
    share = {Align.LEFT: 0.0, Align.MIDDLE: 0.5, Align.RIGHT: 1.0}[title.style.align]
    wide, high = block.width * size_px, block.height * size_px
    return block, size_px, (x + (width - wide) * share, y + (height - high) / 2, wide, high)


def text_at(
    block: TextBlock, style: TextStyle, size_px: float, corner: tuple[float, float],
    said: Said = NOTHING_SAID,
) -> tuple[Picture, Masks, Target]:
    """Lines whose upper left corner lies at ``corner``, in pixels and parts of them."""
    x, y = (2 * math.floor(side / 2) for side in corner)
    shift = (round((corner[0] - x) * STEPS) / STEPS, round((corner[1] - y) * STEPS) / STEPS)
    pixels, masks = text_planes(block, style, size_px, said, shift)
    high, wide = masks[0].shape
    return pixels, masks, (x, y, wide, high)


def caption_layer(track: CaptionTrack, frame: int, canvas: Canvas) -> TextLayer | None:
    """The layer of the caption that is seen at ``frame``; None where there is none."""
    caption = track.at(frame)
    return None if caption is None else layer_of(track, caption, frame, canvas)


def layer_of(track: CaptionTrack, caption: SetCaption, frame: int, canvas: Canvas) -> TextLayer:
    """The layer of a ``caption`` at ``frame``, where it stands."""
    return TextLayer(caption.block, track.look_of(caption).style, track.point(caption, canvas),
                     caption.stand.anchor, min(canvas), track.said(caption, frame))


def with_text(layer: TextLayer, canvas: Picture) -> Picture:
    """``canvas`` with lines of words on it."""
    block, size_px = layer.block, layer.style.size * layer.side
    return mixed_onto(canvas, *text_at(block, layer.style, size_px, (
        layer.point[0] * canvas[0].shape[1] - block.width * size_px / 2,
        layer.point[1] * canvas[0].shape[0] - block.height * size_px * layer.anchor), layer.said))


@functools.lru_cache(48)
def text_planes(
    block: TextBlock, style: TextStyle, size_px: float, said: Said = NOTHING_SAID,
    shift: Shift = NOWHERE,
) -> tuple[Picture, Masks]:
    """Lines in letters of ``size_px`` as planes of BT.709 in limited range, and what they cover."""
    made = sprite(block, style, size_px, said, shift)
    return planes_of(made.rgb), with_chroma(made.covers)
