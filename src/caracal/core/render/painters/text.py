"""Lines of words."""

from __future__ import annotations

from caracal.core.media.planes import Picture
from caracal.core.render.layers import TextLayer
from caracal.core.render.painters.registry import Painting, paints
from caracal.core.render.painters.titles import with_text


@paints(TextLayer)
def paint_text(layer: TextLayer, canvas: Picture | None, painting: Painting) -> Picture:
    """Lines of words; left out on a screen if their font is gone."""
    behind = painting.behind(canvas)
    return painting.or_stand_in(lambda: with_text(layer, behind), lambda _: behind)
