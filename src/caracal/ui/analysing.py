"""Analysis in a thread of its own, with progress and a way to stop."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QThread, Signal

from caracal.core.analysis.analyse import analyse
from caracal.core.errors import Cancelled, CaracalError
from caracal.core.framing.path import ShotPath, film_path
from caracal.core.project.model import FIRST_SHEETS
from caracal.core.specs.sheet import find_sheet
from caracal.core.work import CancelToken, Progress


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
            paths: dict[tuple[str, int], ShotPath] = {}
            for name in FIRST_SHEETS:
                for shot, path in enumerate(film_path(analysis, find_sheet(name).frame)):
                    paths[name, shot] = path
        except Cancelled:
            self.stopped.emit()
        except CaracalError as problem:
            self.failed.emit(problem.sentence())
        else:
            self.ready.emit(analysis, paths)

    def _tell(self, progress: Progress) -> None:
        self.progressed.emit(progress)
