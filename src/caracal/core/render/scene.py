"""What a frame of a version is, as data: layers back to front, before any pixel is made."""

from __future__ import annotations

import msgspec

from caracal.core.base.geometry import Box
from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.layout.model import FILL, Canvas
from caracal.core.layout.redaction import Redaction
from caracal.core.render.layers import Layer, OverlayLayer, TextLayer, layers_of


class Scene(msgspec.Struct, frozen=True):
    """One frame: its canvas, and what lies on it from back to front.

    ``scale`` is how large the canvas is beside the one of the file, which what is measured in
    pixels of the file goes by: 1 in the file itself, less on a screen. On a screen overlays are
    drawn apart, ``over`` the layers, on a canvas ``finer`` times as large, so that their edges lie
    where they lie in the file. ``redactions`` cover places of the source before anything is made
    of it.
    """

    canvas: Canvas
    layers: tuple[Layer, ...]
    scale: float = 1.0
    over: tuple[OverlayLayer | TextLayer, ...] = ()
    finer: float = 1.0
    redactions: tuple[Redaction, ...] = ()

    def from_source(self, across: float, down: float) -> Scene:
        """The same scene made from pictures that are so many times the master's width and height.
        """
        return msgspec.structs.replace(
            self, layers=tuple(layer.from_source(across, down) for layer in self.layers),
            redactions=tuple(each.from_source(across, down) for each in self.redactions))


def plain_scene(
    canvas: Canvas, window: Box, finish: Finish = PLAIN, scale: float = 1.0
) -> Scene:
    """A ``window`` of the master that fills a canvas."""
    return Scene(canvas, layers_of(FILL, canvas, [window], window, finish), scale)
