"""Who must be seen: subjects of a shot and the score that chooses the lead among them."""

from __future__ import annotations

import msgspec
import numpy as np

from caracal.core.analysis.labels import BEINGS, MOVING_THING, group_of
from caracal.core.analysis.model import Analysis, FoundShot, Track
from caracal.core.analysis.tracking.global_motion import GlobalMotion
from caracal.core.base.geometry import Box
from caracal.core.framing.anchoring import anchored
from caracal.core.framing.choice import ShotChoice

WORTH = {"person": 1.0, "face": 1.0, "animal": 0.8, "ride": 0.5, "mover": 0.4, "thing": 0.35}
PART_WEIGHTS = {"size": 0.28, "centre": 0.08, "duration": 0.18, "face": 0.20, "motion": 0.07,
                "speech": 0.12, "focus": 0.07}  # common practice
BLURRED = 0.5  # of the sharpest of its kind: the camera is not focused on it
BLURRED_WORTH = 0.6  # of the score of what is sharp
LEAVES_WORTH = 0.8  # of the score of what stays to the end
STAYS = 0.85  # of the shot: who is there so far has stayed
EDGE = 0.03  # of the picture's width: who is last seen so near its edge has left
QUICK = 0.006  # of the picture's width a frame, against the scene: motion counts in full
SMALL_PERSON = 0.20  # of the picture's height: smaller people are part of a wide view
ALONE_PERSON = 0.07  # and one who is alone in it, from this height on, is who the view is of
SURE_ALONE = 0.55  # detector score of such a one
SMALL_THING = 0.12
LEADS_MOVING = 0.35  # motion part from which on a thing moves by itself
FILLS = (0.7, 0.3)  # centre and size parts of a thing that fills the shot's middle
LEAST_STAY = {"person": 0.3, "face": 0.3, "animal": 0.3, "ride": 0.5, "mover": 0.5,
              "thing": 0.7}
COMPANY_SCORE = 0.55  # of the lead's score: others who are kept too when all fit
NOTHING_CHOSEN = ShotChoice()
MOTION_FRAMES = 50  # a thing that is there for less cannot be said to move much
FACE_BESIDE = 0.1  # of the body's width: so far beside it may a face's middle be
DOUBTED, SURE = 0.3, 0.5  # detector scores at which a subject counts for nothing, and in full


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

    def essential_box_at(self, frame: int) -> Box | None:
        """What must be seen at ``frame``: the face while it is seen, else the whole.

        None for one whose face is lost for a while: that is no worry.
        """
        return self.face_at(frame) or (self.main.box_at(frame) if self.face is None else None)

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
    beings = []
    for number in sorted({track.subject for track in tracks}):
        mine = [track for track in tracks if track.subject == number]
        faces = [track for track in mine if track.kind == "face"]
        bodies = [track for track in mine if track.kind != "face"]
        body, face = next(iter(bodies), None), max(faces, key=_length, default=None)
        if body is not None and face is not None:
            body = anchored(body, face)
        beings.append((number, body, face))
    sharpest = max((value for _, body, face in beings if (value := _sharpness(body, face))),
                   default=None)
    made = [_scored(number, body, face, found, analysis, sharpest)
            for number, body, face in beings]
    return tuple(sorted(made, key=lambda subject: (-subject.score, subject.id)))


def people_of(analysis: Analysis, shot: int) -> dict[int, int | None]:
    """The person of the film that each subject of a shot is, without working out their scores."""
    found: dict[int, tuple[Track | None, Track | None]] = {}
    for track in analysis.tracks_in(shot):
        body, face = found.get(track.subject, (None, None))
        if track.kind != "face":
            body = body or track
        elif face is None or _length(track) > _length(face):
            face = track
        found[track.subject] = body, face
    return {number: main.person for number, (body, face) in found.items()
            if (main := body or face) is not None}


def _length(track: Track) -> int:
    return len(track.boxes)


def _sharpness(body: Track | None, face: Track | None) -> float | None:
    return next((track.sharpness for track in (body, face)
                 if track is not None and track.sharpness is not None), None)


def _scored(
    number: int, body: Track | None, face: Track | None, shot: FoundShot, analysis: Analysis,
    sharpest: float | None,
) -> Subject:
    main = body or face
    assert main is not None
    boxes = np.array(main.boxes)
    width, height = analysis.master.width, analysis.master.height
    away = np.abs(boxes[:, 0] + boxes[:, 2] / 2 - width / 2).mean() / (width / 2)
    sharp = _sharpness(body, face)
    parts = {
        "size": float(min(1.0, np.sqrt((boxes[:, 2] * boxes[:, 3]).mean() / (width * height) * 3))),
        "centre": float(1 - away),
        "duration": len(boxes) / shot.frames,
        "face": min(1.0, len(face.boxes) / shot.frames) if face else 0.0,
        "motion": _motion(
            boxes, GlobalMotion.of_shot(analysis, main.first_frame, main.end_frame), width
        ),
        "speech": face.speech if face else 0.0,
        "focus": sharp / sharpest if sharp is not None and sharpest else 1.0,
    }
    sure = min(1.0, max(0.0, (main.score - DOUBTED) / (SURE - DOUBTED)))
    worth = WORTH[group_of(main.kind)] * sure
    worth *= BLURRED_WORTH if parts["focus"] < BLURRED else 1.0
    worth *= LEAVES_WORTH if _leaves(main, shot, width) else 1.0
    score = worth * sum(PART_WEIGHTS[name] * value for name, value in parts.items())
    kind = "person" if face is not None else main.kind
    return Subject(number, kind, body, face, round(score, 4),
                   {name: round(value, 3) for name, value in parts.items()})


def _leaves(track: Track, shot: FoundShot, width: int) -> bool:
    """Whether it goes out over the picture's edge well before the shot ends."""
    if track.end_frame >= shot.start + STAYS * shot.frames:
        return False
    x, _, w, _ = track.boxes[-1]
    return x <= EDGE * width or x + w >= (1 - EDGE) * width


def _motion(boxes: np.ndarray, camera: GlobalMotion, width: int) -> float:
    """How much it moves in the scene, 0..1; ``boxes`` (n, 4) are from its first frame on."""
    places = boxes[:, 0] + boxes[:, 2] / 2
    places = places - camera.over_frames(camera.start, len(places))[:, 0]
    return float(min(1.0, np.ptp(places) / max(len(places), MOTION_FRAMES) / (QUICK * width)))


def choose_lead(
    analysis: Analysis, shot: int, chosen: int | None = None, ignored: tuple[int, ...] = ()
) -> Subject | None:
    """The subject the window must keep; ``chosen`` (a subject id) overrides the score.

    Those ``ignored`` are never followed.

    People come before animals, then known things that move by themselves, then unknown ones; a
    thing that stands leads only where it fills the middle of a shot that has nothing else. None for
    wide
    views of several small people, for several things of which none is the one, and for empty
    shots: there the picture as a whole is the subject.
    """
    everyone = subjects(analysis, shot)
    if chosen is not None:
        return next((subject for subject in everyone if subject.id == chosen), None)
    fit = [subject for subject in everyone
           if subject.id not in ignored and _may_lead(subject, analysis, shot)]
    for groups in (("person", "face"), ("animal",)):
        beings = [subject for subject in fit if group_of(subject.main.kind) in groups]
        if beings:
            return beings[0]
    people = [subject for subject in everyone
              if subject.id not in ignored and _is_there(subject, analysis, ALONE_PERSON)]
    if people:  # a wide view: of somebody who is alone in it, else of the whole
        return people[0] if len(people) == 1 and people[0].main.score >= SURE_ALONE else None
    return _leading_thing(fit)


def _is_there(subject: Subject, analysis: Analysis, least: float) -> bool:
    """Whether it is a person as tall as ``least`` of the picture who stays a while."""
    return (group_of(subject.main.kind) in ("person", "face")
            and subject.parts["duration"] >= LEAST_STAY["person"]
            and _height(subject) >= least * analysis.master.height)


def _height(subject: Subject) -> float:
    return float(np.median([box[3] for box in subject.main.boxes]))


def _leading_thing(things: list[Subject]) -> Subject | None:
    """The one thing that moves by itself, else the only one if it fills the shot's middle."""
    movers = [thing for thing in things if thing.kind == MOVING_THING]
    things = [thing for thing in things if thing.kind != MOVING_THING]
    moving = [thing for thing in things if thing.parts["motion"] >= LEADS_MOVING]
    if len(moving) == 1:
        return moving[0]
    if movers:
        return movers[0]
    if len(things) != 1:
        return None
    centre, size = FILLS
    parts = things[0].parts
    return things[0] if parts["centre"] >= centre and parts["size"] >= size else None


def _may_lead(subject: Subject, analysis: Analysis, shot: int) -> bool:
    group = group_of(subject.main.kind)
    if subject.parts["duration"] < LEAST_STAY[group]:
        return False
    tall = _height(subject) / analysis.master.height
    if subject.main.kind == "box":
        return False  # a drawn box leads where a person says so
    if group in ("thing", "mover"):
        return tall >= SMALL_THING and subject.main.score >= SURE
    if subject.face is not None and subject.body is None:
        return tall >= SMALL_PERSON / 4
    return tall >= SMALL_PERSON


def company(
    analysis: Analysis, shot: int, lead: Subject, choice: ShotChoice = NOTHING_CHOSEN
) -> tuple[Subject, ...]:
    """Others worth keeping beside the lead when they fit: the chosen second, then by score."""
    everyone = [subject for subject in subjects(analysis, shot)
                if subject.id != lead.id and subject.id not in choice.ignored]
    second = [subject for subject in everyone if subject.id == choice.second]
    return (*second, *(
        subject for subject in everyone
        if subject.id != choice.second and subject.score >= COMPANY_SCORE * lead.score
        and group_of(subject.main.kind) in BEINGS
        and _may_lead(subject, analysis, shot)
    ))
