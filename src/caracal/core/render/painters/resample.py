"""Separable resampling with a fractional phase: a window of any place and size onto a canvas.

Every output sample is a weighted sum of a few input samples along each axis, with Lanczos weights
computed for its exact position (Turkowski, "Filters for common resampling tasks", 1990), widened
when the picture shrinks so that nothing aliases. The weights of a run of output rows touch a
short run of input rows only, so each axis is a handful of small matrix products, which is many
times faster than a general warp and as exact as single floats are.
"""

from __future__ import annotations

import functools
import math
import threading
from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.media.planes import Plane

LOBES = 3  # Lanczos-3
WHOLE = 1e-6  # of a sample: nearer to whole places nothing can be seen
BLOCK = 16  # output samples a product, measured: 9 ms a plane of 1080x1920; 64 takes 15

Floats = NDArray[np.float32]


@dataclass(frozen=True)
class Axis:
    """Weights along one axis: ``matrices`` (blocks, BLOCK, inputs), block i from input starts[i].

    ``whole`` says that output k is input ``first + k`` itself: nothing to compute.
    """

    starts: NDArray[np.intp]
    matrices: Floats
    outputs: int
    first: int
    end: int
    whole: bool

    def blocks(self) -> Iterator[tuple[int, int, Floats]]:
        """(output start, input start counted from ``first``, matrix (outputs, inputs))."""
        width = min(self.matrices.shape[2], self.end - self.first)
        for i, start in enumerate(self.starts):
            rows = min(BLOCK, self.outputs - i * BLOCK)
            # Near the far edge a block begins early enough to end with the picture.
            yield i * BLOCK, int(start) - self.first, self.matrices[i, :rows, :width]


@functools.lru_cache(maxsize=96)
def axis_weights(start: float, length: float, outputs: int, inputs: int) -> Axis:
    """Weights that sample [start, start + length) of ``inputs`` samples at ``outputs`` places.

    Sample i covers [i, i + 1); places outside the picture repeat its edge.
    """
    scale = length / outputs
    if abs(scale - 1) < WHOLE and abs(start - round(start)) < WHOLE and (
            0 <= round(start) <= inputs - outputs):
        first = round(start)
        none = np.zeros((0, 0, 0), np.float32)
        return Axis(np.zeros(0, np.intp), none, outputs, first, first + outputs, True)
    wide = max(1.0, scale)
    reach = LOBES * wide
    blocks = -(-outputs // BLOCK)
    centres = start + (np.arange(blocks * BLOCK) + 0.5) * scale - 0.5
    low = np.floor(centres - reach).astype(np.intp) + 1
    taps = int(np.ceil(2 * reach)) + 1
    at = low[:, None] + np.arange(taps)[None, :]
    weights = _lanczos((at - centres[:, None]) / wide)
    weights /= weights.sum(axis=1, keepdims=True)
    at = np.clip(at, 0, inputs - 1).reshape(blocks, BLOCK, taps)
    used = at.reshape(-1, taps)[:outputs]
    first, end = int(used.min()), int(used.max()) + 1
    width = min(int((at[:, -1, -1] - at[:, 0, 0]).max()) + 1, end - first)
    starts = np.clip(at[:, 0, 0], first, end - width)
    # One sum over (block, row, input) places; edge samples may be named by several taps.
    rows = np.arange(blocks * BLOCK).reshape(blocks, BLOCK, 1)
    inside = np.clip(at - starts[:, None, None], 0, width - 1)
    flat = np.bincount((rows * width + inside).ravel(), weights.ravel(), blocks * BLOCK * width)
    matrices = flat.astype(np.float32).reshape(blocks, BLOCK, width)
    return Axis(starts, matrices, outputs, first, end, False)


def _lanczos(x: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.where(np.abs(x) < LOBES, np.sinc(x) * np.sinc(x / LOBES), 0.0)


def resample(plane: Plane, window: tuple[float, float, float, float],
             size: tuple[int, int]) -> Plane:
    """The part ``window`` (x, y, w, h; samples of ``plane``) as a plane of ``size`` (w, h)."""
    x, y, w, h = window
    across = axis_weights(x, w, size[0], plane.shape[1])
    down = axis_weights(y, h, size[1], plane.shape[0])
    part = plane[down.first : down.end, across.first : across.end]
    if across.whole and down.whole:
        return part
    made: Plane = np.empty((size[1], size[0]), np.uint8)
    if across.whole:
        _finish(part.astype(np.float32), down, made)
        return made
    # Both axes are done as weights times rows: on rows that lie together this is three times
    # quicker than rows times weights, even with the turning of the picture in between.
    columns = cv2.transpose(part).astype(np.float32)
    mixed = _memory.take("mixed", (across.outputs, len(part)))
    for out, a, matrix in across.blocks():
        np.matmul(matrix, columns[a : a + matrix.shape[1]], out=mixed[out : out + len(matrix)])
    turned = cv2.transpose(mixed, dst=_memory.take("turned", mixed.shape[::-1]))
    _finish(np.asarray(turned, np.float32), down, made)
    return made


def resample_quickly(plane: Plane, window: tuple[float, float, float, float],
                     size: tuple[int, int]) -> Plane:
    """As :func:`resample`, for large pictures on a screen: whole pixels are averaged, and the rest
    is interpolated linearly."""
    x, y, w, h = window
    if all(abs(edge - round(edge)) < WHOLE for edge in window) and min(x, y) >= 0 and (
            x + w <= plane.shape[1] + WHOLE and y + h <= plane.shape[0] + WHOLE):
        part = plane[round(y) : round(y + h), round(x) : round(x + w)]
        kind = cv2.INTER_AREA if w > size[0] else cv2.INTER_LINEAR
        return np.asarray(cv2.resize(part, size, interpolation=kind), np.uint8)
    steps, starts, ends, rows = [], [], [], []
    for start, length, outputs, inputs in ((x, w, size[0], plane.shape[1]),
                                           (y, h, size[1], plane.shape[0])):
        scale = length / outputs
        step = max(1, round(scale))
        first = min(max(0, math.floor(start) - 2 * step), inputs - step)
        count = max(1, (min(inputs, math.ceil(start + length) + 2 * step) - first) // step)
        steps.append(step)
        starts.append(first)
        ends.append(first + count * step)
        rows.append((scale / step, (start - first + scale / 2) / step - 0.5))
    part = plane[starts[1] : ends[1], starts[0] : ends[0]]
    if max(steps) > 1:
        smaller = (part.shape[1] // steps[0], part.shape[0] // steps[1])
        part = np.asarray(cv2.resize(part, smaller, interpolation=cv2.INTER_AREA), np.uint8)
    inverse = np.array([[rows[0][0], 0, rows[0][1]], [0, rows[1][0], rows[1][1]]])
    made = cv2.warpAffine(part, inverse, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                          borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(made, np.uint8)


def _finish(rows: Floats, down: Axis, target: Plane) -> None:
    """Mix ``rows`` by ``down`` and round into ``target``, block by block in the cache's reach."""
    if down.whole:
        _round(rows, target)
        return
    made = _memory.take("rows", (BLOCK, rows.shape[1]))
    for out, a, matrix in down.blocks():
        here = made[: len(matrix)]
        np.matmul(matrix, rows[a : a + matrix.shape[1]], out=here)
        _round(here, target[out : out + len(matrix)])


def _round(rows: Floats, target: Plane) -> None:
    """``rows`` rounded and clipped into ``target``; ``rows`` is used up."""
    cv2.threshold(rows, 0, 0, cv2.THRESH_TOZERO, dst=rows)  # the next step would flip the sign
    cv2.convertScaleAbs(rows, dst=target)


class _Memory(threading.local):
    """Arrays used again for every plane: fresh ones cost more to map than to fill."""

    def __init__(self) -> None:
        self._held: dict[str, Floats] = {}

    def take(self, name: str, shape: tuple[int, ...]) -> Floats:
        """An array of ``shape`` whose contents are whatever was there; one for each name."""
        count = math.prod(shape)
        if name not in self._held or self._held[name].size < count:
            self._held[name] = np.empty(count, np.float32)
        return self._held[name][:count].reshape(shape)


_memory = _Memory()
