"""Where an outline leaves the face it belongs to: the face says where somebody is.

A detector of people may lose somebody who stays and slide to what moves behind, to the edge of the
picture or to another body, while the face is still seen. There the outline goes with the face, as
it lay before. Where the face has gone and the outline stays, it was the face that slipped to
somebody else, and nothing is changed.
"""

from __future__ import annotations

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Track

Array = NDArray[np.float64]

PARTED = 0.6  # of the body's width, between the middles of both: the face lies outside it
BEGINS = 0.2  # of it, beside the usual place: from there on the outline is on its way
STAYS = 0.5  # of the way of the outline: a face that goes less has stayed
LEAST_USUAL = 8  # frames in which both agree, to know how they lie


def anchored(body: Track, face: Track) -> Track:
    """``body``, moved with ``face`` in the stretches in which its outline has left the face."""
    first = max(body.first_frame, face.first_frame)
    end = min(body.end_frame, face.end_frame)
    if end - first < LEAST_USUAL:
        return body
    outline = np.array(body.boxes[first - body.first_frame : end - body.first_frame])
    seen = np.array(face.boxes[first - face.first_frame : end - face.first_frame])
    middles, places = _middles(outline), _middles(seen)
    beside = (middles - places) / np.maximum(outline[:, 2], 1e-6)
    apart = np.abs(beside) > PARTED
    if not apart.any() or (~apart).sum() < LEAST_USUAL:
        return body
    usual = float(np.median(beside[~apart]))
    made = outline.copy()
    leaving = np.abs(beside - usual) > BEGINS
    for start, stop in (_widened(leaving, *run) for run in _runs(apart)):
        known = start - 1 if start else stop
        if known >= len(made):
            continue  # they never agreed
        gone, went = (float(np.abs(way[start:stop] - way[known]).max())
                      for way in (places, middles))
        if gone > STAYS * went:
            continue
        wide, high = outline[known, 2], outline[known, 3]
        made[start:stop, 0] = places[start:stop] + usual * wide - wide / 2
        made[start:stop, 1] = outline[known, 1] + seen[start:stop, 1] - seen[known, 1]
        made[start:stop, 2:] = wide, high
    boxes = list(body.boxes)
    at = first - body.first_frame
    boxes[at : at + len(made)] = [(x, y, w, h) for x, y, w, h in made.tolist()]
    return msgspec.structs.replace(body, boxes=tuple(boxes))


def _middles(boxes: Array) -> Array:
    return np.asarray(boxes[:, 0] + boxes[:, 2] / 2)


def _runs(flags: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """The stretches [start, end) of ``flags`` (n,)."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], flags, [False]]).astype(int)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]


def _widened(flags: NDArray[np.bool_], start: int, stop: int) -> tuple[int, int]:
    """A stretch, and what lies next to it with ``flags``, too."""
    while start > 0 and flags[start - 1]:
        start -= 1
    while stop < len(flags) and flags[stop]:
        stop += 1
    return start, stop
