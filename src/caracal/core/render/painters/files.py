"""Pictures and clips from files, in panes."""

from __future__ import annotations

from caracal.core.media.planes import Picture
from caracal.core.render.layers import FileLayer
from caracal.core.render.painters.asset_pictures import asset_picture
from caracal.core.render.painters.borders import laid
from caracal.core.render.painters.registry import Painting, paints


@paints(FileLayer)
def paint_file(layer: FileLayer, canvas: Picture | None, painting: Painting) -> Picture:
    """A picture or a clip in the middle of its target."""
    behind = painting.behind(canvas)
    x, y, width, height = layer.target

    def picture() -> Picture:
        pixels, covers, size = asset_picture(layer.content, (width, height), layer.moment_s)
        place = x + (width - size[0]) // 4 * 2, y + (height - size[1]) // 4 * 2
        return laid(pixels, (*place, *size), behind, layer.trim, covers)

    return painting.or_stand_in(picture, lambda missing: laid(
        missing((width, height)), layer.target, behind, layer.trim))
