"""Overlays on a canvas: pictures and shapes, mixed with what lies behind as strongly as they are.

Modes other than normal mix red, green and blue, as the W3C's Compositing and Blending Level 1 has
it (9.1), on values as they are encoded.
"""

from __future__ import annotations

import functools
from collections.abc import Sequence

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from caracal.core.base.colours import rgb_of
from caracal.core.layout.model import Canvas, FileContent, Target
from caracal.core.layout.overlay import (
    BlendMode,
    Shape,
    ShapeKind,
)
from caracal.core.media.bt709 import (
    LOWEST,
    MIDDLE,
    chroma_levels,
    from_ycbcr,
    levels,
    luma_levels,
    to_ycbcr,
)
from caracal.core.media.planes import Picture
from caracal.core.render.layers import OverlayLayer
from caracal.core.render.masks import Mask, Masks, mixed_into, mixed_onto, rounded, with_chroma
from caracal.core.render.painters.asset_pictures import asset_picture
from caracal.core.render.painters.backdrops import blend, plain
from caracal.core.render.painters.registry import Painting, paints
from caracal.core.render.painters.titles import title_planes
from caracal.core.text.style import Title

FINE = 4  # times as large a shape is drawn, for smooth edges
HEAD, SHAFT = 0.45, 0.42  # of an arrow: its head's share of the length, its shaft's of the height
Rgb = NDArray[np.float32]


def with_layer(
    layer: OverlayLayer, canvas: Picture, stand_in: Picture | None = None
) -> Picture:
    """``canvas`` with an overlay on it. ``stand_in`` is shown where its picture cannot be.

    Raises InputError when a picture file cannot be used and nothing stands for it.
    """
    pixels, masks, target = _shown(layer, stand_in)
    masks = _partly(masks, target[2:], layer)
    return mixed_onto(canvas, pixels, masks, target, None if layer.blend is BlendMode.NORMAL
                      else functools.partial(_blended, mode=layer.blend))


def _shown(layer: OverlayLayer, stand_in: Picture | None) -> tuple[Picture, Masks | None, Target]:
    """An overlay's pixels, what of them covers, and where they lie on the canvas."""
    x, y, width, height = layer.target
    content = layer.content
    if stand_in is not None:
        return stand_in, None, layer.target
    if isinstance(content, FileContent):
        pixels, masks, size = asset_picture(content, (width, height), layer.moment_s, True)
        x, y = x + (width - size[0]) // 4 * 2, y + (height - size[1]) // 4 * 2
        return pixels, masks, (x, y, *size)
    if isinstance(content, Title):
        return title_planes(content, layer.box, layer.target)
    colour, size = rgb_of(content.colour), (width, height)
    made = (plain(colour, size) if content.other is None
            else blend(colour, rgb_of(content.other), content.degrees, size))
    if content.outline is not None and content.kind in (ShapeKind.RECTANGLE, ShapeKind.CIRCLE):
        made = _outlined(made, content, layer)
    return made, _mask(content, size, layer.radius), layer.target


def _outlined(made: Picture, shape: Shape, layer: OverlayLayer) -> Picture:
    assert shape.outline is not None
    width, height = layer.target[2:]
    thick = max(2, 2 * round(shape.outline.width * layer.side / 2))
    inner = (max(2, width - 2 * thick), max(2, height - 2 * thick))
    radius = max(0.0, layer.radius * min(width, height) - thick) / min(inner)
    masks = []
    for step, mask in zip((1, 2), _mask(shape, inner, radius), strict=True):
        whole = np.zeros((height // step, width // step), np.float32)
        whole[thick // step :, thick // step :][: mask.shape[0], : mask.shape[1]] = mask
        masks.append(1 - whole)
    planes = tuple(plane.copy() for plane in made)
    for i, (plane, level) in enumerate(zip(planes, levels(rgb_of(shape.outline.colour)),
                                           strict=True)):
        mixed_into(plane, level, masks[min(i, 1)])
    return planes[0], planes[1], planes[2]


def _mask(shape: Shape, size: Canvas, radius: float) -> Masks:
    if shape.kind in (ShapeKind.RECTANGLE, ShapeKind.BAR):
        return rounded(size, radius * min(size))
    if shape.kind is ShapeKind.LINE:
        return rounded(size, min(size) / 2)
    return _drawn(shape.kind, shape.quarter_turns % 4, size)


@functools.lru_cache(24)
def _drawn(kind: ShapeKind, quarter_turns: int, size: Canvas) -> Masks:
    """A circle or an arrow, drawn larger and made small again."""
    turned = size if quarter_turns % 2 == 0 else (size[1], size[0])
    width, height = turned[0] * FINE, turned[1] * FINE
    image = Image.new("L", (width, height))
    draw = ImageDraw.Draw(image)
    if kind is ShapeKind.CIRCLE:
        draw.ellipse((0, 0, width - 1, height - 1), fill=255)
    else:
        neck, thin = width - min(width * HEAD, height), height * (1 - SHAFT) / 2
        draw.polygon([(0, thin), (neck, thin), (neck, 0), (width - 1, (height - 1) / 2),
                      (neck, height - 1), (neck, height - 1 - thin), (0, height - 1 - thin)],
                     fill=255)
    mask = np.asarray(image.resize(turned, Image.Resampling.BOX), np.float32) / np.float32(255)
    return with_chroma(np.ascontiguousarray(np.rot90(mask, -quarter_turns)))


def _partly(masks: Masks | None, size: Canvas, layer: OverlayLayer) -> Masks:
    """``masks`` as far as an overlay's strength, corners and wipe let it show."""
    width, height = size
    luma: Mask = np.ones((height, width), np.float32) if masks is None else masks[0]
    chroma: Mask = np.ones((height // 2, width // 2), np.float32) if masks is None else masks[1]
    if layer.radius > 0 and isinstance(layer.content, FileContent):
        corners = rounded(size, layer.radius * min(size))
        luma, chroma = luma * corners[0], chroma * corners[1]
    luma, chroma = luma * np.float32(layer.opacity), chroma * np.float32(layer.opacity)
    if layer.part != (0.0, 1.0):
        edges = np.arange(width, dtype=np.float32)
        low, high = layer.part[0] * width, layer.part[1] * width
        shown = np.clip(np.minimum(edges + 1 - low, high - edges), 0, 1)[None]
        luma = luma * shown
        chroma = chroma * ((shown[:, ::2] + shown[:, 1::2]) / 2)
    return luma, chroma


def _blended(places: list[NDArray[np.uint8]], parts: list[NDArray[np.uint8]],
             mode: BlendMode) -> list[NDArray[np.uint8]]:
    """What is seen where both ``places`` and ``parts`` (planes) are, by ``mode``."""
    behind, over = _rgb(places), _rgb(parts)
    if mode is BlendMode.SCREEN:
        mixed = behind + over - behind * over
    elif mode is BlendMode.MULTIPLY:
        mixed = behind * over
    else:
        mixed = np.minimum(behind + over, 1)
    luma, blue, red = to_ycbcr(mixed)
    return [np.rint(plane).astype(np.uint8) for plane in (
        luma_levels(luma), chroma_levels(with_chroma(blue)[1]),
        chroma_levels(with_chroma(red)[1]))]


def _rgb(planes: Sequence[NDArray[np.uint8]]) -> Rgb:
    """Planes of BT.709 in limited range as red, green and blue (h, w, 3), 0..1."""
    size = planes[0].shape[1], planes[0].shape[0]
    luma = (planes[0].astype(np.float32) - LOWEST) / 219
    blue, red = (cv2.resize((plane.astype(np.float32) - MIDDLE) / 224, size,
                            interpolation=cv2.INTER_LINEAR) for plane in planes[1:])
    return from_ycbcr(luma, blue, red)


@paints(OverlayLayer)
def paint_overlay(layer: OverlayLayer, canvas: Picture | None, painting: Painting) -> Picture:
    """An overlay; words whose font is gone are left out on a screen, where a sentence says so."""
    behind = painting.behind(canvas)
    return painting.or_stand_in(
        lambda: with_layer(layer, behind),
        lambda missing: with_layer(layer, behind, missing(layer.target[2:]))
        if isinstance(layer.content, FileContent) else behind)
