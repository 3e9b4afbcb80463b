"""Which tracks are one being: a face belongs to the body that carries it."""

from __future__ import annotations

import msgspec

from caracal.core.analysis.model import Track

HEAD_PART = 0.5  # a face's middle lies in the upper half of its body's box
CLOSE_UP = 0.4  # of the body's height: a face so large may fill all of what is seen of its body
LEAST_SHARED = 0.5  # of the face's frames
NESTED = 0.85  # of a part's box inside the whole's, through most of its frames
PART_SIZE = 0.5  # of the whole's box: what is larger and has no face may be a person of its own
SURE_PERSON = 0.6  # a child before a grown-up is found as surely as anybody


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
        part = 1.0 if h >= CLOSE_UP * box[3] else HEAD_PART
        if across and box[1] - h / 2 <= middle_y <= box[1] + box[3] * part:
            inside += 1
            width = box[2]
    return inside / len(face.boxes) + 1e-6 / width


def without_parts(tracks: list[Track]) -> list[Track]:
    """``tracks``, whose faces are joined, without bodies that are a part or a double of another.

    Close up, detectors see one person twice: the head and shoulders, and all of it. Of two bodies
    one inside the other that carry the same face the one without it goes; so does a small and
    unsure one inside another.
    """
    faces = [track for track in tracks if track.kind == "face"]
    owners = {track.subject for track in faces}
    bodies = [track for track in tracks if track.kind == "person"]
    gone = set()
    for part in bodies:
        if part.id in owners:
            continue
        for whole in bodies:
            if whole.id == part.id or whole.id in gone or not _nested(part, whole):
                continue
            same_face = any(face.subject == whole.id and _holds(part, face) for face in faces)
            if same_face or (_area(part) < PART_SIZE * _area(whole) and part.score < SURE_PERSON):
                gone.add(part.id)
    return [track for track in tracks if track.id not in gone]


def _holds(body: Track, face: Track) -> bool:
    """Whether the middle of ``face`` lies in ``body`` in most of its frames, however low."""
    inside = 0
    for i, (x, y, w, h) in enumerate(face.boxes):
        box = body.box_at(face.first_frame + i)
        inside += box is not None and (box[0] <= x + w / 2 <= box[0] + box[2]
                                       and box[1] <= y + h / 2 <= box[1] + box[3])
    return inside >= LEAST_SHARED * len(face.boxes)


def _area(track: Track) -> float:
    return sum(w * h for _, _, w, h in track.boxes) / len(track.boxes)


def _nested(track: Track, other: Track) -> bool:
    """Whether the smaller of two boxes lies in the larger, through most of the frames of ``track``.
    """
    inside = 0
    for i, (x, y, w, h) in enumerate(track.boxes):
        box = other.box_at(track.first_frame + i)
        if box is None:
            continue
        across = min(x + w, box[0] + box[2]) - max(x, box[0])
        down = min(y + h, box[1] + box[3]) - max(y, box[1])
        smaller = min(w * h, box[2] * box[3])
        inside += across > 0 and down > 0 and across * down >= NESTED * smaller
    return inside >= LEAST_SHARED * len(track.boxes)
