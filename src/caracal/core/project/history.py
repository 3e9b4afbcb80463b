"""Undo and redo: the list of projects."""

from __future__ import annotations

from dataclasses import dataclass, field

from caracal.core.project.model import Project


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

    def replace(self, project: Project, name: str) -> None:
        """Like :meth:`push`, but one step with the last: the parts of one drag are undone at once.

        Only the newest step is replaced, and only by one of the same name.
        """
        if self.at == len(self.projects) - 1 and self.at > 0 and self.names[self.at] == name:
            self.projects[self.at] = project
        else:
            self.push(project, name)

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
