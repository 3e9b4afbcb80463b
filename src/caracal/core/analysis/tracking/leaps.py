"""Somebody who leaps across the picture, quicker than detectors look: one face, not two.

Where one face goes from within the picture, and one comes to be seen elsewhere right after it that
looks like it, they are the same, unless a body says otherwise: one that stays where the first was,
or was there already where the second is.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from caracal.core.analysis.detectors.appearance import SAME
from caracal.core.analysis.tracking.tracks import LiveTrack
from caracal.core.base.geometry import Box

LEAP_S = 1.0  # from the last look at a face to the first look at it elsewhere
SAME_HEIGHT = 0.75  # ratio: who leaps across keeps the distance to the camera
INSIDE = 0.3  # of its width, from the picture's sides: nearer, one may have gone or come
LOOKS = 2  # a face that was seen less often may be a mistake
HAIR_AND_SKIN = 6  # numbers of a face's description: for clothes, ground may be seen


def leapt(
    pieces: Sequence[LiveTrack], whole: Sequence[LiveTrack], later: LiveTrack, rate: float
) -> LiveTrack | None:
    """The one of the ``whole`` tracks that goes on as ``later``; None: there is none, or no one
    that it must be. ``pieces`` are all tracks of the shot."""
    if later.group == "person":
        return _with_its_face(whole, later, rate)
    if later.group != "face" or len(later.looks) < LOOKS or not _is_inside(later, 0):
        return None
    begins, most = later.looks[0][0], LEAP_S * rate
    start = min(piece.looks[0][0] for piece in pieces)  # who is there from then on did not come
    others = [piece for piece in pieces if piece is not later and piece.group == "face"
              and len(piece.looks) >= LOOKS and start < piece.looks[0][0]
              and abs(piece.looks[0][0] - begins) <= most]
    gone = [track for track in whole if track.group == "face" and len(track.looks) >= LOOKS
            and 0 < begins - track.looks[-1][0] <= most]
    if others or len(gone) != 1 or not _is_inside(gone[0], -1):
        return None
    first = gone[0]
    a, b = (track.looks[at][1].seen.box for track, at in ((first, -1), (later, 0)))
    if min(a[3], b[3]) < SAME_HEIGHT * max(a[3], b[3]) or not _look_alike(first, later):
        return None
    bodies = [look for piece in pieces if piece.group == "person" for look in piece.looks]
    stays = any(frame >= begins and _holds(sight.seen.box, a) for frame, sight in bodies)
    there = any(frame <= first.looks[-1][0] and _holds(sight.seen.box, b)
                for frame, sight in bodies)
    return None if stays or there else first


def _with_its_face(
    whole: Sequence[LiveTrack], later: LiveTrack, rate: float
) -> LiveTrack | None:
    """The body that went as ``later`` came, and whose face is in that one from then on."""
    begins = later.looks[0][0]
    for track in whole:
        ends = track.looks[-1][0]
        if track.group != "person" or not 0 < begins - ends <= LEAP_S * rate:
            continue
        for face in whole:
            if face.group == "face":
                before = [sight.seen.box for frame, sight in face.looks if frame == ends]
                after = [sight.seen.box for frame, sight in face.looks if frame == begins]
                if (before and after and _holds(track.looks[-1][1].seen.box, before[0])
                        and _holds(later.looks[0][1].seen.box, after[0])):
                    return track
    return None


def _is_inside(track: LiveTrack, look: int) -> bool:
    x, _, w, _ = track.looks[look][1].seen.box
    return INSIDE * w <= x <= track.width - (1 + INSIDE) * w


def _look_alike(one: LiveTrack, other: LiveTrack) -> bool:
    colours = [np.array(track.colour[:HAIR_AND_SKIN]) for track in (one, other)]
    if any(len(colour) < HAIR_AND_SKIN for colour in colours):
        return False
    apart = np.square(colours[0] - colours[1]).reshape(2, 3).sum(axis=1).mean()
    return bool(np.sqrt(apart) <= SAME)


def _holds(body: Box, face: Box) -> bool:
    x, y = face[0] + face[2] / 2, face[1] + face[3] / 2
    return body[0] <= x <= body[0] + body[2] and body[1] <= y <= body[1] + body[3]
