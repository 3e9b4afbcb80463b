"""The project as a value, the edits as functions, and undo as a list of projects."""

from __future__ import annotations

from dataclasses import dataclass, field

import msgspec

from caracal.core.framing.choice import Keyframe, ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.time import FrameRange

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
FIRST_SHEETS = ("vertical-short", "square-feed", "portrait-feed")
MOST_ZOOM = 3.0


class Version(msgspec.Struct, frozen=True):
    """One wanted version: its letter on screen and the name of its spec sheet."""

    letter: str
    sheet: str


class Project(msgspec.Struct, frozen=True):
    """Decisions about one film. ``leads`` by shot; ``choices`` by (version letter, shot).

    A lead is the same in every version; manner, zoom and keyframes belong to one version.
    """

    versions: tuple[Version, ...]
    span: FrameRange
    leads: tuple[tuple[int, int], ...] = ()
    choices: tuple[tuple[str, int, ShotChoice], ...] = ()

    def choice(self, letter: str, shot: int) -> ShotChoice:
        """What holds for ``shot`` in version ``letter``; automatic where nothing was decided."""
        lead = dict(self.leads).get(shot)
        for one, number, choice in self.choices:
            if one == letter and number == shot:
                return msgspec.structs.replace(choice, lead=lead)
        return ShotChoice(lead=lead)

    def choices_for(self, letter: str) -> dict[int, ShotChoice]:
        """All touched shots of version ``letter``."""
        shots = {shot for shot, _ in self.leads}
        shots |= {shot for one, shot, _ in self.choices if one == letter}
        return {shot: self.choice(letter, shot) for shot in sorted(shots)}


def first_project(frames: int) -> Project:
    """A project with the first three shapes over the whole film."""
    versions = tuple(Version(LETTERS[i], name) for i, name in enumerate(FIRST_SHEETS))
    return Project(versions, FrameRange(0, frames))


def with_lead(project: Project, shot: int, lead: int | None) -> Project:
    """``lead`` (a subject id; None: automatic) for ``shot`` in every version."""
    leads = dict(project.leads)
    leads.pop(shot, None)
    if lead is not None:
        leads[shot] = lead
    return msgspec.structs.replace(project, leads=tuple(sorted(leads.items())))


def with_choice(project: Project, letter: str, shot: int, choice: ShotChoice) -> Project:
    """``choice`` for ``shot`` in version ``letter`` (its lead is kept apart and ignored here)."""
    kept = [one for one in project.choices if one[:2] != (letter, shot)]
    plain = msgspec.structs.replace(choice, lead=None)
    if plain.touched:
        kept.append((letter, shot, plain))
    return msgspec.structs.replace(
        project, choices=tuple(sorted(kept, key=lambda one: (one[0], one[1]))))


def with_manner(project: Project, letter: str, shot: int, manner: Manner) -> Project:
    """``manner`` for ``shot`` in version ``letter``; keyframes stay for a return to by hand."""
    choice = msgspec.structs.replace(project.choice(letter, shot), manner=manner)
    return with_choice(project, letter, shot, choice)


def with_keyframe(project: Project, letter: str, shot: int, key: Keyframe) -> Project:
    """The window's middle set by hand at a frame; the shot becomes by hand."""
    before = project.choice(letter, shot)
    keys = [one for one in before.keyframes if one.frame != key.frame]
    ordered = tuple(sorted([*keys, key], key=lambda one: one.frame))
    choice = msgspec.structs.replace(before, manner=Manner.BY_HAND, keyframes=ordered)
    return with_choice(project, letter, shot, choice)


def with_zoom(project: Project, letter: str, shot: int, zoom: float) -> Project:
    """The window of ``shot`` in version ``letter`` made smaller by ``zoom``, 1 to MOST_ZOOM."""
    held = round(min(max(zoom, 1.0), MOST_ZOOM), 3)
    choice = msgspec.structs.replace(project.choice(letter, shot), zoom=held)
    return with_choice(project, letter, shot, choice)


def automatic_again(project: Project, letter: str, shot: int) -> Project:
    """Everything decided for ``shot`` forgotten: its lead everywhere, the rest in ``letter``."""
    return with_choice(with_lead(project, shot, None), letter, shot, ShotChoice())


@dataclass
class History:
    """Projects in the order they were made, and where we are among them."""

    projects: list[Project]
    at: int = 0
    names: list[str] = field(default_factory=lambda: [""])

    @property
    def now(self) -> Project:
        """The current project."""
        return self.projects[self.at]

    def push(self, project: Project, name: str) -> None:
        """Take ``project`` as the newest; what was undone before is forgotten."""
        if project == self.now:
            return
        self.projects = [*self.projects[: self.at + 1], project]
        self.names = [*self.names[: self.at + 1], name]
        self.at += 1

    def undo(self) -> str | None:
        """One step back; the name of what was undone, or None at the beginning."""
        if self.at == 0:
            return None
        self.at -= 1
        return self.names[self.at + 1]

    def redo(self) -> str | None:
        """One step forward; the name of what was done again, or None at the end."""
        if self.at + 1 >= len(self.projects):
            return None
        self.at += 1
        return self.names[self.at]
