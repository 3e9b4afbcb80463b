"""Joining detections across time: a Kalman filter per track and optimal assignment.

The filter is the constant-velocity model on (centre x, centre y, width, height) usual in
tracking by detection (Bewley et al., 2016, with width and height in place of area and ratio).
Looks may be unevenly spaced: the model steps by frames.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import linear_sum_assignment

from caracal.core.analysis.detection import SURE_SCORE
from caracal.core.analysis.labels import group_of
from caracal.core.analysis.tracking.global_motion import GlobalMotion
from caracal.core.analysis.tracking.sightings import FrameDetections, Sighting
from caracal.core.base.geometry import Box, overlap

Array = NDArray[np.float64]

LOST_AFTER_S = 1.2  # a track not seen this long has ended; hiding behind a post is shorter
LEAST_MATCH = 0.12  # overlap (IoU) or nearness below which a detection is another thing
SPEED_NOISE = 0.02  # change of speed, in box heights a frame; runners reverse in half a second
COLOUR_SCALE = 24.0  # CIE 1976: the same top differs by 6 under a lamp, two tops by 25 and more
LEAVES_WITHIN = 0.75  # of its width from the side it was seen last, when nothing else is known
GONE = 0.1  # of its width beyond the picture's side: less is still seen
LOOK_NOISE = 0.03  # jitter of a detected edge, in box heights, measured on the demo film


@dataclass
class LiveTrack:
    """A track while it grows: its filter's state and the looks that fed it.

    The filter's place is one of the scene: the camera's motion is taken out of every look before,
    and put back into every guess.
    """

    group: str
    state: Array
    covariance: Array
    frame: int
    looks: list[tuple[int, Sighting]] = field(default_factory=list)
    camera: GlobalMotion = field(default_factory=GlobalMotion.still)
    width: float = np.inf  # of the picture

    @property
    def colour(self) -> tuple[float, ...]:
        """The median colour (L*, a*, b*) over its looks, or empty where none was seen."""
        seen = [sight.seen.appearance for _, sight in self.looks if sight.seen.appearance]
        return tuple(float(v) for v in np.median(seen, axis=0)) if seen else ()

    @property
    def score(self) -> float:
        """The mean score of those sightings that were sure, 0 to 1."""
        sure = [sight.seen.score for _, sight in self.looks if sight.seen.score >= SURE_SCORE]
        return float(np.mean(sure)) if sure else 0.0

    def guess(self, frame: int) -> Box:
        """Where the filter expects it in the picture at ``frame``."""
        cx, cy, w, h = self.ahead(frame)[0][:4]
        dx, dy = self.camera.at(frame)
        return (float(cx + dx - w / 2), float(cy + dy - h / 2), max(float(w), 1.0),
                max(float(h), 1.0))

    def has_left(self, frame: int) -> bool:
        """Whether it is beyond the picture's sides at ``frame``, by flow or as it went before."""
        flowed = self.flowed(frame)
        x, _, w, _ = flowed or self.guess(frame)
        middle, last = x + w / 2, self.looks[-1][1].seen.box
        near = min(last[0], self.width - last[0] - last[2]) < LEAVES_WITHIN * last[2]
        outside = middle + GONE * w < 0 or middle - GONE * w > self.width
        return outside and (flowed is not None or near)

    def stayed(self, frame: int) -> Box:
        """Where the last look's box is at ``frame`` if it stands still in the scene."""
        at, sight = self.looks[-1]
        dx, dy = self.camera.at(frame) - self.camera.at(at)
        x, y, w, h = sight.seen.box
        return (x + float(dx), y + float(dy), w, h)

    def ahead(self, frame: int) -> tuple[Array, Array]:
        """Predicted state (8,), in the scene, and covariance (8, 8) at ``frame``."""
        step = float(frame - self.frame)
        move = np.eye(8)
        move[:4, 4:] = np.eye(4) * step
        process_noise = (SPEED_NOISE * self.state[3]) ** 2
        noise = np.zeros((8, 8))
        noise[:4, :4] = np.eye(4) * process_noise * step**3 / 3
        noise[:4, 4:] = noise[4:, :4] = np.eye(4) * process_noise * step**2 / 2
        noise[4:, 4:] = np.eye(4) * process_noise * step
        return move @ self.state, move @ self.covariance @ move.T + noise

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
        self.state = state + gain @ (in_scene(box, self.camera, frame) - state[:4])
        self.covariance = spread - gain @ spread[:4, :]
        self.frame = frame
        self.looks.append((frame, found))


def centre_form(box: Box) -> Array:
    """``box`` as (centre x, centre y, width, height)."""
    x, y, w, h = box
    return np.array([x + w / 2, y + h / 2, w, h])


def in_scene(box: Box, camera: GlobalMotion, frame: int) -> Array:
    """``box`` of the picture at ``frame`` in centre form, the camera's motion taken out."""
    found = centre_form(box)
    found[:2] -= camera.at(frame)
    return found


def matched(
    looks: Sequence[FrameDetections],
    rate: float,
    camera: GlobalMotion | None = None,
    width: float = np.inf,
) -> list[LiveTrack]:
    """The tracks of one shot from its looks in order: which detection continues which.

    ``width`` is the picture's: who has left it is not found again in it.
    """
    live: list[LiveTrack] = []
    for frame, found in looks:
        _match(live, frame, found, rate, camera or GlobalMotion.still(), width)
    return live


def _match(
    live: list[LiveTrack], frame: int, found: list[Sighting], rate: float, camera: GlobalMotion,
    width: float,
) -> None:
    """Sure detections first; then weak ones, which continue tracks and never begin any.

    As in Zhang et al. 2022, "ByteTrack: multi-object tracking by associating every detection box".
    """
    current = [live_track for live_track in live if frame - live_track.frame <= LOST_AFTER_S * rate
               and not live_track.has_left(frame)]
    sure = [sighting for sighting in found if sighting.seen.score >= SURE_SCORE]
    weak = [sighting for sighting in found if sighting.seen.score < SURE_SCORE]
    taken = _assign(current, frame, sure)
    _assign([track for track in current if track.frame != frame], frame, weak)
    live += [
        _begun(frame, sighting, camera, width) for j, sighting in enumerate(sure) if j not in taken
    ]


def _assign(current: list[LiveTrack], frame: int, found: list[Sighting]) -> set[int]:
    """Give each track the detection that suits all best; the indices of those taken."""
    affinity = np.zeros((len(current), len(found)))
    for i, track in enumerate(current):
        for j, seen in enumerate(found):
            if group_of(seen.seen.kind) == track.group:
                affinity[i, j] = _affinity(track, frame, seen.seen.box) * alike(
                    track.colour, seen.seen.appearance)
    taken = set()
    for row, column in zip(*linear_sum_assignment(-affinity), strict=True):
        if affinity[row, column] >= LEAST_MATCH:
            current[row].take(frame, found[column])
            taken.add(int(column))
    return taken


def _affinity(track: LiveTrack, frame: int, box: Box) -> float:
    """How well ``box`` continues the track, 0..1: by flow, by the filter, by where it was."""
    guess, last = track.guess(frame), track.stayed(frame)
    flowed = track.flowed(frame)
    return max(
        overlap(flowed, box) if flowed else 0.0,
        overlap(guess, box), _nearness(guess, box),
        0.8 * overlap(last, box),  # it stopped: the filter runs on, it did not
        0.5 * _within(last, box),  # it came in or went out over the edge
    )


def _begun(frame: int, seen: Sighting, camera: GlobalMotion, width: float) -> LiveTrack:
    box = seen.seen.box
    state = np.concatenate([in_scene(box, camera, frame), np.zeros(4)])
    height = box[3]
    spread = np.diag([(LOOK_NOISE * height) ** 2] * 4 + [(0.12 * height) ** 2] * 4)
    return LiveTrack(group_of(seen.seen.kind), state, spread, frame, [(frame, seen)], camera, width)


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


def alike(a: tuple[float, ...], b: tuple[float, ...]) -> float:
    """How alike two colours are, 0..1; 1 where one of them is not known.

    Only bodies have a colour of three numbers; faces are matched by place alone.
    """
    if len(a) != 3 or len(b) != 3:
        return 1.0
    return float(np.exp(-(float(np.linalg.norm(np.subtract(a, b))) / COLOUR_SCALE) ** 2))
