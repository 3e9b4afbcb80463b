"""Pictures for the screen: scenes made of a proxy's planes in exactly the pixels shown."""

from __future__ import annotations

import functools

import cv2
import msgspec
import numpy as np
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter
from numpy.typing import NDArray

from caracal.core.framing.choice import PLAIN
from caracal.core.layout.model import Canvas
from caracal.core.media.planes import Picture, Planes, new_frame, view_for_writing
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import (
    PLAIN_BORDER,
    Layer,
    OutgoingLayer,
    PaneLayer,
    PictureLayer,
)
from caracal.core.render.painters.resample import resample, resample_quickly
from caracal.core.render.scene import Scene

LARGE, ENLARGED = 250_000, 0.85  # pixels of a picture, and the proxy's share of its width
STRIPE = 8  # pixels, of a plate
ALIGNED = 16  # pixels: FFmpeg's conversion leaves out the last columns of other widths

Pixels = NDArray[np.uint8]  # (h, w, 4): blue, green, red and a byte that says nothing


def screen_picture(
    scene: Scene, canvas: Canvas, planes: Planes, master: tuple[int, int], exact: bool = True
) -> Pixels:
    """``scene``, told in pixels of a ``master`` of that size, made of proxy ``planes``.

    A scene larger than the ``canvas`` that is shown is reduced. What is not ``exact`` is sampled
    quickly.
    """
    seen = scene.from_source(planes.width / master[0], planes.height / master[1])
    if not exact and scene.canvas != canvas:
        seen = _coarser(seen, canvas)
    if not exact and (coarse := _as_found(seen)) is not None:
        return to_screen(compose_pictures(coarse, planes, resample_quickly), canvas)
    sample = resample if exact else resample_quickly
    made, (width, height) = compose_pictures(seen, planes, sample, hatched), canvas
    if seen.canvas != canvas:
        y, u, v = (np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.uint8)
                   for plane, size in zip(made, ((width, height), *[(width // 2, height // 2)] * 2),
                                          strict=True))
        made = (y, u, v)
    return to_screen(made)


def hatched(size: Canvas) -> Picture:
    """A plate of stripes, in planes of ``size``, that stands for a file that cannot be used."""
    width, height = size
    stripes = (np.add.outer(np.arange(height), np.arange(width)) // STRIPE) % 2
    grey = np.full((height // 2, width // 2), 128, np.uint8)
    return np.where(stripes, 60, 110).astype(np.uint8), grey, grey


def _coarser(scene: Scene, canvas: Canvas) -> Scene:
    """``scene`` on the smaller ``canvas`` that is shown; edges lie up to a pixel off."""
    share = canvas[0] / scene.canvas[0]
    return Scene(canvas, tuple(_smaller(layer, share, canvas) for layer in scene.layers),
                 scene.scale * share, scene.over, scene.finer / share)


def _smaller(layer: Layer, share: float, canvas: Canvas) -> Layer:
    if isinstance(layer, OutgoingLayer):
        return msgspec.structs.replace(layer, layers=tuple(
            _smaller_pane(each, share, canvas) for each in layer.layers))
    return _smaller_pane(layer, share, canvas) if isinstance(layer, PaneLayer) else layer


def _smaller_pane(layer: PaneLayer, share: float, canvas: Canvas) -> PaneLayer:
    trim = layer.trim
    if trim != PLAIN_BORDER:
        trim = msgspec.structs.replace(
            trim, **{name: getattr(trim, name) * share
                     for name in ("radius", "edge_px", "shadow_px", "drop_px")})
    x, y, width, height = layer.target
    left, right = (_nearest(side * share, canvas[0]) for side in (x, x + width))
    top, bottom = (_nearest(side * share, canvas[1]) for side in (y, y + height))
    target = (left, top, max(2, right - left), max(2, bottom - top))
    return msgspec.structs.replace(layer, target=target, trim=trim)


def _nearest(place: float, most: int) -> int:
    """The even pixel nearest to ``place``; no further than ``most``, unless it lies beyond that."""
    even = 2 * round(place / 2)
    return even if place > most + 1 else min(even, most)


def _as_found(scene: Scene) -> Scene | None:
    """A large ``scene`` of one plain window in about the pixels that the proxy has of it.

    Made so, and enlarged when it is done, it takes a part of the time. None for other scenes.
    """
    layer = scene.layers[0]
    if len(scene.layers) > 1 or scene.over or not isinstance(layer, PictureLayer) or (
            layer.finish != PLAIN or scene.canvas[0] * scene.canvas[1] < LARGE):
        return None
    share = layer.window[2] / scene.canvas[0]
    if share > ENLARGED:
        return None
    width, height = (2 * round(side * share / 2) for side in scene.canvas)
    return Scene((width, height), (PictureLayer(layer.window, (0, 0, width, height)),),
                 scene.scale * share)


def to_screen(canvas: Picture, size: Canvas | None = None) -> Pixels:
    """Planes of BT.709 in limited range as pixels of the screen, enlarged to ``size``."""
    height, width = canvas[0].shape
    wide = -(-width // ALIGNED) * ALIGNED
    frame = new_frame(wide, height)
    for target, source in zip(frame.planes, canvas, strict=True):
        view_for_writing(target)[:, : source.shape[1]] = source
    made = _converter(wide, height).reformat(
        frame, format="bgra", src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG)
    pixels = made.planes[0]
    found = np.frombuffer(memoryview(pixels), np.uint8).reshape(height, pixels.line_size // 4, 4)
    if size is None:
        return found[:, :width]
    return np.asarray(cv2.resize(found[:, :width], size, interpolation=cv2.INTER_LINEAR), np.uint8)


@functools.lru_cache(32)
def _converter(_width: int, _height: int) -> VideoReformatter:
    """FFmpeg's converter for pictures of one size: preparing it takes longer than using it."""
    return VideoReformatter()
