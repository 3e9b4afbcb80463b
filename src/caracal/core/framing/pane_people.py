"""Who is shown in the panes of a layout, and in which layout where there are too few for it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import msgspec
import numpy as np

from caracal.core.analysis.labels import BEINGS, group_of
from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box, shared_area
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.lead import ALONE_PERSON, SMALL_PERSON, Subject, choose_lead, subjects
from caracal.core.framing.motion import Motion
from caracal.core.framing.pane_zoom import apart, pane_spec
from caracal.core.layout.kinds import stack
from caracal.core.layout.model import FILL, Crop, Layout, Pane, Role
from caracal.core.specs.sheet import SpecSheet

ROLES = (Role.LEAD, Role.SECOND, Role.THIRD)
PRESENT = 0.5  # of the shot's frames: who is there for less gets no pane
MOST_TRIED = 8  # of those who might get a pane
CERTAIN = 0.6  # detector score of a person whose face is not seen: below are motorbikes, too
COMPARED = 100  # frames in which two outlines are compared: takes may last for hours
FOUND_TWICE = 0.7  # of the smaller outline inside the other one, in half of the frames


@dataclass(frozen=True)
class PanePeople:
    """Who gets a pane: ``people`` for the roles in turn. ``close`` says that others are there, but
    too close to these to be shown apart from them."""

    people: tuple[Subject, ...]
    close: bool = False

    def at(self, role: Role) -> Subject | None:
        """Who has this role."""
        number = ROLES.index(role)
        return self.people[number] if number < len(self.people) else None


def people_for_panes(
    analysis: Analysis, shot: int, choice: ShotChoice, sheet: SpecSheet, motion: Motion
) -> PanePeople:
    """The lead, the chosen second, and the best of the others, those with faces first: as many as
    the layout's roles ask for.

    Others are left out who are there for less than half of the shot, who are too small, or whom no
    pane of the layout could show without one who has a pane already.
    """
    everyone = subjects(analysis, shot)
    lead = choose_lead(analysis, shot, choice.lead, choice.ignored)
    made = [lead] if lead is not None else []
    made += [each for each in everyone if each.id == choice.second and each not in made]
    specs = [pane_spec(pane, sheet) for pane in choice.layout.panes if _part_crop(pane)]
    others: list[Subject] = []
    for each in sorted(everyone, key=lambda subject: subject.face is None):
        if (each.id not in choice.ignored and _worth_a_pane(each, analysis)
                and not any(_same(each, other) for other in (*made, *others))):
            others.append(each)
    last = max((ROLES.index(role) for role in roles_of(choice.layout)), default=0)
    decided, wanted = len(made), last + 1 - len(made)

    near: dict[tuple[int, int], bool] = {}  # each pair is compared once

    def parted(group: tuple[Subject, ...]) -> bool:
        for one, other in combinations((*made, *group), 2):
            if other in group and (pair := (one.id, other.id)) not in near:
                near[pair] = not apart(one, other, specs, analysis.active, motion)
            if other in group and near[one.id, other.id]:
                return False
        return True

    for count in range(max(wanted, 0), 0, -1):
        group = next(filter(parted, combinations(others[:MOST_TRIED], count)), None)
        if group is not None:
            made += group
            break
    return PanePeople(tuple(made), len(made) - decided < min(wanted, len(others)))


def _part_crop(pane: Pane) -> bool:
    """Whether a pane cuts people out of the picture by its window, not by their outline."""
    return isinstance(pane.content, Crop) and not pane.lifted


def _worth_a_pane(subject: Subject, analysis: Analysis) -> bool:
    group = group_of(subject.main.kind)
    if group not in BEINGS or subject.parts["duration"] < PRESENT:
        return False
    if group == "person" and subject.face is None and subject.main.score < CERTAIN:
        return False
    least = {"animal": SMALL_PERSON, "person": ALONE_PERSON, "face": ALONE_PERSON / 4}[group]
    tall = float(np.median([box[3] for box in subject.main.boxes]))
    return tall >= least * analysis.master.height


def _same(one: Subject, other: Subject) -> bool:
    """Whether two subjects are one being: the same person of the film, or one found twice."""
    if one.id == other.id or (one.person is not None and one.person == other.person):
        return True
    frames = range(max(one.main.first_frame, other.main.first_frame),
                   min(one.main.end_frame, other.main.end_frame))
    frames = frames[:: max(1, len(frames) // COMPARED)]
    twice = [_shared(a, b) > FOUND_TWICE for frame in frames
             if (a := one.box_at(frame)) is not None and (b := other.box_at(frame)) is not None]
    return bool(twice) and sum(twice) * 2 > len(twice)


def _shared(a: Box, b: Box) -> float:
    """How much of the smaller of two boxes lies in the other one."""
    return shared_area(a, b) / max(min(a[2] * a[3], b[2] * b[3]), 1e-6)


def roles_of(layout: Layout) -> tuple[Role, ...]:
    """Whom the crops of ``layout`` follow, back to front, each once."""
    return tuple(dict.fromkeys(
        pane.content.role for pane in layout.panes if isinstance(pane.content, Crop)))


def with_fewer_panes(choice: ShotChoice, found: PanePeople, sheet: SpecSheet) -> ShotChoice:
    """``choice`` in a layout with fewer panes where people are missing for some of its own.

    A layout that shows more than people (pictures, the whole film) stays as it is, and so does a
    pane whose window was set by hand; one of people who are cut out loses the panes of those who
    are missing.
    """
    layout, people = choice.layout, len(found.people)
    front = layout.panes[0 if layout.backdrop is None else 1 :]
    missing = {role for role in ROLES[max(people, 1) :]
               if role in roles_of(layout) and not choice.framing(role).keyframes}
    if not missing or not all(isinstance(pane.content, Crop) for pane in front):
        return choice
    if any(pane.lifted for pane in front):
        fewer = msgspec.structs.replace(layout, panes=tuple(
            pane for pane in layout.panes
            if not (isinstance(pane.content, Crop) and pane.content.role in missing)))
    else:
        fewer = stack(sheet.frame) if 1 < people < len(roles_of(layout)) else FILL
    return msgspec.structs.replace(choice, layout=fewer)
