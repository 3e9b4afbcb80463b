"""Which pane's window is worked on in the chosen version: the lead's, or one that was entered."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box
from caracal.core.framing.choice import Keyframe, PaneFraming
from caracal.core.framing.path import ShotPath
from caracal.core.framing.shot_solution import ShotSolution
from caracal.core.framing.window_at import key_at, zoom_of
from caracal.core.layout.model import Crop, Role
from caracal.core.project.model import Project


class Shown(Protocol):
    """What is asked of the open film."""

    analysis: Analysis

    @property
    def letter(self) -> str:
        """The chosen version."""
        ...

    @property
    def frame(self) -> int:
        """The frame at the playhead."""
        ...

    @property
    def shot(self) -> int:
        """The shot at the playhead."""
        ...

    @property
    def project(self) -> Project:
        """What is decided."""
        ...

    def solution(self, letter: str, shot: int) -> ShotSolution:
        """What was solved of a shot."""
        ...


class PaneFocus:
    """The window that keys, numbers and drags change; another shot or version is its lead's again.
    """

    def __init__(self, shown: Shown, changed: Callable[[], object]) -> None:
        """``changed`` is called when another pane was entered or left."""
        self._shown, self._changed = shown, changed
        self._entered: tuple[str, int, Role] | None = None

    def enter(self, role: Role) -> None:
        """Work on the window of the pane that follows ``role``."""
        now = self.role
        self._entered = (self._shown.letter, self._shown.shot, role)
        if self.role is not now:
            self._changed()

    def leave(self) -> None:
        """Work on the first pane's window again."""
        was, self._entered = self.entered, None
        if was:
            self._changed()

    @property
    def role(self) -> Role:
        """Whom the window that is worked on follows: of the first pane if none was entered."""
        roles, entered = self._roles(), self._entered
        if entered is not None and entered[2] in roles and (
                entered[:2] == (self._shown.letter, self._shown.shot)):
            return entered[2]
        return roles[0] if roles else Role.LEAD

    @property
    def entered(self) -> bool:
        """Whether it is another pane's than the first one's."""
        return self.role not in self._roles()[:1] and bool(self._roles())

    def _roles(self) -> list[Role]:
        layout = self._shown.solution(self._shown.letter, self._shown.shot).placed
        return [pane.content.role for pane in layout.panes if isinstance(pane.content, Crop)]

    @property
    def path(self) -> ShotPath:
        """The path of that window through the shot at the playhead."""
        solution = self._shown.solution(self._shown.letter, self._shown.shot)
        roles = self._roles()
        return solution.panes[roles.index(self.role)] if roles else solution.path

    @property
    def window(self) -> Box:
        """Where it lies at the playhead, in master pixels."""
        return self.path.window(self._shown.frame)

    @property
    def zoom(self) -> float:
        """How close it is at the playhead; from 1."""
        return zoom_of(self._shown.analysis.active, self.path, self._shown.frame)

    @property
    def framing(self) -> PaneFraming:
        """What was decided about it."""
        return self._shown.project.choice(self._shown.letter, self._shown.shot).framing(self.role)

    @property
    def key(self) -> Keyframe:
        """Its keyframe at the playhead, or one that holds it where it is."""
        return next((key for key in self.framing.keyframes if key.frame == self._shown.frame),
                    key_at(self.path, self._shown.frame))
