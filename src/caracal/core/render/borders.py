"""Panes with round corners, edges and shadows, laid onto a canvas.

A mask says how much of each pixel a pane covers, 0 to 1; it is found from the distance to the
pane's rounded border, so that a curve is as smooth at any size. Only pixels near a pane are mixed.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Callable

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.layout.model import Target
from caracal.core.media.planes import Picture, Plane
from caracal.core.render.backdrops import LOWEST, MIDDLE, levels
from caracal.core.render.layers import PLAIN_BORDER, Trim

Mask = NDArray[np.float32]
Masks = tuple[Mask, Mask]  # of luma, and of chroma

FAR = 3  # standard deviations of a shadow's blur that are looked at


def laid(
    part: Picture, target: Target, canvas: Picture, trim: Trim = PLAIN_BORDER,
    covers: Masks | None = None,
) -> Picture:
    """``canvas`` with ``part`` at its target, which may lie beside it in part. What is not ours
    alone is copied first.

    ``covers`` is how much of it each pixel covers; None: all.
    """
    if trim.opacity < 1 or trim.part != (0.0, 1.0):
        whole = msgspec.structs.replace(trim, opacity=1.0, part=(0.0, 1.0))
        under = canvas[0].copy(), canvas[1].copy(), canvas[2].copy()
        return _between(canvas, laid(part, target, under, whole, covers), trim)
    made = _own(canvas)
    if trim.shadow > 0:
        _darken(made, target, trim)
    if trim.edge is not None:
        part = _edged(part, target, trim)
    masks = covers
    if trim.radius > 0:
        masks = rounded(target[2:], trim.radius)
        if covers is not None:
            masks = masks[0] * covers[0], masks[1] * covers[1]
    for i, (place, inner) in enumerate(_seen(made, target)):
        if masks is None:
            place[:] = part[i][inner]
        else:
            mixed_into(place, part[i][inner], masks[min(i, 1)][inner])
    return made


Inner = tuple[slice, slice]


def _seen(canvas: Picture, target: Target) -> list[tuple[Plane, Inner]]:
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


def _between(canvas: Picture, after: Picture, trim: Trim) -> Picture:
    """What lies between a ``canvas`` and that ``after`` a pane was laid onto it, which comes or
    goes as ``trim`` says: as strongly as it shows, as far as it is wiped in.
    """
    made, (low, high) = _own(canvas), trim.part
    for plane, laid_over in zip(made, after, strict=True):
        width = plane.shape[1]
        edges = np.arange(width, dtype=np.float32)
        shown = np.clip(np.minimum(edges + 1 - low * width, high * width - edges), 0, 1)
        mixed_into(plane, laid_over, (shown * np.float32(trim.opacity))[None])
    return made


Blend = Callable[[list[Plane], list[Plane]], list[Plane]]


def mixed_onto(
    canvas: Picture, pixels: Picture, masks: Masks, target: Target, blend: Blend | None = None
) -> Picture:
    """``canvas`` with ``pixels`` on it, as far as ``masks`` cover it at a target that may lie
    beside it in part. ``blend`` mixes what is behind with what is over it; None: what is over.
    """
    made = _own(canvas)
    seen = _seen(made, target)
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


def _own(canvas: Picture) -> Picture:
    y, u, v = (plane if plane.flags.owndata and plane.flags.writeable else plane.copy()
               for plane in canvas)
    return y, u, v


def mixed_into(place: Plane, pixels: Plane | int, mask: Mask) -> None:
    """Mix ``pixels`` into ``place`` (h, w), as far as ``mask`` (h, w) covers it."""
    under = place.astype(np.float32)
    under += (pixels - under) * mask
    place[:] = cv2.convertScaleAbs(under)


def _edged(part: Picture, target: Target, trim: Trim) -> Picture:
    """``part`` with a line inside its border."""
    assert trim.edge is not None
    outside = tuple(1 - mask for mask in rounded(
        target[2:], max(trim.radius - trim.edge_px, 0.0), trim.edge_px))
    made = tuple(plane.copy() for plane in part)
    for i, (plane, level) in enumerate(zip(made, levels(trim.edge), strict=True)):
        mixed_into(plane, level, outside[min(i, 1)])
    return made[0], made[1], made[2]


def _darken(canvas: Picture, target: Target, trim: Trim) -> None:
    """Take away light behind a pane at ``target``."""
    spare = 2 * math.ceil((FAR * trim.shadow_px + 1) / 2)
    drop = 2 * round(trim.drop_px / 2)
    masks = _shadow(target[2:], trim.radius, trim.shadow_px, spare)
    left, top = target[0] - spare, target[1] - spare + drop
    for i, (plane, dark) in enumerate(zip(canvas, (LOWEST, MIDDLE, MIDDLE), strict=True)):
        step = 1 if i == 0 else 2
        mask = masks[min(i, 1)]
        x, y = left // step, top // step
        across = slice(max(x, 0), min(x + mask.shape[1], plane.shape[1]))
        down = slice(max(y, 0), min(y + mask.shape[0], plane.shape[0]))
        seen = mask[down.start - y : down.stop - y, across.start - x : across.stop - x]
        mixed_into(plane[down, across], dark, seen * trim.shadow)


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


@functools.lru_cache(8)
def _shadow(size: tuple[int, int], radius: float, sigma: float, spare: int) -> Masks:
    """The mask of a pane's shadow, ``spare`` pixels larger than the pane on each side."""
    mask = np.pad(rounded(size, radius)[0], spare)
    if sigma > 0:
        mask = np.asarray(cv2.GaussianBlur(mask, (0, 0), sigma), np.float32)
    return with_chroma(mask)
