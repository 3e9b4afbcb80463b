"""How much of each pixel a shape covers, 0 to 1, and pixels mixed by that."""

from __future__ import annotations

import functools
from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.layout.model import Target
from caracal.core.media.planes import Picture, Plane

Mask = NDArray[np.float32]
Masks = tuple[Mask, Mask]  # of luma, and of chroma
Inner = tuple[slice, slice]


def visible_planes(canvas: Picture, target: Target) -> list[tuple[Plane, Inner]]:
    """Of each plane the place that ``target`` covers of ``canvas``, and which part of the target
    that is; none where it lies beside it.
    """
    x, y, width, height = target
    left, top = max(0, -x), max(0, -y)
    right = min(width, canvas[0].shape[1] - x)
    bottom = min(height, canvas[0].shape[0] - y)
    if right <= left or bottom <= top:
        return []
    return [(plane[(y + top) // step : (y + bottom) // step,
                   (x + left) // step : (x + right) // step],
             (slice(top // step, bottom // step), slice(left // step, right // step)))
            for plane, step in zip(canvas, (1, 2, 2), strict=True)]


Blend = Callable[[list[Plane], list[Plane]], list[Plane]]


def mixed_onto(
    canvas: Picture, pixels: Picture, masks: Masks, target: Target, blend: Blend | None = None
) -> Picture:
    """``canvas`` with ``pixels`` on it, as far as ``masks`` cover it at a target that may lie
    beside it in part. ``blend`` mixes what is behind with what is over it; None: what is over.
    """
    made = writable(canvas)
    seen = visible_planes(made, target)
    if not seen:
        return made
    places = [place for place, _ in seen]
    parts = [part[inner] for part, (_, inner) in zip(pixels, seen, strict=True)]
    shares = [masks[min(i, 1)][inner] for i, (_, inner) in enumerate(seen)]
    if blend is not None:
        parts = blend(places, parts)
    for place, part, share in zip(places, parts, shares, strict=True):
        mixed_into(place, part, share)
    return made


def writable(canvas: Picture) -> Picture:
    """``canvas``, of which those planes are copied that others may use."""
    y, u, v = (plane if plane.flags.owndata and plane.flags.writeable else plane.copy()
               for plane in canvas)
    return y, u, v


def mixed_into(place: Plane, pixels: Plane | int, mask: Mask) -> None:
    """Mix ``pixels`` into ``place`` (h, w), as far as ``mask`` (h, w) covers it."""
    under = place.astype(np.float32)
    under += (pixels - under) * mask
    place[:] = cv2.convertScaleAbs(under)


@functools.lru_cache(32)
def rounded(size: tuple[int, int], radius: float, inset: float = 0.0) -> Masks:
    """How much of each pixel of ``size`` (width, height) a rounded rectangle covers.

    It lies ``inset`` pixels within; the corners have ``radius``.
    """
    width, height = size
    x = np.abs(np.arange(width) + 0.5 - width / 2)[None] - (width / 2 - inset - radius)
    y = np.abs(np.arange(height) + 0.5 - height / 2)[:, None] - (height / 2 - inset - radius)
    outside = np.hypot(np.maximum(x, 0), np.maximum(y, 0)) + np.minimum(np.maximum(x, y), 0)
    return with_chroma(np.clip(0.5 - (outside - radius), 0, 1).astype(np.float32))


def with_chroma(mask: Mask) -> Masks:
    """A plane (h, w) of luma, and the same for chroma: on even columns, between two rows."""
    before = np.pad(mask, ((0, 0), (1, 0)), mode="edge")[:, :-1:2]  # the columns before those
    across = (before + 2 * mask[:, ::2] + mask[:, 1::2]) / 4
    return mask, np.ascontiguousarray((across[::2] + across[1::2]) / 2, np.float32)
