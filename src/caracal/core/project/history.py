"""Undo and redo: the list of projects."""

from __future__ import annotations

from dataclasses import dataclass, field

from caracal.core.project.model import Project


@dataclass
class History:
    """Projects in the order they were made, and where we are among them.

    A gesture (one press and drag, one run of a wheel) makes one step, however many edits it is made
    of. Each has an id of its own; when it is sealed nothing joins it any more.
    """

    projects: list[Project]
    at: int = 0
    names: list[str] = field(default_factory=lambda: [""])
    gesture: object | None = None  # of the newest step, while it may still grow

    @property
    def now(self) -> Project:
        """The project as it is now, after all that was undone."""
        return self.projects[self.at]

    def push(self, project: Project, name: str, gesture: object | None = None) -> None:
        """Take ``project`` as the newest; what was undone before is forgotten.

        With the ``gesture`` of the newest step it takes that step's place.
        """
        newest = self.at == len(self.projects) - 1 and self.at > 0
        if gesture is not None and gesture == self.gesture and newest:
            self.projects[self.at], self.names[self.at] = project, name
            return
        self.gesture = None
        if project == self.now:
            return
        self.projects = [*self.projects[: self.at + 1], project]
        self.names = [*self.names[: self.at + 1], name]
        self.at += 1
        self.gesture = gesture

    def seal(self) -> None:
        """The gesture is over: the next edit is a step of its own."""
        self.gesture = None

    def undo(self) -> str | None:
        """One step back; the name of what was undone, or None at the beginning."""
        self.seal()
        if self.at == 0:
            return None
        self.at -= 1
        return self.names[self.at + 1]

    def redo(self) -> str | None:
        """One step forward; the name of what was done again, or None at the end."""
        self.seal()
        if self.at + 1 >= len(self.projects):
            return None
        self.at += 1
        return self.names[self.at]
