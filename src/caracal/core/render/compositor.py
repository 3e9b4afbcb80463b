"""The only place where pixels of a version are mixed, in YUV 4:2:0: a scene and planes in, planes
of the canvas out.

Each kind of layer has its painter (``painters``); a new kind is one file there and one import here.
"""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.layout.model import Canvas
from caracal.core.media.planes import Picture, Planes
from caracal.core.render.painters import files, outgoing, overlays, panes, text, zones
from caracal.core.render.painters.fill import Sample
from caracal.core.render.painters.redactions import redacted
from caracal.core.render.painters.registry import PAINTERS, Missing, Painting
from caracal.core.render.painters.resample import resample
from caracal.core.render.scene import Scene

REGISTERED = (panes, files, outgoing, overlays, text, zones)  # they register what they paint


def compose_pictures(
    scene: Scene, planes: Planes, sample: Sample = resample, missing: Missing | None = None
) -> Picture:
    """The canvas of ``scene`` from the ``planes`` of the master's frame that it shows.

    ``sample`` is how pictures are sampled: exactly, or quickly for a screen. ``missing`` makes what
    stands for a picture or clip that cannot be used; without it InputError is raised.
    """
    painting = Painting(scene, redacted(planes, scene.redactions), sample, missing,
                        compose_pictures)
    canvas: Picture | None = None
    for layer in scene.layers:
        canvas = PAINTERS[type(layer)](layer, canvas, painting)
    assert canvas is not None, "a scene has a picture"
    return _with_over(canvas, painting) if scene.over else canvas


def _with_over(canvas: Picture, painting: Painting) -> Picture:
    """``canvas`` with the overlays that are drawn on a finer one."""
    scene = painting.scene
    width, height = (round(side * scene.finer) for side in scene.canvas)
    sizes = ((width, height), *[(width // 2, height // 2)] * 2)
    large = _resized(canvas, sizes, cv2.INTER_NEAREST)
    for layer in scene.over:
        large = PAINTERS[type(layer)](layer, large, painting)
    width, height = scene.canvas
    return _resized(large, ((width, height), *[(width // 2, height // 2)] * 2), cv2.INTER_AREA)


def _resized(canvas: Picture, sizes: tuple[Canvas, ...], how: int) -> Picture:
    y, u, v = (np.asarray(cv2.resize(plane, size, interpolation=how), np.uint8)
               for plane, size in zip(canvas, sizes, strict=True))
    return y, u, v
