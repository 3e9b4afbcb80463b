"""Panes: a window of the master, one colour, two that blend, or a soft copy."""

from __future__ import annotations

from caracal.core.framing.choice import Finish
from caracal.core.media.planes import Picture
from caracal.core.render.layers import (
    PLAIN_BORDER,
    BlendLayer,
    ColourLayer,
    PictureLayer,
    SoftLayer,
)
from caracal.core.render.painters.backdrops import blend, plain, soft
from caracal.core.render.painters.borders import laid
from caracal.core.render.painters.cutout import lifted
from caracal.core.render.painters.fill import filled
from caracal.core.render.painters.registry import Painting, paints

Pane = PictureLayer | ColourLayer | BlendLayer | SoftLayer


@paints(PictureLayer, ColourLayer, BlendLayer, SoftLayer)
def paint_pane(layer: Pane, canvas: Picture | None, painting: Painting) -> Picture:
    """A pane; of a window whose person is cut out, all of it if the film is gone."""
    pixels = _pixels(layer, painting)
    if isinstance(layer, PictureLayer) and (lift := layer.lift) is not None:
        behind = painting.behind(canvas)

        def person() -> Picture:
            cut, covers = lifted(layer, lift, pixels)
            return laid(cut, layer.target, behind, layer.trim, covers)

        return painting.or_stand_in(
            person, lambda _: laid(pixels, layer.target, behind, layer.trim))
    if layer.target == (0, 0, *painting.scene.canvas) and layer.trim == PLAIN_BORDER:
        return pixels
    return laid(pixels, layer.target, painting.behind(canvas), layer.trim)


def _pixels(layer: Pane, painting: Painting) -> Picture:
    """What ``layer`` shows, in the size of its target."""
    size = layer.target[2:]
    match layer:
        case PictureLayer():
            return filled(painting.planes, layer.window, size, layer.finish,
                          painting.scene.scale, painting.sample)
        case ColourLayer():
            return plain(layer.rgb, size)
        case BlendLayer():
            return blend(layer.rgb, layer.other, layer.degrees, size)
        case SoftLayer():
            return soft(painting.planes, layer.window, size, layer.backdrop,
                        Finish(layer.quarter_turns))
