"""Somebody lifted off the background: a matte brought onto a canvas, edges and their colours.

The network's matte is coarse: a guided filter (He, Sun and Tang 2013; subsampled as in He and Sun
2015) makes it follow the edges of the picture. Pixels that are partly background get the colour of
the person beside them (blur fusion, Forte 2021), so that nothing of the old background shines.
"""

from __future__ import annotations

from typing import TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.geometry import Box
from caracal.core.layout.model import Canvas
from caracal.core.media.planes import Picture, Plane, Planes
from caracal.core.render.assets.clips import film_size, frame_at_moment
from caracal.core.render.assets.mattes import steady_matte
from caracal.core.render.assets.segmentation import SIDE, Matte
from caracal.core.render.layers import Lift, PictureLayer
from caracal.core.render.masks import Mask, Masks, with_chroma
from caracal.core.render.painters.fill import filled

COARSE = 4  # the filter works on a picture so many times smaller
REACH = 1.5  # pixels of the matte: so far off may its edge lie
SMOOTH = 1e-4  # of a variance, luma 0..1: flatter parts of the picture are no edges
LOWEST, HIGHEST = 0.12, 0.88  # of the filtered matte: what is beyond is background, or person
FOREGROUND = 0.02  # of the canvas's longer side: from so near comes the colour of an edge
PURE = 4  # power of a share: pixels that are all one or the other say what colour that is
TINY = 1e-6


def lifted(layer: PictureLayer, lift: Lift, pixels: Picture) -> tuple[Picture, Masks]:
    """``pixels`` of a canvas that ``layer`` fills, mended at the edges of who is cut out, and how
    much of each is theirs. Raises InputError when the film cannot be read.
    """
    size = (pixels[0].shape[1], pixels[0].shape[0])
    person = lift.person
    frame = frame_at_moment(person.path, lift.moment_s)
    matte = steady_matte(person.path, frame, person.region, person.span)
    coarse, step = _on_canvas(matte, lift, layer, size)
    mask = _along_edges(coarse, pixels[0], max(2.0, REACH * step))
    masks = with_chroma(mask)
    radius = max(1, round(FOREGROUND * max(size)))
    y, u, v = (_own_colour(plane, share, radius // part) for plane, share, part in zip(
        pixels, (masks[0], masks[1], masks[1]), (1, 2, 2), strict=True))
    return (y, u, v), masks


def _on_canvas(
    matte: Matte, lift: Lift, layer: PictureLayer, size: Canvas
) -> tuple[Mask, float]:
    """``matte`` as the canvas shows it (h, w), 0..1, and how many of its pixels one of the matte
    is. Beside its region nobody is.
    """
    x, y, wide, high = lift.person.region
    across, down = SIDE / wide, SIDE / high
    whole = film_size(lift.person.path)
    plane = np.zeros((max(2, round(whole[1] * down)), max(2, round(whole[0] * across))), np.uint8)
    left, top = round(x * across), round(y * down)
    there = plane[top : top + SIDE, left : left + SIDE]
    there[:] = matte[: there.shape[0], : there.shape[1]]
    window: Box = (lift.window[0] * across, lift.window[1] * down, lift.window[2] * across,
                   lift.window[3] * down)
    none = np.zeros(((plane.shape[0] + 1) // 2, (plane.shape[1] + 1) // 2), np.uint8)
    seen = filled(Planes(plane, none, none), window, size, layer.finish.unsharpened)
    return _shares(seen[0]), size[0] / window[2]


def _shares(plane: Plane) -> Mask:
    """``plane`` as shares of 255."""
    return np.asarray(plane, np.float32) / np.float32(255)


def _along_edges(mask: Mask, luma: Plane, radius: float) -> Mask:
    """``mask`` (h, w) brought to the edges of ``luma`` (h, w) within ``radius`` pixels."""
    height, width = mask.shape
    small = (max(2, width // COARSE), max(2, height // COARSE))
    guide = _shares(_resized(luma, small))
    shape = _resized(mask, small)
    box = (2 * max(1, round(radius / COARSE)) + 1,) * 2

    def mean(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.blur(values, box), np.float32)

    at, along = mean(guide), mean(shape)
    slope = np.asarray((mean(guide * shape) - at * along) / (
        mean(guide * guide) - at * at + SMOOTH), np.float32)
    offset = along - slope * at
    whole = (width, height)
    found = _resized(mean(slope), whole) * _shares(luma) + _resized(mean(offset), whole)
    share = np.clip((found - LOWEST) / (HIGHEST - LOWEST), 0, 1)
    return np.asarray(share, np.float32)


T = TypeVar("T", NDArray[np.float32], NDArray[np.uint8])


def _resized(values: T, size: Canvas) -> T:
    how = cv2.INTER_AREA if size[0] < values.shape[1] else cv2.INTER_LINEAR
    return cv2.resize(values, size, interpolation=how).astype(values.dtype)


def _own_colour(plane: Plane, mask: Mask, radius: int) -> Plane:
    """``plane`` with the colour of what ``mask`` covers where it covers a pixel in part.

    The colours of person and background are means over ``radius``, of a picture made small first.
    """
    rows, columns = np.nonzero((mask > 0) & (mask < 1))
    if not len(rows):
        return plane
    height, width = plane.shape
    small = (max(2, width // COARSE), max(2, height // COARSE))
    values, weights = _shares(_resized(plane, small)), _resized(mask, small)
    box = (2 * max(1, radius // COARSE) + 1,) * 2
    person, behind = (
        _resized(np.asarray(cv2.blur(values * weight, box) / (cv2.blur(weight, box) + TINY),
                            np.float32), (width, height))[rows, columns]
        for weight in (weights**PURE, (1 - weights)**PURE))
    share = mask[rows, columns]
    mended = person + share * (_shares(plane[rows, columns]) - share * person
                               - (1 - share) * behind)
    made = plane.copy()
    made[rows, columns] = np.rint(np.clip(mended, 0, 1) * 255)
    return made
