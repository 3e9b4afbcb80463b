"""The demo film opened, and dressed once it is known unless somebody worked on it before."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PySide6.QtCore import QObject, QTimer

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.translation import tr
from caracal.ui.shell.demo_version import dressed, is_plain
from caracal.ui.shell.film_view import FilmView

ASK_MS = 100


class Window(Protocol):
    """Something that opens films, and knows which one is open."""

    film: FilmView | None

    @property
    def analysing(self) -> object | None:
        """What runs while a film is looked at."""
        ...

    def open_film(self, film: Path) -> None:
        """Open a film."""
        ...


def open_demo(window: Window) -> None:
    """Open the demo film in ``window``, a widget."""
    window.open_film(DEMO_FILM)
    _Dresser(window)


class _Dresser(QObject):
    """Waits until the film is known, and goes."""

    def __init__(self, window: Window) -> None:
        assert isinstance(window, QObject)
        super().__init__(window)
        self._window = window
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._look)
        self._timer.start(ASK_MS)

    def _look(self) -> None:
        film = self._window.film
        if film is None:
            if self._window.analysing is None:
                self._end()  # it could not be opened
            return
        session = film.session
        if session.film != DEMO_FILM:
            self._end()
        elif (session.found.whole and self._window.analysing is None
                and film.files.is_recovered):
            self._end()
            if is_plain(session.project, session.analysis) and not session.document.read_only:
                session.edit(dressed(session.analysis),
                             tr("The demo shows everything in version D. Undo gives the plain "
                                "film."))

    def _end(self) -> None:
        self._timer.stop()
        self.deleteLater()
