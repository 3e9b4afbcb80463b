"""What is said of a shot once it has ended: who and what was in it, and its poster frame."""

from __future__ import annotations

import numpy as np

from caracal.core.analysis.detectors.text_detection import word_tracks
from caracal.core.analysis.film_pass.builder import EndedShot
from caracal.core.analysis.labels import BEINGS, group_of
from caracal.core.analysis.model import Boundary, FoundShot
from caracal.core.analysis.tracking.global_motion import GlobalMotion
from caracal.core.analysis.tracking.movers import mover
from caracal.core.analysis.tracking.sightings import FrameDetections, ShotDetections
from caracal.core.analysis.tracking.stitching import follow
from caracal.core.analysis.tracking.subjects import join_faces, without_parts
from caracal.core.media.master import Master

STAYS = 0.3  # of the shot's frames: who is there for less is not what the shot is about


def summarise_shot(
    edge: Boundary, end: int, following: Boundary | None, seen: ShotDetections,
    thumbnails: dict[int, bytes], master: Master,
) -> EndedShot:
    """The shot that begins at ``edge`` and ends before frame ``end``, without its sound.

    ``following`` is the boundary at its end, None at the film's. ``thumbnails`` are small lumas by
    frame, those that were looked at.
    """
    steady = _steady_span(edge, end, following)
    looks = [look for look in seen.looks if steady[0] <= look[0] < steady[1]] or seen.looks
    camera = GlobalMotion.over(seen.camera.astype(np.float64), 0, end - edge.frame).since(
        edge.frame
    )
    tracks = follow(looks, edge.frame, end, float(master.rate), (master.width, master.height),
                    camera)
    tracks = without_parts(join_faces(tracks))
    if not any(group_of(track.kind) in BEINGS and len(track.boxes) >= STAYS * (end - edge.frame)
               for track in tracks):
        moved = mover([look for look in seen.motions
                       if steady[0] < look.first and look.frame < steady[1]],
                      edge.frame, end, float(master.rate), (master.width, master.height))
        tracks += [moved] if moved is not None else []
    return EndedShot(_found(edge, end, looks, seen, thumbnails), tuple(tracks),
                     tuple(word_tracks(seen.words, 0, steady)),
                     np.round(seen.camera, 2).tobytes(), ())


def _steady_span(edge: Boundary, end: int, following: Boundary | None) -> tuple[int, int]:
    """The frames [first, end) of a shot outside its dissolves, which show two shots at once."""
    first = edge.span[1] if edge.span else edge.frame
    last = following.span[0] if following is not None and following.span else end
    return first, max(first + 1, last)


def _found(
    edge: Boundary,
    end: int,
    looks: list[FrameDetections],
    seen: ShotDetections,
    thumbnails: dict[int, bytes],
) -> FoundShot:
    total = np.sum(seen.maps[1:] or seen.maps, axis=0) if seen.maps else np.zeros(1)
    shares = total / total.sum() if float(np.sum(total)) > 0 else total
    attention = tuple(round(float(value), 6) for value in np.ravel(shares))
    telling = _telling(edge.frame, end, looks)
    near = min((at for at in thumbnails if edge.frame <= at < end),
               key=lambda at: abs(at - telling), default=None)
    return FoundShot(edge.frame, end, edge.kind, edge.span, attention, telling,
                     thumbnails[near] if near is not None else b"")


def _telling(start: int, end: int, looks: list[FrameDetections]) -> int:
    """The look that shows most: large, sure, near the middle of the shot; else the middle."""
    middle = (start + end) / 2

    def weight(look: FrameDetections) -> float:
        frame, seen = look
        shown = sum(
            sighting.seen.score * (sighting.seen.box[2] * sighting.seen.box[3]) ** 0.5
            for sighting in seen
        )
        return float(shown * (1.2 - abs(frame - middle) / (end - start)))

    best = max(looks, key=weight, default=None)
    return best[0] if best and best[1] else int(middle)
