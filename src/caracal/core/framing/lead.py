"""Who must be seen: subjects of a shot and the score that chooses the lead among them."""

from __future__ import annotations

import msgspec
import numpy as np

from caracal.core.analysis.camera import Camera
from caracal.core.analysis.model import Analysis, Box, FoundShot, Track
from caracal.core.analysis.tracks import group_of
from caracal.core.framing.choice import ShotChoice

WORTH = {"person": 1.0, "face": 1.0, "animal": 0.8, "ride": 0.5, "thing": 0.35}
PART_WEIGHTS = {"size": 0.30, "centre": 0.10, "duration": 0.20, "face": 0.20, "motion": 0.08,
                "speech": 0.12}  # common practice
QUICK = 0.006  # of the picture's width a frame, against the scene: motion counts in full
SMALL_PERSON = 0.20  # of the picture's height: smaller people are part of a wide view
SMALL_THING = 0.12
LEAST_STAY = {"person": 0.3, "face": 0.3, "animal": 0.3, "ride": 0.5, "thing": 0.7}
COMPANY_SCORE = 0.55  # of the lead's score: others who are kept too when all fit
NOTHING_CHOSEN = ShotChoice()
MOTION_FRAMES = 50  # a thing that is there for less cannot be said to move much
FACE_BESIDE = 0.1  # of the body's width: so far beside it may a face's middle be
SURE = 0.4  # detector score at which a subject counts in full


class Subject(msgspec.Struct, frozen=True):
    """One being or thing in a shot: its body or thing track, its face track, and its score."""

    id: int
    kind: str
    body: Track | None
    face: Track | None
    score: float
    parts: dict[str, float]

    @property
    def main(self) -> Track:
        """The track that outlines the subject."""
        track = self.body or self.face
        assert track is not None
        return track

    @property
    def person(self) -> int | None:
        """The number this person has in the whole film, if the face was seen well enough."""
        return self.main.person

    def face_at(self, frame: int) -> Box | None:
        """The face at ``frame``; None where it is not seen, or has slipped to somebody else's body.

        Where people cross, a face may be followed from one to the other: it counts only while its
        middle lies in the body it belongs to.
        """
        found = self.face.box_at(frame) if self.face is not None else None
        body = self.body.box_at(frame) if self.body is not None else None
        if found is None or body is None:
            return found
        x = found[0] + found[2] / 2
        spare = FACE_BESIDE * body[2]
        return found if body[0] - spare <= x <= body[0] + body[2] + spare else None

    def box_at(self, frame: int) -> Box | None:
        """The outline at ``frame``: the body where there is one, else the face."""
        for track in (self.body, self.face):
            box = track.box_at(frame) if track is not None else None
            if box is not None:
                return box
        return None


def subjects(analysis: Analysis, shot: int) -> tuple[Subject, ...]:
    """Everybody and everything in a shot, best score first."""
    tracks = analysis.tracks_in(shot)
    found = analysis.shots[shot]
    made = []
    for number in sorted({track.subject for track in tracks}):
        mine = [track for track in tracks if track.subject == number]
        faces = [track for track in mine if track.kind == "face"]
        bodies = [track for track in mine if track.kind != "face"]
        body, face = next(iter(bodies), None), max(faces, key=_length, default=None)
        made.append(_scored(number, body, face, found, analysis))
    return tuple(sorted(made, key=lambda one: (-one.score, one.id)))


def _length(track: Track) -> int:
    return len(track.boxes)


def _scored(
    number: int, body: Track | None, face: Track | None, shot: FoundShot, analysis: Analysis
) -> Subject:
    main = body or face
    assert main is not None
    boxes = np.array(main.boxes)
    width, height = analysis.master.width, analysis.master.height
    away = np.abs(boxes[:, 0] + boxes[:, 2] / 2 - width / 2).mean() / (width / 2)
    parts = {
        "size": float(min(1.0, np.sqrt((boxes[:, 2] * boxes[:, 3]).mean() / (width * height) * 3))),
        "centre": float(1 - away),
        "duration": len(boxes) / shot.frames,
        "face": min(1.0, len(face.boxes) / shot.frames) if face else 0.0,
        "motion": _motion(boxes, Camera.of_shot(analysis, main.first_frame, main.end_frame), width),
        "speech": face.speech if face else 0.0,
    }
    worth = WORTH[group_of(main.kind)] * min(1.0, main.score / SURE)
    score = worth * sum(PART_WEIGHTS[name] * value for name, value in parts.items())
    kind = "person" if face is not None else main.kind
    return Subject(number, kind, body, face, round(score, 4),
                   {name: round(value, 3) for name, value in parts.items()})


def _motion(boxes: np.ndarray, camera: Camera, width: int) -> float:
    """How much it moves in the scene, 0..1; ``boxes`` (n, 4) are from its first frame on."""
    places = boxes[:, 0] + boxes[:, 2] / 2
    places = places - camera.over_frames(camera.start, len(places))[:, 0]
    return float(min(1.0, np.ptp(places) / max(len(places), MOTION_FRAMES) / (QUICK * width)))


def choose_lead(
    analysis: Analysis, shot: int, chosen: int | None = None, ignored: tuple[int, ...] = ()
) -> Subject | None:
    """The subject the window must keep; ``chosen`` (a subject id) overrides the score.

    Those ``ignored`` are never followed.

    None for wide views of small people, for several things of which none is the one, and for
    empty shots: there the picture as a whole is the subject.
    """
    everyone = subjects(analysis, shot)
    if chosen is not None:
        return next((one for one in everyone if one.id == chosen), None)
    fit = [one for one in everyone
           if one.id not in ignored and _may_lead(one, analysis, shot)]
    beings = [one for one in fit if group_of(one.main.kind) in ("person", "face", "animal")]
    if beings:
        return beings[0]
    return fit[0] if len(fit) == 1 else None


def _may_lead(one: Subject, analysis: Analysis, shot: int) -> bool:
    group = group_of(one.main.kind)
    if one.parts["duration"] < LEAST_STAY[group]:
        return False
    tall = float(np.median([box[3] for box in one.main.boxes])) / analysis.master.height
    if one.main.kind == "box":
        return False  # a drawn box leads where a person says so
    if group == "thing":
        return tall >= SMALL_THING and one.main.score >= SURE
    if one.face is not None and one.body is None:
        return tall >= SMALL_PERSON / 4
    return tall >= SMALL_PERSON


def company(
    analysis: Analysis, shot: int, lead: Subject, choice: ShotChoice = NOTHING_CHOSEN
) -> tuple[Subject, ...]:
    """Others worth keeping beside the lead when they fit: the chosen second, then by score."""
    everyone = [one for one in subjects(analysis, shot)
                if one.id != lead.id and one.id not in choice.ignored]
    second = [one for one in everyone if one.id == choice.second]
    return (*second, *(
        one for one in everyone
        if one.id != choice.second and one.score >= COMPANY_SCORE * lead.score
        and group_of(one.main.kind) in ("person", "face", "animal")
        and _may_lead(one, analysis, shot)
    ))
