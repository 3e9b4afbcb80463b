"""Edits: functions from a project to the next."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from fractions import Fraction

import msgspec

from caracal.core.analysis.model import Analysis
from caracal.core.analysis.tracking.box_following import Followed
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.translation import tr
from caracal.core.framing.choice import Finish, ShotChoice, Swap
from caracal.core.framing.motion import Manner
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.model import (
    Layout,
)
from caracal.core.project.bulk import changed_in
from caracal.core.project.model import (
    LETTERS,
    Accepted,
    Cast,
    Decision,
    DrawnBox,
    Project,
    Version,
)

MOST_ZOOM = 3.0
MOST_PUSH = 1.5
MOST_STRAIGHTEN = 15.0  # degrees: more is a turned picture
FIRST_DRAWN = 1_000_000  # ids of drawn boxes: no analysis finds so many subjects


def with_cast(project: Project, cast: Cast) -> Project:
    """``cast`` for its shot: in its version, or without a letter in every version that has no cast
    of its own."""
    others = [other for other in project.casts if other.shot != cast.shot]
    here = {other.letter: other for other in project.casts if other.shot == cast.shot}
    here[cast.letter] = cast
    kept = [*others, *_distinct_casts(project, here, cast.shot)]
    return msgspec.structs.replace(
        project, casts=tuple(sorted(kept, key=lambda cast: (cast.shot, cast.letter))))


def _distinct_casts(project: Project, here: dict[str, Cast], shot: int) -> list[Cast]:
    """The casts of one shot, by letter, without those that say what another says already.

    Where every version has the same cast of its own, that is the cast of all versions: a version
    that is added later has it, too.
    """
    own = {msgspec.structs.replace(here[version.letter], letter="") if version.letter in here
           else None for version in project.versions}
    if len(own) == 1 and None not in own:
        here = {"": next(cast for cast in own if cast is not None)}
    shared = here.get("", Cast(shot))
    return [cast for letter, cast in here.items() if (
        msgspec.structs.replace(cast, letter="") != shared if letter else cast.decides)]


def _recast(
    project: Project, shot: int, letter: str, change: Callable[[Cast], Cast]
) -> Project:
    """The cast of ``shot`` changed in version ``letter``; without one in all versions."""
    if letter:
        own = msgspec.structs.replace(project.cast(shot, letter), letter=letter)
        return with_cast(project, change(own))
    made = project
    for cast in (project.cast(shot), *(each for each in project.casts
                                       if each.shot == shot and each.letter)):
        made = with_cast(made, change(cast))
    return made


def with_lead(project: Project, shot: int, lead: int | None, letter: str = "") -> Project:
    """``lead`` (a subject id; None: automatic) for ``shot``; no longer second or ignored.

    It holds in version ``letter``; without one in all versions.
    """
    return _recast(project, shot, letter, lambda before: msgspec.structs.replace(
        before, lead=lead, second=None if before.second == lead else before.second,
        ignored=tuple(number for number in before.ignored if number != lead)))


def with_lead_in_film(
    project: Project, analysis: Analysis, person: int, letter: str = ""
) -> tuple[Project, int]:
    """``person`` (of the whole film) leads wherever it is seen; also in how many shots that is."""
    made, count = project, 0
    for shot in range(len(analysis.shots)):
        subject = next(
            (track.subject for track in analysis.tracks_in(shot) if track.person == person), None
        )
        if subject is not None:
            made, count = with_lead(made, shot, subject, letter), count + 1
    return made, count


def with_second(project: Project, shot: int, second: int | None, letter: str = "") -> Project:
    """``second`` is kept beside the lead where both fit; no longer lead or ignored.

    It holds in version ``letter``; without one in all versions.
    """
    return _recast(project, shot, letter, lambda before: msgspec.structs.replace(
        before, second=second, lead=None if before.lead == second else before.lead,
        ignored=tuple(number for number in before.ignored if number != second)))


def with_ignored(
    project: Project, shot: int, subject: int, ignore: bool = True, letter: str = ""
) -> Project:
    """``subject`` is never followed in ``shot``, or may be again.

    It holds in version ``letter``; without one in all versions.
    """
    def change(before: Cast) -> Cast:
        others = tuple(number for number in before.ignored if number != subject)
        return msgspec.structs.replace(
            before, ignored=tuple(sorted((*others, subject))) if ignore else others,
            lead=None if ignore and before.lead == subject else before.lead,
            second=None if ignore and before.second == subject else before.second)

    return _recast(project, shot, letter, change)


def with_version(project: Project, sheet: str) -> Project:
    """One version more, by the spec sheet of that name, with the first letter that is free.

    Nothing is analysed anew; who leads is decided for the shot and holds in it, too.
    """
    taken = {version.letter for version in project.versions}
    letter = next((name for name in LETTERS if name not in taken), None)
    if letter is None:
        raise InputError(tr("A film has at most {count} versions.", count=len(LETTERS)),
                         remedy=tr("Remove one that is not needed."))
    return msgspec.structs.replace(project, versions=tuple(sorted(
        (*project.versions, Version(letter, sheet)), key=lambda version: version.letter)))


def changed_version(project: Project, letter: str, **changes: object) -> Project:
    """Version ``letter`` with another sheet, name or ranges; its framing decisions stay."""
    return msgspec.structs.replace(project, versions=tuple(
        msgspec.structs.replace(version, **changes) if version.letter == letter else version
        for version in project.versions))


def with_range(project: Project, letter: str, span: FrameRange) -> Project:
    """``span`` joined to what version ``letter`` shows; the first one replaces the project's."""
    ranges = (*project.version(letter).ranges, span)
    rate = Fraction(1)  # any: only the joining matters
    return changed_version(project, letter, ranges=timeline(ranges, rate).ranges)


def without_version(project: Project, letter: str) -> Project:
    """Version ``letter`` and all that was decided for it forgotten; one version always stays."""
    if len(project.versions) < 2:
        raise InputError(tr("A project needs at least one version."),
                         remedy=tr("Add another version first."))
    return msgspec.structs.replace(
        project,
        versions=tuple(version for version in project.versions if version.letter != letter),
        casts=tuple(cast for cast in project.casts if cast.letter != letter),
        decisions=tuple(decision for decision in project.decisions if decision.letter != letter),
        accepted=tuple(
            acceptance for acceptance in project.accepted if acceptance.letter != letter
        ),
    )


def with_choice(project: Project, letter: str, shot: int, choice: ShotChoice) -> Project:
    """``choice`` for ``shot`` in version ``letter`` (its cast is kept apart and ignored here).

    Nothing is decided for a version that is not there: the next of its letter would be born with
    it.
    """
    if all(version.letter != letter for version in project.versions):
        return project
    kept = [
        decision
        for decision in project.decisions
        if (decision.letter, decision.shot) != (letter, shot)
    ]
    plain = msgspec.structs.replace(choice, lead=None, second=None, ignored=())
    if plain.touched:
        kept.append(Decision(letter, shot, plain))
    return msgspec.structs.replace(
        project,
        decisions=tuple(sorted(kept, key=lambda decision: (decision.letter, decision.shot))),
    )


def _changed(project: Project, letter: str, shot: int, **changes: object) -> Project:
    choice = msgspec.structs.replace(project.choice(letter, shot), **changes)
    return with_choice(project, letter, shot, choice)


def with_manner(project: Project, letter: str, shot: int, manner: Manner) -> Project:
    """``manner`` for ``shot`` in version ``letter``; keyframes stay and hold."""
    return _changed(project, letter, shot, manner=manner)


def with_finish(project: Project, letter: str, shot: int, finish: Finish) -> Project:
    """How the window's picture is turned, straightened and sharpened."""
    held = Finish(finish.quarter_turns % 4,
                  round(min(max(finish.straighten, -MOST_STRAIGHTEN), MOST_STRAIGHTEN), 2),
                  round(min(max(finish.sharpen, 0.0), 1.0), 2))
    return _changed(project, letter, shot, finish=held)


def with_push(project: Project, letter: str, shot: int, push: float) -> Project:
    """The window of ``shot`` comes ``push`` times closer over it, or goes back: 1 / MOST_PUSH to
    MOST_PUSH."""
    held = round(min(max(push, 1 / MOST_PUSH), MOST_PUSH), 4)
    return _changed(project, letter, shot, push=held)


def with_layout(project: Project, letter: str, shot: int, layout: Layout) -> Project:
    """How the canvas of version ``letter`` is laid out in ``shot``. Raises InputError."""
    wrong = layout_error(layout)
    if wrong:
        raise InputError(tr("This layout is not valid: {wrong}.", wrong=wrong),
                         remedy=tr("Choose another."))
    return _changed(project, letter, shot, layout=layout)


def with_swap_at(project: Project, letter: str, shot: int, swap: Swap) -> Project:
    """From the frame of ``swap`` on the window keeps its lead, until the next swap."""
    kept = [other for other in project.choice(letter, shot).swaps if other.frame != swap.frame]
    return with_swaps(project, letter, shot, (*kept, swap))


def with_swaps(project: Project, letter: str, shot: int, swaps: Iterable[Swap]) -> Project:
    """The window of ``shot`` jumps to other subjects at the frames of ``swaps``."""
    ordered = tuple(sorted(swaps, key=lambda swap: swap.frame))
    return _changed(project, letter, shot, swaps=ordered)


def with_accepted(project: Project, letter: str, shot: int, kind: str, reason: str) -> Project:
    """The flag ``kind`` of ``shot`` accepted for ``reason``."""
    kept = [
        accepted
        for accepted in project.accepted
        if (accepted.letter, accepted.shot, accepted.kind) != (letter, shot, kind)
    ]
    kept.append(Accepted(letter, shot, kind, reason))
    return msgspec.structs.replace(
        project,
        accepted=tuple(
            sorted(
                kept, key=lambda acceptance: (acceptance.letter, acceptance.shot, acceptance.kind)
            )
        ),
    )


def with_drawn(project: Project, shot: int, followed: Followed, letter: str = "") -> Project:
    """A box that was drawn and followed becomes the lead of ``shot``, in version ``letter`` or,
    without one, in all versions."""
    number = FIRST_DRAWN + len(project.drawn)
    box = DrawnBox(number, f"box {len(project.drawn) + 1}", followed.first_frame, followed.boxes,
                   followed.lost)
    made = msgspec.structs.replace(project, drawn=(*project.drawn, box))
    return with_lead(made, shot, number, letter)


def automatic_again(project: Project, letter: str, shot: int) -> Project:
    """Everything decided for ``shot`` in version ``letter`` forgotten, its lead included."""
    accepted = tuple(
        acceptance
        for acceptance in project.accepted
        if (acceptance.letter, acceptance.shot) != (letter, shot)
    )
    plain = with_choice(with_cast(project, Cast(shot, letter=letter)), letter, shot, ShotChoice())
    return msgspec.structs.replace(plain, accepted=accepted)


def copied(
    project: Project, source: tuple[str, int], targets: Iterable[tuple[str, int]]
) -> Project:
    """The manner, zoom, finish and layout of ``source`` (letter, shot) for all of ``targets``.

    Keyframes, swaps and punch-ins are copied to other versions of the same shot only: elsewhere
    their frames mean nothing.
    """
    choice = project.choice(*source)
    manner = Manner.AUTO if choice.manner is Manner.BY_HAND else choice.manner

    def change(made: Project, letter: str, shot: int) -> Project:
        if shot == source[1]:
            return with_choice(made, letter, shot, choice)
        return _changed(made, letter, shot, manner=manner, zoom=choice.zoom,
                        finish=choice.finish, layout=choice.layout)

    return changed_in(project, targets, change)
