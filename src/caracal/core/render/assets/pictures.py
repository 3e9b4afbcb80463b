"""Pictures from files in a layout: read within limits, brought to a pane's size, kept as planes.

Pillow reads them; colours are taken as sRGB, whose primaries are BT.709's. Animated pictures move
in overlays; in a layout their first frame is used. No other file or address is ever opened.
"""

from __future__ import annotations

import functools
import warnings
from bisect import bisect_right
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from caracal.core.base.errors import InputError, missing
from caracal.core.base.limits import MOST_ASSET_BYTES, MOST_PIXELS
from caracal.core.base.paths import changed_ns
from caracal.core.base.resources import asset_file
from caracal.core.base.translation import tr
from caracal.core.layout.model import Canvas, PictureFile
from caracal.core.media.bt709 import (
    chroma_levels,
    luma_levels,
    to_ycbcr,
)
from caracal.core.media.planes import Picture, Plane
from caracal.core.render.assets.svg import LONG_SIDE, SUFFIX, drawing_ratio, open_drawing
from caracal.core.render.masks import Masks, with_chroma

QUICK_S, USUAL_S = 0.01, 0.1  # a frame that lasts no longer lasts so long (common practice)
ROUNDING_S = 1e-6  # a moment that is a frame's first belongs to it
LONG_S = 1.0  # of a picture that does not move
DRAWN = (512, 1024, LONG_SIDE)  # sides of drawings: four times the pixels take four times as long
FORMATS = ("PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF")


def open_picture(path: Path, long_side: int = LONG_SIDE) -> Image.Image:
    """The picture at ``path``, upright, in RGBA of 8 bits; a drawing is drawn ``long_side`` pixels
    long.

    Raises InputError when it is missing, damaged, too large, or no picture that is known.
    """
    try:
        if not path.is_file():
            raise missing(path) if not path.exists() else InputError(
                tr("This is no picture file."), path, tr("Choose a file."))
        if path.stat().st_size > MOST_ASSET_BYTES:
            raise InputError(tr("This picture's file has {size:.0f} MB.",
                                size=path.stat().st_size / 1e6), path,
                             tr("Save it with at most {most_asset_bytes:.0f} MB.",
                                most_asset_bytes=MOST_ASSET_BYTES / 1e6))
        if path.suffix.lower() == SUFFIX:
            return open_drawing(path, path.read_bytes(), long_side)
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # of Pillow's own, softer limit
            with Image.open(path, formats=FORMATS) as found:
                if found.width * found.height > MOST_PIXELS:
                    raise InputError(tr("This picture has {width}x{height} pixels.",
                                        width=found.width, height=found.height), path,
                                     tr("Save it smaller."))
                return _eight_bits(ImageOps.exif_transpose(found))
    except InputError:
        raise
    except UnidentifiedImageError as problem:
        raise InputError(tr("The format of this picture is not known."), path,
                         tr("Save it as {formats} or SVG.",
                            formats=", ".join(FORMATS[:4]))) from problem
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError,
            Image.DecompressionBombError) as problem:
        raise InputError(tr("This picture is damaged or cut off."), path,
                         tr("Save it again, or choose another.")) from problem


def picture_ratio(path: Path) -> float:
    """The width of the picture at ``path`` to its height. Raises as :func:`open_picture` does."""
    found = open_picture(path, DRAWN[0])
    if path.suffix.lower() == SUFFIX:  # a flat drawing of few pixels has a rounded height
        return drawing_ratio(path.read_bytes(), found)
    return found.width / found.height


def refuse_bad_picture(path: Path) -> None:
    """Raise InputError when the picture or animation at ``path`` cannot be used."""
    _ends(path, changed_ns(path))


def animation(
    path: Path, long_side: int = LONG_SIDE
) -> tuple[tuple[Image.Image, ...], tuple[float, ...]]:
    """The frames of the picture at ``path``, and when each ends, in seconds from the first.

    A picture that does not move is one frame; a drawing is drawn ``long_side`` pixels long. Raises
    InputError as :func:`open_picture` does, and when the frames together are too large.
    """
    first = open_picture(path, long_side)
    if path.suffix.lower() == SUFFIX:
        return (first,), (LONG_S,)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(path, formats=FORMATS) as found:
                count = getattr(found, "n_frames", 1)
                if count == 1:
                    return (first,), (LONG_S,)
                if count * found.width * found.height > MOST_PIXELS:
                    raise InputError(tr("This animation has {count} frames of {width}x{height}.",
                                        count=count, width=found.width, height=found.height), path,
                                     tr("Save it smaller or shorter."))
                frames, ends = [], [0.0]
                for number in range(count):
                    found.seek(number)
                    frames.append(_eight_bits(found.copy()))
                    lasts = float(found.info.get("duration") or 0) / 1000
                    ends.append(ends[-1] + (lasts if lasts > QUICK_S else USUAL_S))
                return tuple(frames), tuple(ends[1:])
    except InputError:
        raise
    except (OSError, ValueError, SyntaxError, EOFError, MemoryError,
            Image.DecompressionBombError) as problem:
        raise InputError(tr("This animation is damaged or cut off."), path,
                         tr("Save it again, or choose another.")) from problem


def _eight_bits(picture: Image.Image) -> Image.Image:
    if picture.mode.startswith(("I", "F")):  # 16 bits and more
        values = np.asarray(picture, np.float64)
        most = 65535.0 if values.max(initial=0.0) > 255 else 255.0
        picture = Image.fromarray(np.rint(values.clip(0, most) / most * 255).astype(np.uint8))
    return picture.convert("RGBA")


def prepared(
    content: PictureFile, size: Canvas, moment_s: float | None = None
) -> tuple[Picture, Masks | None, Canvas]:
    """A picture as planes, what of it covers (None: all), and its size.

    It fills ``size`` (width, height), or, with ``content.fit``, is as large as fits into it. Of an
    animated one it is the frame at ``moment_s``, over and over; None: the first.
    """
    path = asset_file(content.path)
    changed = changed_ns(path)
    number = 0
    if moment_s is not None:
        ends = _ends(path, changed)
        number = bisect_right(ends[:-1], (moment_s + ROUNDING_S) % ends[-1])
    return _prepared(path, changed, size, content.fit, number if moment_s is not None else None)


@functools.lru_cache(4)
def _animation(
    path: Path, _: int, long_side: int
) -> tuple[tuple[Image.Image, ...], tuple[float, ...]]:
    return animation(path, long_side)


def _long_side(path: Path, size: Canvas) -> int:
    """How long a drawing is drawn that is to fit into ``size``: at least twice as long."""
    if path.suffix.lower() != SUFFIX:
        return LONG_SIDE
    return next((side for side in DRAWN if side >= 2 * max(size)), LONG_SIDE)


@functools.lru_cache(64)
def _ends(path: Path, changed: int) -> tuple[float, ...]:
    """When each frame ends: asked for at every frame of a version, of every picture over it."""
    return _animation(path, changed, _long_side(path, (0, 0)))[1]


@functools.lru_cache(24)
def _prepared(
    path: Path, changed: int, size: Canvas, fit: bool, number: int | None
) -> tuple[Picture, Masks | None, Canvas]:
    side = _long_side(path, size) if fit else LONG_SIDE  # what fills it may be cut off far
    found = open_picture(path, side) if number is None else _animation(
        path, changed, side)[0][number]
    whole = found.convert("RGBa")  # colours count as much as they cover
    if fit:
        scale = min(size[0] / whole.width, size[1] / whole.height)
        size = (max(2, 2 * round(whole.width * scale / 2)),
                max(2, 2 * round(whole.height * scale / 2)))
        large = whole.resize(size, Image.Resampling.LANCZOS)
    else:
        large = ImageOps.fit(whole, size, Image.Resampling.LANCZOS)
    pixels = np.asarray(large.convert("RGBA"), np.float32)
    alpha = pixels[:, :, 3] / np.float32(255)
    masks = None if alpha.min() == 1 else with_chroma(alpha)
    return planes_of(pixels[:, :, :3] / np.float32(255)), masks, size


def planes_of(rgb: NDArray[np.float32]) -> Picture:
    """(h, w, 3) of 0..1 as planes of BT.709 in limited range; chroma left of its pair."""
    luma, blue, red = to_ycbcr(rgb)
    return (_rounded(luma_levels(luma)), _rounded(chroma_levels(with_chroma(blue)[1])),
            _rounded(chroma_levels(with_chroma(red)[1])))


def _rounded(values: NDArray[np.float32]) -> Plane:
    made: Plane = np.rint(values).astype(np.uint8)
    made.flags.writeable = False
    return made
