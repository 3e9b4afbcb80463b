"""Shots that nobody looks at yet are solved when nothing else is, so that all issues count."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Protocol

from PySide6.QtCore import QObject, QTimer

from caracal.core.analysis.model import Analysis
from caracal.core.project.model import Project
from caracal.ui.session.solutions import Solutions

EVERY_MS = 20
AT_A_TIME = 16  # cells that wait at once: an edit forgets them
LOOKED_AT = 300  # cells between two rests, most of which are solved: 2 ms


class Film(Protocol):
    """What is asked of the open film."""

    analysis: Analysis
    solving: Solutions

    @property
    def project(self) -> Project:
        """What was decided."""
        ...

    def solve_ahead(self, letter: str, shot: int) -> bool:
        """Ask for a cell that is not solved; whether it was asked for."""
        ...


class AheadSolver(QObject):
    """Goes through all cells after every change, a few at a time."""

    def __init__(self, film: Film, parent: QObject) -> None:
        super().__init__(parent)
        self._film = film
        self._cells: Iterator[tuple[str, int]] = iter(())
        self._of: tuple[object, object] = (None, None)  # the project and analysis gone through
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(EVERY_MS)

    @property
    def done(self) -> bool:
        """Whether all cells were gone through and solved."""
        return not self._timer.isActive() and not self._film.solving.has_ahead

    def begin_again(self) -> None:
        """Something changed: go through all cells."""
        self._of = (None, None)
        self._timer.start(EVERY_MS)

    def _look(self) -> None:
        film = self._film
        if film.solving.busy or film.solving.has_ahead or not film.analysis.whole:
            return
        if self._of[0] is not film.project or self._of[1] is not film.analysis:
            self._of = film.project, film.analysis
            letters = [version.letter for version in film.project.versions]
            self._cells = iter([(letter, shot) for shot in range(len(film.analysis.shots))
                                for letter in letters])
        asked = 0
        for _ in range(LOOKED_AT):
            cell = next(self._cells, None)
            if cell is None:
                self._timer.stop()
                return
            asked += film.solve_ahead(*cell)
            if asked == AT_A_TIME:
                return

    def close(self) -> None:
        """Ask for nothing more."""
        self._timer.stop()
