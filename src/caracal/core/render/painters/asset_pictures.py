"""What a picture file, a clip or a still shows, as planes of the size that is wanted."""

from __future__ import annotations

import functools

from caracal.core.base.geometry import Box
from caracal.core.base.paths import changed_ns
from caracal.core.base.resources import asset_file
from caracal.core.framing.choice import PLAIN
from caracal.core.layout.model import Canvas, Clip, FileContent, PictureFile, Still
from caracal.core.media.planes import Picture, Planes
from caracal.core.render.assets.clips import film_planes
from caracal.core.render.assets.pictures import prepared
from caracal.core.render.layers import inside, largest
from caracal.core.render.masks import Masks
from caracal.core.render.painters.fill import filled


def asset_picture(
    content: FileContent, size: Canvas, moment_s: float, animated: bool = False
) -> tuple[Picture, Masks | None, Canvas]:
    """The planes of ``content``, what of them covers (None: all), and their size.

    It fills ``size`` (width, height), or is as large as fits into it where it is to lie whole.
    ``moment_s`` is how long it has been there; picture files go by that if they are ``animated``,
    and show their first frame otherwise. Raises InputError when the file cannot be used.
    """
    if isinstance(content, PictureFile):
        return prepared(content, size, moment_s if animated else None)
    if isinstance(content, Still):
        return _still(content, changed_ns(asset_file(content.path)), size), None, size
    return _clip(content, size, moment_s)


@functools.lru_cache(24)
def _still(content: Still, _: int, size: Canvas) -> Picture:
    planes = film_planes(content, 0.0)
    (left, right), (top, bottom) = content.part
    wide, high = _all_of(planes)[2:]
    part: Box = (left * wide, top * high, (right - left) * wide, (bottom - top) * high)
    made = filled(planes, largest(part, size), size, PLAIN)
    for plane in made:
        plane.flags.writeable = False
    return made


def _clip(content: Clip, size: Canvas, moment_s: float) -> tuple[Picture, Masks | None, Canvas]:
    planes = film_planes(content, moment_s)
    whole = _all_of(planes)
    if content.fit:
        size = inside(whole, (0, 0, *size))[2:]
        return filled(planes, whole, size, PLAIN), None, size
    return filled(planes, largest(whole, size), size, PLAIN), None, size


def _all_of(planes: Planes) -> Box:
    """All of a picture, in square pixels."""
    return (0.0, 0.0, planes.width * planes.pixel_aspect, float(planes.height))
