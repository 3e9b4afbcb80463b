"""Words as planes: titles that fit their box, and lines of captions."""

from __future__ import annotations

import functools

from caracal.core.layout.model import Canvas, Target
from caracal.core.media.planes import Picture
from caracal.core.render.assets import planes_of
from caracal.core.render.borders import Masks, mixed_onto, with_chroma
from caracal.core.render.layers import TextLayer
from caracal.core.text.block import TextBlock, fitted
from caracal.core.text.captions import ANCHOR, CaptionPlace, CaptionTrack, SetCaption
from caracal.core.text.raster import NOTHING_SAID, Said, sprite
from caracal.core.text.style import Align, TextStyle, Title


def title_planes(
    title: Title, box: tuple[float, float], target: Target
) -> tuple[Picture, Masks, Target]:
    """A title's pixels, what they cover, and where they lie in its ``target``.

    ``box`` is what it fits, in shorter sides of the canvas; smaller in pixels while it grows.
    Raises InputError when its font cannot be used.
    """
    block, size = fitted(title, *box)
    pixels, masks = text_planes(block, title.style, size * target[2] / box[0])
    x, y, width, height = target
    high, wide = masks[0].shape
    share = {Align.LEFT: 0.0, Align.MIDDLE: 0.5, Align.RIGHT: 1.0}[title.style.align]
    return pixels, masks, (x + 2 * round((width - wide) * share / 2),
                           y + (height - high) // 4 * 2, wide, high)


def caption_layer(track: CaptionTrack, frame: int, canvas: Canvas) -> TextLayer | None:
    """The layer of the caption that is seen at ``frame``; None where there is none."""
    caption = track.at(frame)
    return None if caption is None else layer_of(track, caption, caption.place, frame, canvas)


def layer_of(
    track: CaptionTrack, caption: SetCaption, place: CaptionPlace, frame: int, canvas: Canvas
) -> TextLayer:
    """The layer of a ``caption`` that stands in ``place``, at ``frame``."""
    (left, right), (top, bottom) = track.clear
    anchor = ANCHOR[place]
    return TextLayer(caption.block, track.look.style,
                     ((left + right) / 2, top + (bottom - top) * anchor), anchor, min(canvas),
                     track.said(caption, frame))


def with_text(layer: TextLayer, canvas: Picture) -> Picture:
    """``canvas`` with lines of words on it."""
    pixels, masks = text_planes(layer.block, layer.style, layer.style.size * layer.side, layer.said)
    high, wide = masks[0].shape
    x = 2 * round((layer.point[0] * canvas[0].shape[1] - wide / 2) / 2)
    y = 2 * round((layer.point[1] * canvas[0].shape[0] - high * layer.anchor) / 2)
    return mixed_onto(canvas, pixels, masks, (x, y, wide, high))


@functools.lru_cache(48)
def text_planes(
    block: TextBlock, style: TextStyle, size_px: float, said: Said = NOTHING_SAID
) -> tuple[Picture, Masks]:
    """Lines in letters of ``size_px`` as planes of BT.709 in limited range, and what they cover."""
    made = sprite(block, style, size_px, said)
    return planes_of(made.rgb), with_chroma(made.covers)
