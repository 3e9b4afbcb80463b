"""Following a box that a person drew, forwards and backwards through its shot.

Median flow (Kalal, Mikolajczyk and Matas 2010): points in the box are followed by pyramidal
Lucas-Kanade flow there and back; those that do not come back to where they began are dropped, and
the box moves and grows by the medians of the rest. Each step is checked against the picture in
the box as it was drawn: where too little of it is left, the box is lost and holds.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from pathlib import Path

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box
from caracal.core.base.work import CancelToken
from caracal.core.media.planes import Plane
from caracal.core.media.proxy import ProxyReader

GRID = 10  # points along each side of the box
MOST_BACK = 1.0  # pixels of the proxy by which a point may miss its beginning, at least
LEAST_POINTS = 8  # that came back
LOST_BELOW = 0.35  # likeness (normalised correlation) to the drawn box, or to a moment ago
MEMORY_FRAMES = 12  # the picture a moment ago: things turn and change slowly
PATCH = (32, 32)  # pixels pictures are compared at
MOST_GROWTH = 1.06  # a frame: faster is a mistake
APART = 0.4  # pixels a frame by which a thing moves otherwise than its ground
THING_SHARE = 0.12  # of the points: fewer are mistakes
LEAST_SIDE = 8.0  # pixels of the proxy: a smaller box has nothing to hold on to

Points = NDArray[np.float32]


class Followed(msgspec.Struct, frozen=True):
    """A followed box: ``boxes`` in master pixels and ``confidence`` 0..1, from ``first_frame`` on.

    ``lost`` are the frames [first, end) in which the thing was not found and the box holds.
    """

    first_frame: int
    boxes: tuple[Box, ...]
    confidence: tuple[float, ...]
    lost: tuple[tuple[int, int], ...]


def follow_box(
    proxy: Path, analysis: Analysis, shot: int, frame: int, box: Box, token: CancelToken
) -> Followed:
    """Follow ``box`` (master pixels, drawn at ``frame``) through ``shot``, both ways.

    Raises InputError when the proxy cannot be read, Cancelled when stopped.
    """
    span = analysis.shots[shot]
    reader = ProxyReader(proxy, analysis.master.frame_rate)

    def pictures(numbers: range) -> Iterator[Plane]:
        for at in numbers:
            token.check()
            yield np.array(reader.planes(at).y)

    try:
        scale = next(pictures(range(frame, frame + 1))).shape[1] / analysis.master.width
        small = (box[0] * scale, box[1] * scale, box[2] * scale, box[3] * scale)
        later = _one_way(pictures(range(frame, span.end)), small)
        earlier = _one_way(pictures(range(frame, span.start - 1, -1)), small)
    finally:
        reader.close()
    found = [*reversed(earlier[1:]), *later]
    boxes = tuple(_in_master(box, scale) for box, _ in found)
    sure = tuple(round(confidence, 3) for _, confidence in found)
    return Followed(span.start, boxes, sure, _spans(sure, span.start))


def _in_master(box: Box, scale: float) -> Box:
    x, y, w, h = (round(value / scale, 2) for value in box)
    return (x, y, w, h)


def _spans(sure: tuple[float, ...], start: int) -> tuple[tuple[int, int], ...]:
    bad = np.array([0, *(value < LOST_BELOW for value in sure), 0], np.int8)
    edges = np.flatnonzero(np.diff(bad))
    return tuple((start + int(a), start + int(b))
                 for a, b in zip(edges[::2], edges[1::2], strict=True))


def _one_way(pictures: Iterator[Plane], box: Box) -> list[tuple[Box, float]]:
    """The box and its confidence in each picture; the first is the one it was drawn in."""
    before = next(pictures)
    drawn, whole = _patch(before, box), _cut_out(before, box)
    recent = [drawn]
    found = [(box, 1.0)]
    for now in pictures:
        held, confidence = found[-1]
        moved = _step(before, now, held) if confidence >= LOST_BELOW else _again(now, held, whole)
        before = now
        if moved is None:
            found.append((held, 0.0))
            continue
        patch = _patch(now, moved)
        alike = max(_likeness(patch, drawn), _likeness(patch, recent[0]) * 0.9)
        if alike < LOST_BELOW:
            found.append((held, 0.0))
            continue
        found.append((moved, alike))
        recent = [*recent, patch][-MEMORY_FRAMES:]
    return found


def _step(before: Plane, now: Plane, box: Box) -> Box | None:
    """Where ``box`` is in the next picture, by the medians of the points that come back."""
    points = np.concatenate([_grid(box), _ring(box)])
    there, seen, _ = cv2.calcOpticalFlowPyrLK(before, now, points, np.empty_like(points))
    back, seen_back, _ = cv2.calcOpticalFlowPyrLK(now, before, there, np.empty_like(points))
    miss = np.linalg.norm((back - points).reshape(-1, 2), axis=1)
    good = (seen.ravel() == 1) & (seen_back.ravel() == 1)
    if not good.any():
        return None
    good &= miss <= max(MOST_BACK, float(np.median(miss[good])))
    inside = good & (np.arange(len(points)) < GRID * GRID)
    if int(inside.sum()) < LEAST_POINTS:
        return None
    move = (there - points).reshape(-1, 2)
    inside = _of_the_thing(move, inside, good & ~inside)
    a, b = points.reshape(-1, 2)[inside], np.asarray(there, np.float32).reshape(-1, 2)[inside]
    dx, dy = (float(value) for value in np.median(b - a, axis=0))
    growth = _growth(a, b)
    x, y, w, h = box
    wide, high = max(w * growth, LEAST_SIDE), max(h * growth, LEAST_SIDE)
    made = (x + w / 2 + dx - wide / 2, y + h / 2 + dy - high / 2, wide, high)
    return made if _inside(made, now.shape) else None


def _of_the_thing(
    move: Points, inside: NDArray[np.bool_], around: NDArray[np.bool_]
) -> NDArray[np.bool_]:
    """The points in the box that do not move like what is around it; all of them if most do.

    One sees the ground through a bicycle: its points would hold the box back.
    """
    if not around.any():
        return inside
    ground = np.median(move[around], axis=0)
    apart = inside & (np.linalg.norm(move - ground, axis=1) > APART)
    return apart if int(apart.sum()) >= max(LEAST_POINTS, THING_SHARE * inside.sum()) else inside


def _growth(a: Points, b: Points) -> float:
    """How much farther apart the points are: the median over pairs."""
    turned = np.roll(np.arange(len(a)), len(a) // 2)
    apart = np.linalg.norm(a - a[turned], axis=1)
    far = apart > 2.0
    if int(far.sum()) < LEAST_POINTS // 2:
        return 1.0
    ratio = float(np.median(np.linalg.norm(b - b[turned], axis=1)[far] / apart[far]))
    return min(max(ratio, 1 / MOST_GROWTH), MOST_GROWTH)


def _again(now: Plane, box: Box, whole: Plane) -> Box | None:
    """Look for a lost thing near where it was lost, as it was drawn (``whole``, its own size)."""
    x, y, w, h = box
    left, top = max(0, round(x - w)), max(0, round(y - h))
    area = now[top : round(y + 2 * h), left : round(x + 2 * w)]
    size = (max(4, round(w)), max(4, round(h)))
    if area.shape[0] < size[1] or area.shape[1] < size[0]:
        return None
    template = whole if whole.shape[::-1] == size else cv2.resize(
        whole, size, interpolation=cv2.INTER_AREA)
    fit = cv2.matchTemplate(area, template, cv2.TM_CCOEFF_NORMED)
    _, best, _, (px, py) = cv2.minMaxLoc(fit)
    return (left + px, top + py, w, h) if best > 2 * LOST_BELOW else None


def _inside(box: Box, shape: Iterable[int]) -> bool:
    """Whether the middle of the box is still in the picture."""
    height, width = shape
    return 0 <= box[0] + box[2] / 2 < width and 0 <= box[1] + box[3] / 2 < height


def _grid(box: Box) -> Points:
    x, y, w, h = box
    across = np.linspace(x + 0.1 * w, x + 0.9 * w, GRID)
    down = np.linspace(y + 0.1 * h, y + 0.9 * h, GRID)
    return np.stack(np.meshgrid(across, down), axis=-1).reshape(-1, 1, 2).astype(np.float32)


def _ring(box: Box) -> Points:
    """Points just outside the box, on all sides."""
    x, y, w, h = box
    across, down = np.linspace(x, x + w, GRID), np.linspace(y, y + h, GRID)
    sides = [np.stack([across, np.full(GRID, edge)], 1) for edge in (y - 0.2 * h, y + 1.2 * h)]
    sides += [np.stack([np.full(GRID, edge), down], 1) for edge in (x - 0.2 * w, x + 1.2 * w)]
    return np.concatenate(sides).reshape(-1, 1, 2).astype(np.float32)


def _cut_out(picture: Plane, box: Box) -> Plane:
    x, y, w, h = box
    size = (max(4, round(w)), max(4, round(h)))
    middle = (x + w / 2 - 0.5, y + h / 2 - 0.5)  # of pixels counted from their middles
    return np.asarray(cv2.getRectSubPix(picture, size, middle), np.uint8)


def _patch(picture: Plane, box: Box) -> Plane:
    part = _cut_out(picture, box)
    return np.asarray(cv2.resize(part, PATCH, interpolation=cv2.INTER_AREA), np.uint8)


def _likeness(a: Plane, b: Plane) -> float:
    return float(cv2.matchTemplate(a, b, cv2.TM_CCOEFF_NORMED)[0, 0])
