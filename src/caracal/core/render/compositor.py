"""The only place where pixels of a version are mixed, in YUV 4:2:0: a scene and planes in, planes
of the canvas out.
"""

from __future__ import annotations

import functools
from collections.abc import Callable

import cv2
import numpy as np

from caracal.core.errors import InputError
from caracal.core.framing.choice import Finish
from caracal.core.layout.model import Canvas, FileContent
from caracal.core.media.planes import Picture, Planes
from caracal.core.render.asset_pictures import asset_picture
from caracal.core.render.backdrops import blend, plain, soft
from caracal.core.render.borders import laid
from caracal.core.render.clips import film_frame
from caracal.core.render.cutout import lifted
from caracal.core.render.fill import Sample, filled
from caracal.core.render.layers import (
    PLAIN_BORDER,
    BlendLayer,
    ColourLayer,
    FileLayer,
    Lift,
    OutgoingLayer,
    OverlayLayer,
    PictureLayer,
    SoftLayer,
    TextLayer,
    ZonesLayer,
)
from caracal.core.render.overlays import with_layer
from caracal.core.render.redactions import redacted
from caracal.core.render.resample import resample
from caracal.core.render.review import DrawnZones, review_overlay
from caracal.core.render.scene import Scene
from caracal.core.render.titles import with_text
from caracal.core.specs.sheet import SpecSheet

BLACK = (0, 0, 0)
Missing = Callable[[Canvas], Picture]


@functools.lru_cache(4)
def _zones(sheet: SpecSheet, canvas: Canvas) -> DrawnZones:
    return review_overlay(sheet, canvas)


def compose_pictures(
    scene: Scene, planes: Planes, sample: Sample = resample, missing: Missing | None = None
) -> Picture:
    """The canvas of ``scene`` from the ``planes`` of the master's frame that it shows.

    ``sample`` is how pictures are sampled: exactly, or quickly for a screen. ``missing`` makes what
    stands for a picture or clip that cannot be used; without it InputError is raised.
    """
    made: Picture | None = None
    planes = redacted(planes, scene.redactions)
    for layer in scene.layers:
        if isinstance(layer, ZonesLayer):
            assert made is not None, "zones lie over a picture"
            made = _zones(layer.sheet, scene.canvas).over(made)
            continue
        if isinstance(layer, OutgoingLayer):
            assert made is not None, "what goes on lies over a picture"
            made = _with_outgoing(layer, made, scene, sample, missing)
            continue
        if isinstance(layer, OverlayLayer):
            made = _with_overlay(layer, made or plain(BLACK, scene.canvas), missing)
            continue
        if isinstance(layer, TextLayer):
            made = _with_words(layer, made or plain(BLACK, scene.canvas), missing)
            continue
        if isinstance(layer, FileLayer):
            made = _with_file(layer, made or plain(BLACK, scene.canvas), missing)
            continue
        pixels = _pixels(layer, planes, scene.scale, sample)
        if isinstance(layer, PictureLayer) and layer.lift is not None:
            made = _with_person(layer, layer.lift, pixels, made or plain(BLACK, scene.canvas),
                                missing)
            continue
        if layer.target == (0, 0, *scene.canvas) and layer.trim == PLAIN_BORDER:
            made = pixels
        else:
            made = laid(pixels, layer.target, made or plain(BLACK, scene.canvas), layer.trim)
    assert made is not None, "a scene has a picture"
    return _with_over(scene, made, missing) if scene.over else made


def _with_person(
    layer: PictureLayer, lift: Lift, pixels: Picture, canvas: Picture, missing: Missing | None
) -> Picture:
    """``canvas`` with who is cut out of ``pixels``; on a screen all of them if the film is gone."""
    covers = None
    try:
        pixels, covers = lifted(layer, lift, pixels)
    except InputError:
        if missing is None:
            raise
    return laid(pixels, layer.target, canvas, layer.trim, covers)


def _with_outgoing(
    layer: OutgoingLayer, canvas: Picture, scene: Scene, sample: Sample, missing: Missing | None
) -> Picture:
    """``canvas`` with what goes on of the range before; on a screen without it if that is gone."""
    try:
        planes = film_frame(layer.path, layer.frame)
    except InputError:
        if missing is None:
            raise
        return canvas
    over = compose_pictures(
        Scene(scene.canvas, layer.layers, scene.scale, redactions=layer.redactions), planes, sample,
        missing)
    y, u, v = (np.asarray(cv2.addWeighted(below, 1 - layer.share, plane, layer.share, 0), np.uint8)
               for below, plane in zip(canvas, over, strict=True))
    return y, u, v


def _with_over(scene: Scene, canvas: Picture, missing: Missing | None) -> Picture:
    """``canvas`` with the overlays that are drawn on a finer one."""
    width, height = (round(side * scene.finer) for side in scene.canvas)
    sizes = ((width, height), *[(width // 2, height // 2)] * 2)
    large = _resized(canvas, sizes, cv2.INTER_NEAREST)
    for layer in scene.over:
        large = (_with_words(layer, large, missing) if isinstance(layer, TextLayer)
                 else _with_overlay(layer, large, missing))
    width, height = scene.canvas
    return _resized(large, ((width, height), *[(width // 2, height // 2)] * 2), cv2.INTER_AREA)


def _resized(canvas: Picture, sizes: tuple[Canvas, ...], how: int) -> Picture:
    y, u, v = (np.asarray(cv2.resize(plane, size, interpolation=how), np.uint8)
               for plane, size in zip(canvas, sizes, strict=True))
    return y, u, v


def _with_overlay(layer: OverlayLayer, canvas: Picture, missing: Missing | None) -> Picture:
    """``canvas`` with an overlay on it."""
    try:
        return with_layer(layer, canvas)
    except InputError:
        if missing is None:
            raise
        if not isinstance(layer.content, FileContent):
            return canvas  # words whose font is gone: a sentence says so, the picture stays
        return with_layer(layer, canvas, missing(layer.target[2:]))


def _with_words(layer: TextLayer, canvas: Picture, missing: Missing | None) -> Picture:
    """``canvas`` with lines of words on it; on a screen without them if their font is gone."""
    try:
        return with_text(layer, canvas)
    except InputError:
        if missing is None:
            raise
        return canvas


def _with_file(layer: FileLayer, canvas: Picture, missing: Missing | None) -> Picture:
    """``canvas`` with a picture or a clip laid onto it, in the middle of its target."""
    x, y, width, height = layer.target
    try:
        pixels, covers, size = asset_picture(layer.content, (width, height), layer.moment_s)
    except InputError:
        if missing is None:
            raise
        return laid(missing((width, height)), layer.target, canvas, layer.trim)
    x, y = x + (width - size[0]) // 4 * 2, y + (height - size[1]) // 4 * 2
    return laid(pixels, (x, y, *size), canvas, layer.trim, covers)


def _pixels(
    layer: PictureLayer | ColourLayer | BlendLayer | SoftLayer, planes: Planes, scale: float,
    sample: Sample,
) -> Picture:
    """What ``layer`` shows, in the size of its target."""
    size = layer.target[2:]
    match layer:
        case PictureLayer():
            return filled(planes, layer.window, size, layer.finish, scale, sample)
        case ColourLayer():
            return plain(layer.rgb, size)
        case BlendLayer():
            return blend(layer.rgb, layer.other, layer.degrees, size)
        case SoftLayer():
            return soft(planes, layer.window, size, layer.backdrop, Finish(layer.quarter_turns))
