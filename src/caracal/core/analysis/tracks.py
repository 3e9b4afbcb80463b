"""Joining detections across time: a Kalman filter per track and optimal assignment.

The filter is the constant-velocity model on (centre x, centre y, width, height) usual in
tracking by detection (Bewley et al., 2016, with width and height in place of area and ratio).
Looks may be unevenly spaced: the model steps by frames.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.optimize import linear_sum_assignment

from caracal.core.analysis.detections import overlap
from caracal.core.analysis.looking import Drift, Look, Sighting
from caracal.core.analysis.model import Box, Track

Array = NDArray[np.float64]

LOST_AFTER_S = 1.2  # a track not seen this long has ended; hiding behind a post is shorter
LEAST_MATCH = 0.12  # overlap (IoU) or nearness below which a detection is another thing
LEAST_SCORE = 0.40  # mean score of a track worth keeping
STEADY_S = 0.5  # followed this long before a crossing counts as steady
STEADY_CROSSING = 0.015  # of its width a frame: slower things may as well have stopped
SPEED_NOISE = 0.02  # change of speed, in box heights a frame; runners reverse in half a second
FLOW_TRUSTED = 0.5  # of a box's shorter side between flow and look: more is another thing's flow
LOOK_NOISE = 0.03  # jitter of a detected edge, in box heights, measured on the demo film

ANIMALS = ("bird", "cat", "dog", "horse", "sheep", "cow", "elephant", "bear", "zebra", "giraffe")
RIDES = ("bicycle", "motorcycle")
GROUPS = {**dict.fromkeys(ANIMALS, "animal"), **dict.fromkeys(RIDES, "ride"),
          "face": "face", "person": "person"}


def group_of(kind: str) -> str:
    """Kinds that detectors confuse share a group; tracks join within a group only."""
    return GROUPS.get(kind, "thing")


@dataclass
class _Live:
    """A track while it grows: its filter's state and the looks that fed it."""

    group: str
    state: Array
    spread: Array
    frame: int
    looks: list[tuple[int, Sighting]] = field(default_factory=list)

    def ahead(self, frame: int) -> tuple[Array, Array]:
        """Predicted state (8,) and covariance (8, 8) at ``frame``."""
        step = float(frame - self.frame)
        move = np.eye(8)
        move[:4, 4:] = np.eye(4) * step
        jolt = (SPEED_NOISE * self.state[3]) ** 2
        noise = np.zeros((8, 8))
        noise[:4, :4] = np.eye(4) * jolt * step**3 / 3
        noise[:4, 4:] = noise[4:, :4] = np.eye(4) * jolt * step**2 / 2
        noise[4:, 4:] = np.eye(4) * jolt * step
        return move @ self.state, move @ self.spread @ move.T + noise

    def flowed(self, frame: int) -> Box | None:
        """Where optical flow carried the last look's box by ``frame``, if it was followed."""
        at, sight = self.looks[-1]
        if not 0 < frame - at <= len(sight.drift):
            return None
        x, y, w, h = sight.seen.box
        dx, dy = sight.drift[frame - at - 1]
        return (x + float(dx), y + float(dy), w, h)

    def take(self, frame: int, found: Sighting) -> None:
        """Correct the filter with a detection at ``frame``."""
        state, spread = self.ahead(frame)
        box = found.seen.box
        noise = np.eye(4) * (LOOK_NOISE * box[3]) ** 2
        gain = spread[:, :4] @ np.linalg.inv(spread[:4, :4] + noise)
        self.state = state + gain @ (_centre_form(box) - state[:4])
        self.spread = spread - gain @ spread[:4, :]
        self.frame = frame
        self.looks.append((frame, found))


def _centre_form(box: Box) -> Array:
    x, y, w, h = box
    return np.array([x + w / 2, y + h / 2, w, h])


def follow(
    looks: Sequence[Look], start: int, end: int, rate: float, picture: tuple[float, float],
) -> list[Track]:
    """Tracks of one shot [start, end) from its looks, ``(frame, detections)`` in order.

    Boxes are filled in for every frame between a track's first and last look, carried on to the
    shot's edges where the thing was in view, and cut to ``picture`` (width, height).
    Ids count from 0; ``shot`` and ``subject`` are set by the caller.
    """
    live: list[_Live] = []
    for frame, found in looks:
        _match(live, frame, found, rate)
    frames = [frame for frame, _ in looks]
    kept = [one for one in live if _worth_keeping(one, len(frames))]
    return [_finished(i, one, frames, (start, end), rate, picture) for i, one in enumerate(kept)]


def _match(live: list[_Live], frame: int, found: list[Sighting], rate: float) -> None:
    current = [one for one in live if frame - one.frame <= LOST_AFTER_S * rate]
    affinity = np.zeros((len(current), len(found)))
    for i, one in enumerate(current):
        for j, seen in enumerate(found):
            if group_of(seen.seen.kind) == one.group:
                affinity[i, j] = _affinity(one, frame, seen.seen.box)
    taken = set()
    for row, column in zip(*linear_sum_assignment(-affinity), strict=True):
        if affinity[row, column] >= LEAST_MATCH:
            current[row].take(frame, found[column])
            taken.add(int(column))
    for j, seen in enumerate(found):
        if j not in taken:
            live.append(_begun(frame, seen))


def _affinity(one: _Live, frame: int, box: Box) -> float:
    """How well ``box`` continues the track, 0..1: by flow, by the filter, by where it was."""
    cx, cy, w, h = one.ahead(frame)[0][:4]
    guess = (cx - w / 2, cy - h / 2, max(w, 1.0), max(h, 1.0))
    last = one.looks[-1][1].seen.box
    flowed = one.flowed(frame)
    return max(
        overlap(flowed, box) if flowed else 0.0,
        overlap(guess, box), _nearness(guess, box),
        0.8 * overlap(last, box),  # it stopped: the filter runs on, it did not
        0.5 * _within(last, box),  # it came in or went out over the edge
    )


def _begun(frame: int, seen: Sighting) -> _Live:
    box = seen.seen.box
    state = np.concatenate([_centre_form(box), np.zeros(4)])
    height = box[3]
    spread = np.diag([(LOOK_NOISE * height) ** 2] * 4 + [(0.12 * height) ** 2] * 4)
    return _Live(group_of(seen.seen.kind), state, spread, frame, [(frame, seen)])


def _within(a: Box, b: Box) -> float:
    """Shared part of the smaller box when the two agree in height, else 0."""
    if min(a[3], b[3]) < 0.7 * max(a[3], b[3]):
        return 0.0
    wide = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    high = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    return max(0.0, wide) * max(0.0, high) / min(a[2] * a[3], b[2] * b[3])


def _nearness(a: Box, b: Box) -> float:
    """0..0.5 for boxes of similar size that stand close without overlapping (fast movers)."""
    size = min(a[2] * a[3], b[2] * b[3]) / max(a[2] * a[3], b[2] * b[3])
    reach = max(a[2], b[2])
    away = float(np.hypot(a[0] + a[2] / 2 - b[0] - b[2] / 2, a[1] + a[3] / 2 - b[1] - b[3] / 2))
    return 0.5 * max(0.0, 1 - away / (1.5 * reach)) * size if size > 0.4 else 0.0


def _worth_keeping(one: _Live, looks: int) -> bool:
    mean = float(np.mean([sight.seen.score for _, sight in one.looks]))
    least = 1 if looks <= 2 else 2
    return len(one.looks) >= least and mean >= LEAST_SCORE


def _finished(
    number: int, one: _Live, frames: list[int], shot: tuple[int, int], rate: float,
    picture: tuple[float, float],
) -> Track:
    at = np.array([frame for frame, _ in one.looks])
    boxes = np.array([_centre_form(sight.seen.box) for _, sight in one.looks])
    smooth = _calmed(at, boxes)
    first, last = int(at[0]), int(at[-1])
    # Seen at the shot's first look: it was there since the cut. Otherwise it came in between.
    begin = shot[0] if first == frames[0] else first
    close = shot[1] if last == frames[-1] else last + 1
    if last - first >= STEADY_S * rate:
        begin, close = _carried_on(at, smooth, (begin, close), shot, picture[0])
    wanted = np.arange(begin, close)
    inside = np.clip(wanted, first, last)
    if len(at) > 1:
        values = PchipInterpolator(at, smooth, axis=0)(inside)
        _bend_by_flow(values, begin, at, smooth, [sight.drift for _, sight in one.looks])
        drift = _edge_drift(at, smooth)
        values[:, :2] += np.minimum(wanted - first, 0)[:, None] * drift[0]
        values[:, :2] += np.maximum(wanted - last, 0)[:, None] * drift[1]
    else:
        values = np.repeat(smooth, len(wanted), axis=0)
    kind = Counter(sight.seen.kind for _, sight in one.looks).most_common(1)[0][0]
    score = float(np.mean([sight.seen.score for _, sight in one.looks]))
    cut = tuple(_cut(row, picture) for row in values)
    described = [sight.seen.appearance for _, sight in one.looks if sight.seen.appearance]
    appearance = tuple(float(v) for v in np.median(described, axis=0)) if described else ()
    return Track(number, kind, 0, number, round(score, 4), begin, cut, appearance)


def _bend_by_flow(
    values: Array, begin: int, at: NDArray[np.int_], boxes: Array, drifts: list[Drift]
) -> None:
    """Between two looks let the centre move as the flow did, with the rest spread evenly.

    ``values`` (n, 4) are centre-form boxes from frame ``begin`` on, changed in place. Where flow
    and looks disagree by much, the flow followed something else and is left alone.
    """
    for i in range(len(at) - 1):
        length = int(at[i + 1] - at[i])
        if len(drifts[i]) < length:
            continue
        flow = drifts[i][:length].astype(np.float64)
        rest = boxes[i + 1, :2] - boxes[i, :2] - flow[-1]
        if float(np.abs(rest).max()) > FLOW_TRUSTED * float(boxes[i, 2:].min()):
            continue
        share = np.arange(1, length)[:, None] / length
        rows = slice(int(at[i]) + 1 - begin, int(at[i + 1]) - begin)
        values[rows, :2] = boxes[i, :2] + flow[:-1] + share * rest


def _carried_on(
    at: NDArray[np.int_], boxes: Array, span: tuple[int, int], shot: tuple[int, int], width: float
) -> tuple[int, int]:
    """``span`` longer at both ends for a thing that crosses steadily: until it leaves the picture.

    Detectors lose what is cut by the edge or blurred; a steady crossing does not end there.
    """
    (begin, close), drift = span, _edge_drift(at, boxes)
    for i, speed in enumerate(drift):
        edge = 0 if i == 0 else -1
        if abs(speed[0]) < STEADY_CROSSING * boxes[edge, 2]:
            continue
        left, right = boxes[edge, 0] - boxes[edge, 2] / 2, boxes[edge, 0] + boxes[edge, 2] / 2
        outwards = speed[0] if i else -speed[0]
        frames = int((width - left if outwards > 0 else right) / abs(speed[0]))
        if i == 0:
            begin = max(shot[0], min(begin, int(at[0]) - frames))
        else:
            close = min(shot[1], max(close, int(at[-1]) + frames + 1))
    return begin, close


def _edge_drift(at: NDArray[np.int_], boxes: Array) -> tuple[Array, Array]:
    """Speed of the centre (pixels a frame) at the first and the last two looks."""
    near = min(2, len(at) - 1)
    first = (boxes[near, :2] - boxes[0, :2]) / (at[near] - at[0])
    last = (boxes[-1, :2] - boxes[-1 - near, :2]) / (at[-1] - at[-1 - near])
    return first, last


def _calmed(at: NDArray[np.int_], boxes: Array) -> Array:
    """Detections with their jitter taken out where they hardly move: a short weighted mean."""
    if len(at) < 3:
        return boxes
    calm = boxes.copy()
    for i in range(1, len(at) - 1):
        near = boxes[i - 1 : i + 2]
        size = boxes[i, 3]
        moved = float(np.abs(near[2, :2] - near[0, :2]).max())
        # Weight of the neighbours falls as the thing really moves.
        share = 0.5 * np.exp(-((moved / (0.15 * size)) ** 2))
        calm[i] = (1 - share) * near[1] + share * (near[0] + near[2]) / 2
    return calm


def _cut(row: Array, picture: tuple[float, float]) -> Box:
    cx, cy, w, h = (float(value) for value in row)
    left, top = max(0.0, cx - w / 2), max(0.0, cy - h / 2)
    right, bottom = min(picture[0], cx + w / 2), min(picture[1], cy + h / 2)
    wide, high = max(1.0, right - left), max(1.0, bottom - top)
    return (round(left, 2), round(top, 2), round(wide, 2), round(high, 2))
