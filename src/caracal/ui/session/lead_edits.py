"""Who leads, is second or is ignored: edits that reach other versions and shots."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum

from caracal.core.base.translation import mark, tr
from caracal.core.framing.choice import Swap
from caracal.core.project.bulk import Change
from caracal.core.project.edits import with_ignored, with_lead, with_second, with_swap_at
from caracal.core.project.model import Project
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session


class Part(StrEnum):
    """The part of a subject in a shot."""

    LEAD = mark("Lead")
    SECOND = mark("Second")
    IGNORE = mark("Ignore")


WORDS = {Part.LEAD: mark("{name} leads"), Part.SECOND: mark("{name} is second"),
         Part.IGNORE: mark("{name} is ignored")}


def set_part(session: Session, part: Part, subject: int, on: bool = True) -> None:
    """Give a subject of the current shot a part, or take it from it.

    In other shots the same person of the film gets it, where it is seen.
    """
    name = session.people.name(session.shot, subject)
    what = (tr(WORDS[part], name=name) if on
            else tr("{name} is automatic again", name=name))
    session.editing.edit(EditKind.LEAD, what, _by_person(session, subject, {
        Part.LEAD: lambda project, shot, who, letter: with_lead(
            project, shot, who if on else None, letter),
        Part.SECOND: lambda project, shot, who, letter: with_second(
            project, shot, who if on else None, letter),
        Part.IGNORE: lambda project, shot, who, letter: with_ignored(
            project, shot, who, on, letter)}[part]))


def switch_at_playhead(session: Session, subject: int) -> None:
    """From the playhead on the crop keeps ``subject``; at the start of its shot it leads."""
    start = session.analysis.shots[session.shot].start
    if session.frame <= start:
        set_part(session, Part.LEAD, subject)
        return
    swap = Swap(session.frame, subject)
    name = session.people.name(session.shot, subject)
    session.editing.edit(
        EditKind.LEAD, tr("{name} leads from frame {frame}", name=name,
                          frame=session.frame - start),
        lambda project, letter, shot: with_swap_at(project, letter, shot, swap),
        scope=Scope.ONE_SHOT)


def _by_person(
    session: Session, subject: int, change: Callable[[Project, int, int, str], Project]
) -> Change:
    """``change`` for a subject of the current shot, and in other shots for the same person."""
    here, people = session.shot, session.people
    person = people.person_of(here, subject)

    def changed(project: Project, letter: str, shot: int) -> Project:
        who: int | None = subject
        if shot != here:
            who = None if person is None else people.subject_of(shot, person)
        return project if who is None else change(project, shot, who, letter)

    return changed
