"""The only place where pixels of a version are mixed, in YUV 4:2:0: a scene and planes in, planes
of the canvas out.
"""

from __future__ import annotations

import functools

from caracal.core.framing.choice import Finish
from caracal.core.layout.model import Canvas, Target
from caracal.core.media.planes import Picture, Planes
from caracal.core.render.backdrops import plain, soft
from caracal.core.render.fill import Sample, filled
from caracal.core.render.layers import ColourLayer, PictureLayer, SoftLayer, ZonesLayer
from caracal.core.render.resample import resample
from caracal.core.render.review import Overlay, review_overlay
from caracal.core.render.scene import Scene
from caracal.core.specs.sheet import SpecSheet


@functools.lru_cache(4)
def _overlay(sheet: SpecSheet, canvas: Canvas) -> Overlay:
    return review_overlay(sheet, canvas)


def compose_pictures(scene: Scene, planes: Planes, sample: Sample = resample) -> Picture:
    """The canvas of ``scene`` from the ``planes`` of the master's frame that it shows.

    ``sample`` is how pictures are sampled: exactly, or quickly for a screen.
    """
    made: Picture | None = None
    for layer in scene.layers:
        if isinstance(layer, ZonesLayer):
            assert made is not None, "zones lie over a picture"
            made = _overlay(layer.sheet, scene.canvas).over(made)
            continue
        pixels = _pixels(layer, planes, scene.scale, sample)
        if layer.target == (0, 0, *scene.canvas):
            made = pixels
        else:
            made = _laid(pixels, layer.target, made or _black(scene.canvas))
    assert made is not None, "a scene has a picture"
    return made


def _pixels(
    layer: PictureLayer | ColourLayer | SoftLayer, planes: Planes, scale: float, sample: Sample
) -> Picture:
    """What ``layer`` shows, in the size of its target."""
    size = layer.target[2:]
    if isinstance(layer, PictureLayer):
        return filled(planes, layer.window, size, layer.finish, scale, sample)
    if isinstance(layer, ColourLayer):
        return plain(layer.rgb, size)
    turns = Finish(layer.quarter_turns)
    return soft(planes, layer.window, size, layer.backdrop, turns)


def _black(canvas: Canvas) -> Picture:
    return plain((0, 0, 0), canvas)


def _laid(part: Picture, target: Target, canvas: Picture) -> Picture:
    """``canvas`` with ``part`` at its target. What is not ours alone is copied first."""
    x, y, width, height = target
    made = []
    for plane, pixels, step in zip(canvas, part, (1, 2, 2), strict=True):
        mine = plane if plane.flags.owndata and plane.flags.writeable else plane.copy()
        mine[y // step : (y + height) // step, x // step : (x + width) // step] = pixels
        made.append(mine)
    return made[0], made[1], made[2]


