"""Shots as a person wants them: found cuts split, joined, or replaced by a cut list."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import pairwise
from typing import TypeVar

import msgspec
import numpy as np

from caracal.core.analysis.labels import group_of
from caracal.core.analysis.model import Analysis, FoundShot, Track, Transition
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import overlap
from caracal.core.base.translation import tr
from caracal.core.framing.motion import Manner
from caracal.core.layout.model import Role
from caracal.core.media.master import with_sound
from caracal.core.project.model import (
    Accepted,
    Cast,
    Decision,
    DrawnBox,
    Project,
    ShotStart,
)
from caracal.core.project.recipe import Recipe

T = TypeVar("T", Cast, Decision, Accepted)

NEAR_FRAMES = 3  # a track that ends this near to where another begins may be the same being
SAME_BEING = 0.4  # overlap of the two at the joint


def starts_of(analysis: Analysis, project: Project) -> tuple[ShotStart, ...]:
    """Where the project's shots begin, as far as the film is known."""
    return _with_found(analysis, project.starts) or _found_starts(analysis)


def _found_starts(analysis: Analysis) -> tuple[ShotStart, ...]:
    return tuple(ShotStart(shot.start, shot.transition_in) for shot in analysis.shots)


def _with_found(analysis: Analysis, starts: tuple[ShotStart, ...]) -> tuple[ShotStart, ...]:
    """``starts`` with the found shots that follow, in order, none beyond what is known.

    A shot may be found before the last of ``starts``: inside the shot that was still going on when
    a person split it.
    """
    after = starts[-1].found_after if starts else None
    if after is not None:
        last = msgspec.structs.replace(starts[-1], found_after=None)
        found = {start.frame: start for start in _found_starts(analysis) if start.frame > after}
        found |= {start.frame: start for start in (*starts[:-1], last)}
        starts = tuple(found[frame] for frame in sorted(found))
    return tuple(start for start in starts if start.frame < analysis.known_to)


def with_starts(analysis: Analysis, project: Project, starts: Iterable[ShotStart]) -> Project:
    """The project with other shots; decisions go to the shots that begin inside their old ones.

    While the film is being looked at the shots that are still to be found follow. Raises
    InputError when a shot would be empty or lie outside the film.
    """
    ordered = tuple(sorted(starts, key=lambda start: start.frame))
    frames = [shot_start.frame for shot_start in ordered]
    last = analysis.known_to
    if not frames or frames[0] != 0 or len(set(frames)) < len(frames) or frames[-1] >= last:
        raise InputError(tr("These shots do not cover the film."),
                         remedy=tr("Shots begin at frame 0 and before frame {last}.", last=last))
    old = [start.frame for start in starts_of(analysis, project)]
    came_from = [int(np.searchsorted(old, frame, side="right")) - 1 for frame in frames]
    ends = [*frames[1:], last]
    casts, decisions, accepted = [], [], []
    for shot, source in enumerate(came_from):
        casts += [msgspec.structs.replace(cast, shot=shot)
                  for cast in project.casts if cast.shot == source]
        decisions += [_inside(decision, shot, frames[shot], ends[shot])
                      for decision in project.decisions if decision.shot == source]
        accepted += [msgspec.structs.replace(acceptance, shot=shot)
                     for acceptance in project.accepted if acceptance.shot == source]
    if ordered == _found_starts(analysis):
        ordered = ()
    elif not analysis.whole:
        until = analysis.shots[-1].start
        ordered = (*ordered[:-1], msgspec.structs.replace(ordered[-1], found_after=until))
    return msgspec.structs.replace(
        project, starts=ordered,
        casts=_ordered(casts), decisions=_ordered(decisions), accepted=_ordered(accepted))


def _ordered(items: list[T]) -> tuple[T, ...]:
    return tuple(sorted(items, key=lambda item: (getattr(item, "letter", ""), item.shot)))


def _inside(decision: Decision, shot: int, start: int, end: int) -> Decision:
    """A decision with only those keyframes, swaps and punch-ins that lie in its new shot."""
    choice = decision.choice
    for framing in (choice.framing(Role.LEAD), *choice.others):
        choice = choice.framed(msgspec.structs.replace(
            framing, keyframes=tuple(key for key in framing.keyframes if start <= key.frame < end),
            punches=tuple(msgspec.structs.replace(punch, frame=max(punch.frame, start),
                                                  end_exclusive=min(punch.end_exclusive, end))
                          for punch in framing.punches
                          if punch.frame < end and punch.end_exclusive > start)))
    lost = choice.manner is Manner.BY_HAND and not choice.keyframes
    return Decision(decision.letter, shot, msgspec.structs.replace(
        choice, manner=Manner.AUTO if lost else choice.manner,
        swaps=tuple(swap for swap in choice.swaps if start < swap.frame < end)))


def split_at(analysis: Analysis, project: Project, frame: int) -> Project:
    """A cut that was missed: a new shot begins at ``frame``.

    Raises InputError where a shot begins already.
    """
    starts = starts_of(analysis, project)
    if any(start.frame == frame for start in starts):
        raise InputError(tr("A shot starts at this frame already."),
                         remedy=tr("Go to a frame inside the shot."))
    return with_starts(analysis, project, [*starts, ShotStart(frame)])


def joined_to_previous(analysis: Analysis, project: Project, shot: int) -> Project:
    """A cut that was invented: ``shot`` is one with the shot before it.

    Raises InputError for the first shot.
    """
    if shot == 0:
        raise InputError(tr("There is no shot before the first."),
                         remedy=tr("Choose a later shot."))
    starts = starts_of(analysis, project)
    return with_starts(analysis, project, [*starts[:shot], *starts[shot + 1 :]])


def as_decided(
    analysis: Analysis, starts: tuple[ShotStart, ...], drawn: tuple[DrawnBox, ...],
    sound: int = 0,
) -> Analysis:
    """``analysis`` with the shots and the drawn boxes of a project, heard by its chosen sound.

    What lies beyond the film's end is left out: it may have become shorter since.
    """
    master = with_sound(analysis.master, sound) if analysis.master.sound else analysis.master
    analysis = msgspec.structs.replace(analysis, master=master)
    frames = analysis.known_to
    drawn = tuple(
        msgspec.structs.replace(drawn_box, boxes=drawn_box.boxes[: frames - drawn_box.first_frame])
        for drawn_box in drawn
        if drawn_box.first_frame < frames
    )
    if drawn:
        first = max((track.id for track in analysis.tracks), default=-1) + 1
        tracks = tuple(
            Track(first + i, "box", analysis.shot_at(drawn_box.first_frame), drawn_box.subject, 1.0,
                  drawn_box.first_frame, drawn_box.boxes)
            for i, drawn_box in enumerate(drawn))
        analysis = msgspec.structs.replace(analysis, tracks=(*analysis.tracks, *tracks))
    return reshot(analysis, starts)


def decided(found: Analysis, recipe: Recipe) -> Analysis:
    """``found`` with the shots, drawn boxes and sound of a version."""
    return as_decided(found, recipe.starts, recipe.drawn, recipe.sound)


def reshot(analysis: Analysis, starts: tuple[ShotStart, ...]) -> Analysis:
    """``analysis`` cut into the shots that begin at ``starts`` (all of it as found if empty).

    Tracks are cut at the new edges; where shots are joined, tracks that meet are joined, too.
    """
    starts = _with_found(analysis, starts)
    if not starts:
        return analysis
    edges = [*(start.frame for start in starts), analysis.known_to]
    spans = list(pairwise(edges))
    shots = [
        _shot(analysis, shot_start, span) for shot_start, span in zip(starts, spans, strict=True)
    ]
    tracks, words = _Cutter(spans), _Cutter(spans)
    return msgspec.structs.replace(
        analysis, shots=tuple(shots), tracks=tracks.cut(analysis.tracks, joins=True),
        words=words.cut(analysis.words, joins=False))


def _shot(analysis: Analysis, start: ShotStart, span: tuple[int, int]) -> FoundShot:
    parts = [shot for shot in analysis.shots if shot.start < span[1] and shot.end > span[0]]
    if len(parts) == 1 and (parts[0].start, parts[0].end) == span:
        return msgspec.structs.replace(parts[0], transition_in=start.transition)
    shared = [min(part.end, span[1]) - max(part.start, span[0]) for part in parts]
    maps = [np.asarray(part.attention) for part in parts]
    even = all(plane.shape == maps[0].shape for plane in maps)
    attention = np.average(maps, axis=0, weights=shared) if even else maps[0]
    telling = next(
        (
            found_shot.poster_frame
            for found_shot in parts
            if span[0] <= found_shot.poster_frame < span[1]
        ),
        sum(span) // 2,
    )
    transition_span = parts[0].transition_span if parts[0].start == span[0] else None
    kind = start.transition if span[0] else Transition.START
    picture = max(zip(shared, parts, strict=True), key=lambda pair: pair[0])[1].thumbnail
    return FoundShot(*span, kind, transition_span, tuple(float(v) for v in attention), telling,
                     picture)


class _Cutter:
    """Cuts tracks at the edges of shots."""

    def __init__(self, spans: list[tuple[int, int]]) -> None:
        self._spans = spans

    def cut(self, tracks: tuple[Track, ...], joins: bool) -> tuple[Track, ...]:
        made: list[Track] = []
        for shot, (start, end) in enumerate(self._spans):
            here = [
                msgspec.structs.replace(
                    track, shot=shot, first_frame=max(track.first_frame, start),
                    boxes=track.boxes[max(0, start - track.first_frame) : end - track.first_frame])
                for track in tracks if track.first_frame < end and track.end_frame > start
            ]
            made += _meeting(here) if joins else here
        return tuple(msgspec.structs.replace(track, id=i) for i, track in enumerate(made))


def _meeting(tracks: list[Track]) -> list[Track]:
    """Tracks of one shot with those joined that end where another of their kind begins."""
    made: list[Track] = []
    renamed: dict[int, int] = {}
    for track in sorted(tracks, key=lambda track: track.first_frame):
        before = next((
            i for i, other in enumerate(made)
            if group_of(other.kind) == group_of(track.kind)
            and 0 <= track.first_frame - other.end_frame <= NEAR_FRAMES
            and overlap(other.boxes[-1], track.boxes[0]) > SAME_BEING), None)
        if before is None:
            subject = renamed.get(track.subject, track.subject)
            made.append(msgspec.structs.replace(track, subject=subject))
            continue
        first = made[before]
        gap = (first.boxes[-1],) * (track.first_frame - first.end_frame)
        made[before] = msgspec.structs.replace(first, boxes=(*first.boxes, *gap, *track.boxes))
        renamed[track.subject] = first.subject
    return [msgspec.structs.replace(track, subject=renamed.get(track.subject, track.subject))
            for track in made]
