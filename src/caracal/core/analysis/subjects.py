"""Which tracks are one being: a face belongs to the body that carries it."""

from __future__ import annotations

import msgspec

from caracal.core.analysis.model import Track

HEAD_PART = 0.5  # a face's middle lies in the upper half of its body's box
LEAST_SHARED = 0.5  # of the face's frames


def join_faces(tracks: list[Track]) -> list[Track]:
    """The same tracks with each face's ``subject`` set to its body's id where one fits."""
    bodies = [track for track in tracks if track.kind == "person"]
    joined = []
    for track in tracks:
        if track.kind == "face" and bodies:
            best = max(bodies, key=lambda body: _carried(track, body))
            if _carried(track, best) >= LEAST_SHARED:
                joined.append(msgspec.structs.replace(track, subject=best.id))
                continue
        joined.append(track)
    return joined


def _carried(face: Track, body: Track) -> float:
    """Share of the face's frames in which its middle lies in the body's head part, 0..1.

    Narrow bodies win ties: a person in front of another has the tighter box.
    """
    inside, width = 0, 1.0
    for i, (x, y, w, h) in enumerate(face.boxes):
        box = body.box_at(face.first_frame + i)
        if box is None:
            continue
        middle_x, middle_y = x + w / 2, y + h / 2
        across = box[0] <= middle_x <= box[0] + box[2]
        if across and box[1] - h / 2 <= middle_y <= box[1] + box[3] * HEAD_PART:
            inside += 1
            width = box[2]
    return inside / len(face.boxes) + 1e-6 / width
