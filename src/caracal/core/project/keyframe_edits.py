"""Edits of where a window lies and how close it is: of the lead's, or of another pane's."""

from __future__ import annotations

import msgspec

from caracal.core.framing.choice import Keyframe, Punch
from caracal.core.framing.motion import Manner
from caracal.core.layout.model import Role
from caracal.core.project.edits import MOST_ZOOM, with_choice
from caracal.core.project.model import Project


def with_keyframe(
    project: Project, letter: str, shot: int, key: Keyframe, role: Role = Role.LEAD
) -> Project:
    """A window set by hand at a frame; a shot that had none becomes by hand."""
    before = project.choice(letter, shot).framing(role).keyframes
    keys = [keyframe for keyframe in before if keyframe.frame != key.frame]
    return _with_keys(project, letter, shot, role, [*keys, key], by_hand=not before)


def without_keyframe(
    project: Project, letter: str, shot: int, frame: int, role: Role = Role.LEAD
) -> Project:
    """The keyframe at ``frame`` forgotten; without any the shot is automatic again."""
    before = project.choice(letter, shot).framing(role).keyframes
    return _with_keys(project, letter, shot, role,
                      [keyframe for keyframe in before if keyframe.frame != frame])


def moved_keyframe(
    project: Project, letter: str, shot: int, frame: int, key: Keyframe, role: Role = Role.LEAD
) -> Project:
    """The keyframe at ``frame`` becomes ``key``, its manner kept.

    Where another keyframe stands it comes to stand beside it, on the side it came from.
    """
    before = project.choice(letter, shot).framing(role).keyframes
    keys = [keyframe for keyframe in before if keyframe.frame != frame]
    taken, back = {key.frame for key in keys}, 1 if frame > key.frame else -1
    while key.frame in taken:
        key = msgspec.structs.replace(key, frame=key.frame + back)
    return _with_keys(project, letter, shot, role, [*keys, key])


def with_zoom(
    project: Project, letter: str, shot: int, zoom: float | None, role: Role = Role.LEAD
) -> Project:
    """The window of ``shot`` in version ``letter`` made smaller by ``zoom``, 1 to MOST_ZOOM.

    None lets it come closer by itself.
    """
    held = None if zoom is None else round(min(max(zoom, 1.0), MOST_ZOOM), 3)
    choice = project.choice(letter, shot)
    framing = msgspec.structs.replace(choice.framing(role), zoom=held)
    return with_choice(project, letter, shot, choice.framed(framing))


def with_punch(
    project: Project, letter: str, shot: int, punch: Punch, role: Role = Role.LEAD
) -> Project:
    """A punch-in; one that runs at its first frame ends there."""
    ended = without_punch_at(project, letter, shot, punch.frame, role)
    kept = ended.choice(letter, shot).framing(role).punches
    later = [other for other in kept if other.frame > punch.frame]
    end = min([punch.end_exclusive, *(punch.frame for punch in later)])
    held = msgspec.structs.replace(
        punch, end_exclusive=end, zoom=round(min(max(punch.zoom, 1.0), MOST_ZOOM), 3))
    return _with_punches(project, letter, shot, role, [*kept, held])


def without_punch_at(
    project: Project, letter: str, shot: int, frame: int, role: Role = Role.LEAD
) -> Project:
    """The punch-in that runs at ``frame`` ends there: back out."""
    made = []
    for punch in project.choice(letter, shot).framing(role).punches:
        if not punch.frame <= frame < punch.end_exclusive:
            made.append(punch)
        elif punch.frame < frame:
            made.append(msgspec.structs.replace(punch, end_exclusive=frame))
    return _with_punches(project, letter, shot, role, made)


def _with_punches(
    project: Project, letter: str, shot: int, role: Role, punches: list[Punch]
) -> Project:
    choice = project.choice(letter, shot)
    ordered = tuple(sorted(punches, key=lambda punch: punch.frame))
    framing = msgspec.structs.replace(choice.framing(role), punches=ordered)
    return with_choice(project, letter, shot, choice.framed(framing))


def _with_keys(
    project: Project, letter: str, shot: int, role: Role, keys: list[Keyframe],
    by_hand: bool = False,
) -> Project:
    ordered = tuple(sorted(keys, key=lambda keyframe: keyframe.frame))
    choice = project.choice(letter, shot)
    made = choice.framed(msgspec.structs.replace(choice.framing(role), keyframes=ordered))
    if role is Role.LEAD and by_hand:
        made = msgspec.structs.replace(made, manner=Manner.BY_HAND)
    elif role is Role.LEAD and not ordered and made.manner is Manner.BY_HAND:
        made = msgspec.structs.replace(made, manner=Manner.AUTO)
    return with_choice(project, letter, shot, made)
