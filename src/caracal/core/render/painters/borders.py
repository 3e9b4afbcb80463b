"""Panes with round corners, edges and shadows, laid onto a canvas.

A mask says how much of each pixel a pane covers, 0 to 1; it is found from the distance to the
pane's rounded border, so that a curve is as smooth at any size. Only pixels near a pane are mixed.
"""

from __future__ import annotations

import functools
import math

import cv2
import msgspec
import numpy as np

from caracal.core.layout.model import Target
from caracal.core.media.bt709 import LOWEST, MIDDLE, levels
from caracal.core.media.planes import Picture
from caracal.core.render.layers import PLAIN_BORDER, Trim
from caracal.core.render.masks import (
    Masks,
    mixed_into,
    rounded,
    visible_planes,
    with_chroma,
    writable,
)

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
    made = writable(canvas)
    if trim.shadow > 0:
        _darken(made, target, trim)
    if trim.edge is not None:
        part = _edged(part, target, trim)
    masks = covers
    if trim.radius > 0:
        masks = rounded(target[2:], trim.radius)
        if covers is not None:
            masks = masks[0] * covers[0], masks[1] * covers[1]
    for i, (place, inner) in enumerate(visible_planes(made, target)):
        if masks is None:
            place[:] = part[i][inner]
        else:
            mixed_into(place, part[i][inner], masks[min(i, 1)][inner])
    return made


def _between(canvas: Picture, after: Picture, trim: Trim) -> Picture:
    """What lies between a ``canvas`` and that ``after`` a pane was laid onto it, which comes or
    goes as ``trim`` says: as strongly as it shows, as far as it is wiped in.
    """
    made, (low, high) = writable(canvas), trim.part
    for plane, laid_over in zip(made, after, strict=True):
        width = plane.shape[1]
        edges = np.arange(width, dtype=np.float32)
        shown = np.clip(np.minimum(edges + 1 - low * width, high * width - edges), 0, 1)
        mixed_into(plane, laid_over, (shown * np.float32(trim.opacity))[None])
    return made


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


@functools.lru_cache(8)
def _shadow(size: tuple[int, int], radius: float, sigma: float, spare: int) -> Masks:
    """The mask of a pane's shadow, ``spare`` pixels larger than the pane on each side."""
    mask = np.pad(rounded(size, radius)[0], spare)
    if sigma > 0:
        mask = np.asarray(cv2.GaussianBlur(mask, (0, 0), sigma), np.float32)
    return with_chroma(mask)
