"""A dissolve: what goes on of the range before, ever weaker, over the range that begins."""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.media.planes import Picture
from caracal.core.render.assets.clips import film_frame
from caracal.core.render.layers import OutgoingLayer
from caracal.core.render.painters.registry import Painting, paints
from caracal.core.render.scene import Scene


@paints(OutgoingLayer)
def paint_outgoing(layer: OutgoingLayer, canvas: Picture | None, painting: Painting) -> Picture:
    """The outgoing range over ``canvas``; on a screen nothing of it if its film is gone."""
    assert canvas is not None, "what goes on lies over a picture"
    scene = Scene(painting.scene.canvas, layer.layers, painting.scene.scale,
                  redactions=layer.redactions)

    def mixed() -> Picture:
        planes = film_frame(layer.path, layer.frame)
        over = painting.compose(scene, planes, painting.sample, painting.missing)
        y, u, v = (
            np.asarray(cv2.addWeighted(below, 1 - layer.share, plane, layer.share, 0), np.uint8)
            for below, plane in zip(canvas, over, strict=True))
        return y, u, v

    return painting.or_stand_in(mixed, lambda _: canvas)
