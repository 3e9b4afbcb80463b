"""The same edit in many places: 2,000 shots in three versions take little longer than one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import TypeVar

import msgspec

from caracal.core.project.model import Accepted, Cast, Decision, Place, Project

DECIDED = ("casts", "decisions", "accepted")  # fields of a project that are about shots
D = TypeVar("D", Cast, Decision, Accepted)
Change = Callable[[Project, str, int], Project]  # in a version and a shot


def changed_in(project: Project, places: Iterable[Place], change: Change) -> Project:
    """``change`` made in all ``places``, one after the other.

    Each shot is changed in a project that holds only the decisions about this shot: to find and
    sort all decisions for each of 2,000 shots would take quadratic time. A change that touches
    anything but the decisions of its shot is made in the whole project.
    """
    shots: dict[int, list[str]] = {}
    for letter, shot in places:
        shots.setdefault(shot, []).append(letter)
    if len(shots) < 2:
        return _one_by_one(project, shots, change)
    casts, decisions = _by_shot(project.casts), _by_shot(project.decisions)
    accepted = _by_shot(project.accepted)
    for shot, letters in shots.items():
        part = msgspec.structs.replace(
            project, casts=casts.get(shot, ()), decisions=decisions.get(shot, ()),
            accepted=accepted.get(shot, ()))
        for letter in letters:
            part = change(part, letter, shot)
        elsewhere = (any(cast.shot != shot for cast in part.casts)
                     or any(decision.shot != shot for decision in part.decisions))
        if elsewhere or not _same_but_decisions(part, project):
            return _one_by_one(project, shots, change)
        casts[shot], decisions[shot], accepted[shot] = part.casts, part.decisions, part.accepted
    return msgspec.structs.replace(
        project,
        casts=tuple(sorted(_all(casts), key=lambda cast: (cast.shot, cast.letter))),
        decisions=tuple(sorted(_all(decisions),
                               key=lambda decision: (decision.letter, decision.shot))),
        accepted=_in_order(_all(accepted), project.accepted))


def _one_by_one(project: Project, shots: dict[int, list[str]], change: Change) -> Project:
    for shot, letters in shots.items():
        for letter in letters:
            project = change(project, letter, shot)
    return project


def _all(by_shot: dict[int, tuple[D, ...]]) -> Iterable[D]:
    return (each for found in by_shot.values() for each in found)


def _in_order(accepted: Iterable[Accepted], before: Sequence[Accepted]) -> tuple[Accepted, ...]:
    """``accepted`` in the order of ``before``, what is new at the end."""
    places = {each: number for number, each in enumerate(before)}
    return tuple(sorted(accepted, key=lambda each: places.get(each, len(places))))


def _by_shot(decided: Sequence[D]) -> dict[int, tuple[D, ...]]:
    found: dict[int, list[D]] = {}
    for each in decided:
        found.setdefault(each.shot, []).append(each)
    return {shot: tuple(those) for shot, those in found.items()}


def _same_but_decisions(project: Project, other: Project) -> bool:
    return all(getattr(project, field) is getattr(other, field)
               for field in Project.__struct_fields__ if field not in DECIDED)
