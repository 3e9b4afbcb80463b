"""From a track's looks to a box for every frame: filled in by flow, calmed, carried on."""

from __future__ import annotations

from collections import Counter

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import uniform_filter1d

from caracal.core.analysis.labels import BEINGS
from caracal.core.analysis.model import Track
from caracal.core.analysis.tracking.sightings import Drift
from caracal.core.analysis.tracking.tracks import Array, LiveTrack, centre_form
from caracal.core.base.geometry import Box

STEADY_S = 0.3  # followed this long before a crossing counts as steady
STEADY_CROSSING = 0.015  # of its width a frame: slower things may as well have stopped
FLOW_TRUSTED = 0.5  # of a box's shorter side between flow and look: more is another thing's flow
FLOW_STRAYS = 0.6  # of a box's width: flow that strays so far follows something else
SPEED_S = 0.4  # over which a thing's speed at its first and last looks is measured
STILL_SEEN = 0.1  # of its width: a box of which less is in the picture has left it
SPEECH_FRAMES = 15  # mouths close between syllables
MOUTH_MOVES = 1.5  # luma steps by which a speaking mouth changes more than the brow above it
LATE_S = 1.2  # so late may a detector be
LEAVES_WITHIN = 0.75  # of its width from the picture's edge: farther in it was hidden, not leaving


def finished(
    number: int, track: LiveTrack, frames: list[int], shot: tuple[int, int], rate: float,
    picture: tuple[float, float],
) -> Track:
    """The track of ``track`` in ``shot`` [start, end), which was looked at in ``frames``."""
    at = np.array([frame for frame, _ in track.looks])
    boxes = np.array([centre_form(sight.seen.box) for _, sight in track.looks])
    smooth = _calmed(at, boxes)
    first, last = int(at[0]), int(at[-1])
    # Seen at the shot's first look: it was there since the cut. Otherwise it came in between.
    begin = shot[0] if first == frames[0] else first
    close = shot[1] if last == frames[-1] else last + 1
    seen_until = close
    if last - first >= STEADY_S * rate:
        begin, close = _carried_on(at, smooth, (begin, close), shot, picture[0], rate,
                                   _looks_around(frames, first, last))
    if begin == first and track.group in BEINGS and len(at) > 1:
        begin = max(shot[0], first - _unseen_before(at, smooth, rate, picture[0]))
    drift = _edge_drift(at, smooth, rate)
    drifted = _as_it_went(track.looks[-1][1].drift[: max(0, shot[1] - 1 - last)], drift[1],
                          float(smooth[-1, 2]))
    if close > seen_until:  # it leaves as steadily as it came: flow lags at the picture's edge
        drifted = drifted[:0]
    elif close == last + 1:  # no more was seen of it, but the flow carried it on
        close = last + 1 + len(drifted)
    wanted = np.arange(begin, close)
    inside = np.clip(wanted, first, last)
    if len(at) > 1:
        values = PchipInterpolator(at, smooth, axis=0)(inside)
        _bend_by_flow(values, begin, at, smooth, [sight.drift for _, sight in track.looks])
        # Beyond its first look it is carried sideways only: people do not rise or sink.
        values[:, 0] += np.minimum(wanted - first, 0) * drift[0][0]
        if not len(drifted):
            values[:, :2] += np.maximum(wanted - last, 0)[:, None] * drift[1]
    else:
        values = np.repeat(smooth, len(wanted), axis=0)
    if len(drifted):  # as the flow went, and then held where it was lost
        after = np.minimum(np.arange(close - last - 1), len(drifted) - 1)
        values[last + 1 - begin :, :2] = smooth[-1, :2] + drifted[after]
    kind = Counter(sight.seen.kind for _, sight in track.looks).most_common(1)[0][0]
    score = track.score
    seen = _in_picture(values, picture[0])
    begin, values = begin + seen.start, values[seen]
    cut = tuple(_cut(row, picture) for row in values)
    described = [sight.seen.appearance for _, sight in track.looks if sight.seen.appearance]
    appearance = tuple(float(v) for v in np.median(described, axis=0)) if described else ()
    gaze = tuple((frame, sight.seen.gaze) for frame, sight in track.looks
                 if sight.seen.gaze is not None)
    return Track(number, kind, 0, number, round(score, 4), begin, cut, appearance, None, gaze,
                 _speech(track), _sharpness(track))


def _sharpness(track: LiveTrack) -> float | None:
    """The median of what its looks say; None where they say nothing."""
    seen = [sight.seen.sharpness for _, sight in track.looks if sight.seen.sharpness is not None]
    return round(float(np.median(seen)), 3) if seen else None


def _speech(track: LiveTrack) -> float:
    """The share of the followed frames in which the mouth moves, 0..1."""
    ends = [*(frame for frame, _ in track.looks[1:]), None]
    moved = [sight.mouth[: end - frame if end is not None else None]
             for (frame, sight), end in zip(track.looks, ends, strict=True)]
    every = np.concatenate(moved)
    if not len(every):
        return 0.0
    calm = uniform_filter1d(every, SPEECH_FRAMES, mode="nearest")
    return round(float((calm > MOUTH_MOVES).mean()), 3)


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


def _looks_around(frames: list[int], first: int, last: int) -> tuple[int, int]:
    """The looks before ``first`` and after ``last``; those themselves where there are none."""
    before = max((frame for frame in frames if frame < first), default=first)
    return before, min((number for number in frames if number > last), default=last)


def _carried_on(
    at: NDArray[np.int_], boxes: Array, span: tuple[int, int], shot: tuple[int, int],
    width: float, rate: float, unseen: tuple[int, int],
) -> tuple[int, int]:
    """``span`` longer at both ends for a thing that crosses steadily: until it leaves the picture.

    Detectors lose what is cut by the edge or blurred; a steady crossing does not end there. In the
    looks ``unseen`` before and after it was not found: where it would have been outside by then it
    had left, however far from the edge it was seen last.
    """
    (begin, close), drift = span, _edge_drift(at, boxes, rate)
    for i, speed in enumerate(drift):
        edge = 0 if i == 0 else -1
        if abs(speed[0]) < STEADY_CROSSING * boxes[edge, 2]:
            continue
        left, right = boxes[edge, 0] - boxes[edge, 2] / 2, boxes[edge, 0] + boxes[edge, 2] / 2
        outwards = speed[0] if i else -speed[0]
        room = width - right if outwards > 0 else left
        by_then = float(boxes[edge, 0] + speed[0] * (unseen[i] - at[edge]))
        if room > LEAVES_WITHIN * boxes[edge, 2] and 0 < by_then < width:
            continue
        frames = int((width - left if outwards > 0 else right) / abs(speed[0]))
        if i == 0:
            begin = max(shot[0], min(begin, int(at[0]) - frames))
        else:
            close = min(shot[1], max(close, int(at[-1]) + frames + 1))
    return begin, close


def _unseen_before(at: NDArray[np.int_], boxes: Array, rate: float, width: float) -> int:
    """For how many frames before its first look a being was there already, though not seen.

    Nobody appears in the middle of a picture: the detector was late. It is taken to have moved
    before as it did at first, for a while, and never to have been outside the picture.
    """
    speed = float(_edge_drift(at, boxes, rate)[0][0])
    middle, half = float(boxes[0, 0]), float(boxes[0, 2]) / 2
    room = (middle if speed > 0 else width - middle) - half
    if room < LEAVES_WITHIN * boxes[0, 2]:
        return 0  # it came in over the edge
    most = round(LATE_S * rate)
    return most if abs(speed) < 1e-6 else min(most, int(room / abs(speed)))


def _edge_drift(at: NDArray[np.int_], boxes: Array, rate: float) -> tuple[Array, Array]:
    """Speed of the centre (pixels a frame) over the first looks, and over the last.

    Two looks or, where those are close, as many as take a while: boxes jitter.
    """
    if len(at) < 2:
        return np.zeros(2), np.zeros(2)
    while_frames = SPEED_S * rate
    near = min(max(2, int(np.searchsorted(at, at[0] + while_frames))), len(at) - 1)
    far = min(max(2, int(np.searchsorted(-at[::-1], while_frames - at[-1]))), len(at) - 1)
    first = (boxes[near, :2] - boxes[0, :2]) / (at[near] - at[0])
    last = (boxes[-1, :2] - boxes[-1 - far, :2]) / (at[-1] - at[-1 - far])
    return first, last


def _as_it_went(drift: Drift, speed: Array, width: float) -> Drift:
    """The first of ``drift`` (n, 2), as long as it stops or goes on about as the looks before did.

    What passes in front takes the flow along; then nothing is known of what is behind.
    """
    if not len(drift):
        return drift
    going = speed[0] * np.arange(1, len(drift) + 1)
    most, least = np.maximum(going, 0.0), np.minimum(going, 0.0)
    wrong = np.flatnonzero(np.maximum(drift[:, 0] - most, least - drift[:, 0])
                           > FLOW_STRAYS * width)
    return drift[: wrong[0]] if len(wrong) else drift


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


def _in_picture(values: Array, width: float) -> slice:
    """The rows from the first to the last whose box, in centre form, is seen in the picture."""
    left, right = values[:, 0] - values[:, 2] / 2, values[:, 0] + values[:, 2] / 2
    shown = np.minimum(right, width) - np.maximum(left, 0.0)
    inside = np.flatnonzero(shown >= STILL_SEEN * values[:, 2])
    return slice(int(inside[0]), int(inside[-1]) + 1) if len(inside) else slice(0, len(values))


def _cut(row: Array, picture: tuple[float, float]) -> Box:
    cx, cy, w, h = (float(value) for value in row)
    left, top = max(0.0, cx - w / 2), max(0.0, cy - h / 2)
    right, bottom = min(picture[0], cx + w / 2), min(picture[1], cy + h / 2)
    wide, high = max(1.0, right - left), max(1.0, bottom - top)
    return (round(left, 2), round(top, 2), round(wide, 2), round(high, 2))
