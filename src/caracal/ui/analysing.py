"""Analysis in a thread of its own, with progress and a way to stop."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QThread, Signal

from caracal.core.analysis.analyse import analyse, kept_analysis
from caracal.core.analysis.model import Analysis
from caracal.core.errors import Cancelled, CaracalError, InputError
from caracal.core.framing.path import ShotPath, film_path
from caracal.core.project.model import FIRST_SHEETS
from caracal.core.project.storage import FilmReference
from caracal.core.specs.sheet import find_sheet
from caracal.core.work import CancelToken, Progress

Paths = dict[tuple[str, int], ShotPath]


def first_paths(analysis: Analysis) -> Paths:
    """The automatic paths of every shot in the first three shapes."""
    paths: Paths = {}
    for name in FIRST_SHEETS:
        for shot, path in enumerate(film_path(analysis, find_sheet(name).frame)):
            paths[name, shot] = path
    return paths


def reopened(film: FilmReference) -> tuple[Analysis, Paths]:
    """What is kept of a film that is not there. Raises InputError when nothing is."""
    kept = kept_analysis(film.content_key)
    if kept is None:
        raise InputError("The film of this project is not where it was.", film.path,
                         "Put it back, or beside the project, and open the project again.")
    return kept, first_paths(kept)


class Analysing(QThread):
    """Analyses ``film`` and solves its first paths; one of the three results is emitted."""

    progressed = Signal(object)
    ready = Signal(object, object)
    failed = Signal(str)
    stopped = Signal()

    def __init__(self, film: Path) -> None:
        super().__init__()
        self.film = film
        self.token = CancelToken()

    def run(self) -> None:
        try:
            analysis = analyse(self.film, self._tell, self.token)
            paths = first_paths(analysis)
        except Cancelled:
            self.stopped.emit()
        except CaracalError as problem:
            self.failed.emit(problem.sentence())
        else:
            self.ready.emit(analysis, paths)

    def _tell(self, progress: Progress) -> None:
        self.progressed.emit(progress)
