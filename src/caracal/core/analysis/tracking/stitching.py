"""Tracks of one shot, whole: pieces of one being joined, doubles dropped."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np

from caracal.core.analysis.detection import SURE_SCORE
from caracal.core.analysis.labels import group_of
from caracal.core.analysis.model import Track
from caracal.core.analysis.tracking.global_motion import GlobalMotion
from caracal.core.analysis.tracking.leaps import leapt
from caracal.core.analysis.tracking.sightings import FrameDetections
from caracal.core.analysis.tracking.track_interpolation import finished
from caracal.core.analysis.tracking.tracks import LiveTrack, alike, in_scene, matched
from caracal.core.base.geometry import overlap

LEAST_SCORE = 0.40  # mean score of a track worth keeping
OFTEN = 4  # sure looks at an animal: seen so often it is there, however unlike a photograph
HIDDEN_S = 1.6  # a being that was hidden longer is another, as far as one can know
STRAYED = 0.75  # of its height from where it should have come out again
SAME_HEIGHT = 0.6  # ratio: half-hidden boxes are narrow, but as high
SAME_COLOUR = 0.55  # likeness below which two pieces are two beings
DOUBLE = 0.55  # mean overlap of two tracks that are one being
DOUBLE_SHARE = 0.5  # of the shorter track's frames


def follow(
    looks: Sequence[FrameDetections],
    start: int,
    end: int,
    rate: float,
    picture: tuple[float, float],
    camera: GlobalMotion | None = None,
) -> list[Track]:
    """Tracks of one shot [start, end) from its looks, ``(frame, detections)`` in order.

    Boxes are filled in for every frame between a track's first and last look, carried on to the
    shot's edges where the thing was in view, and cut to ``picture`` (width, height).
    Ids count from 0; ``shot`` and ``subject`` are set by the caller. ``camera`` says how the
    background moves.
    """
    frames = [frame for frame, _ in looks]
    live = stitched(matched(looks, rate, camera, picture[0]), rate)
    kept = [live_track for live_track in live if _worth_keeping(live_track, len(frames))]
    made = [finished(i, track, frames, (start, end), rate, picture) for i, track in enumerate(kept)]
    single = without_doubles(made, [track.colour for track in kept])
    return [msgspec.structs.replace(track, id=i, subject=i) for i, track in enumerate(single)]


def _worth_keeping(track: LiveTrack, looks: int) -> bool:
    least = 1 if looks <= 2 else 2
    sure = sum(sight.seen.score >= SURE_SCORE for _, sight in track.looks)
    often = track.group == "animal" and sure >= OFTEN
    return sure >= least and (track.score >= LEAST_SCORE or often)


def stitched(pieces: list[LiveTrack], rate: float) -> list[LiveTrack]:
    """``pieces`` with those joined that one being left behind while it was hidden."""
    whole: list[LiveTrack] = []
    in_order = sorted(pieces, key=lambda track: (track.looks[0][0], track.group != "face",
                                                 -track.score))
    for piece in in_order:
        before = [(strayed, i) for i, live_track in enumerate(whole)
                  if (strayed := _strayed(live_track, piece, rate)) is not None]
        earlier = whole[min(before)[1]] if before else leapt(pieces, whole, piece, rate)
        if earlier is None:
            whole.append(piece)
            continue
        earlier.looks = [*earlier.looks, *piece.looks]
        earlier.frame, earlier.state, earlier.covariance = (
            piece.frame,
            piece.state,
            piece.covariance,
        )
    return whole


def _strayed(earlier: LiveTrack, later: LiveTrack, rate: float) -> float | None:
    """How far, in heights, ``later`` begins from where ``earlier`` was going; None: another."""
    gap = later.looks[0][0] - earlier.looks[-1][0]
    if earlier.group != later.group or not 0 < gap <= HIDDEN_S * rate:
        return None
    if earlier.has_left(later.looks[0][0]):
        return None
    a, b = _scene_at(earlier, -1), _scene_at(later, 0)
    if min(a[3], b[3]) < SAME_HEIGHT * max(a[3], b[3]):
        return None
    if alike(earlier.colour, later.colour) < SAME_COLOUR:
        return None
    speed = _speed(earlier) if len(earlier.looks) > 1 else _speed(later)
    strayed = float(np.hypot(*(a[:2] + speed * gap - b[:2]))) / float(max(a[3], b[3]))
    return strayed if strayed <= STRAYED else None


def _scene_at(track: LiveTrack, look: int) -> np.ndarray:
    frame, sight = track.looks[look]
    return in_scene(sight.seen.box, track.camera, frame)


def _speed(track: LiveTrack) -> np.ndarray:
    """Pixels a frame over its last few looks, against the scene."""
    first = max(-4, -len(track.looks))
    if first == -1:
        return np.zeros(2)
    frames = track.looks[-1][0] - track.looks[first][0]
    return np.asarray((_scene_at(track, -1)[:2] - _scene_at(track, first)[:2]) / frames)


def without_doubles(tracks: list[Track], colours: list[tuple[float, ...]]) -> list[Track]:
    """``tracks`` without those that lie on a better one of their kind through most of their time.

    Detectors see one walker twice: as a whole and as a part.
    """
    order = sorted(range(len(tracks)), key=lambda i: -tracks[i].score * len(tracks[i].boxes))
    kept: list[int] = []
    for i in order:
        if not any(_double(tracks[i], tracks[j]) and alike(colours[i], colours[j]) >= SAME_COLOUR
                   for j in kept):
            kept.append(i)
    return [tracks[i] for i in sorted(kept)]


def _double(track: Track, better: Track) -> bool:
    if group_of(track.kind) != group_of(better.kind):
        return False
    shared = range(
        max(track.first_frame, better.first_frame), min(track.end_frame, better.end_frame)
    )
    if len(shared) < DOUBLE_SHARE * len(track.boxes) or not shared:
        return False
    overlaps = [overlap(track.boxes[f - track.first_frame], better.boxes[f - better.first_frame])
                for f in shared]
    return float(np.mean(overlaps)) > DOUBLE
