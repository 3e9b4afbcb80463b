"""Analysis in a thread of its own, with progress, what is known so far, and a way to stop."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal

from caracal.core.analysis.film_pass.analyse import kept_analysis
from caracal.core.analysis.film_pass.builder import AnalysisBuilder, AnalysisUpdate
from caracal.core.analysis.film_pass.process import analyse_apart
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Progress
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.shot_solution import ShotSolution, solve_shot
from caracal.core.project.model import FIRST_SHEETS
from caracal.core.project.storage import FilmReference
from caracal.core.specs.sheet_store import find_sheet
from caracal.ui.services.worker import Worker

Solved = dict[tuple[str, int], ShotSolution]


_last: dict[object, Solved] = {}  # a film that is closed and opened again is there at once


def first_solved(analysis: Analysis) -> Solved:
    """What is shown of every shot in the first three shapes, all automatic."""
    sheets = [find_sheet(name) for name in FIRST_SHEETS]
    key = (analysis.content_key, analysis.version, *sheets)
    if key not in _last:
        _last.clear()
        _last[key] = {
            (sheet.name, shot): solve_shot(analysis, shot, sheet, ShotChoice(), Motion(), {})
            for sheet in sheets
            for shot in range(len(analysis.shots))
        }
    return _last[key]


def reopened(film: FilmReference) -> tuple[Analysis, Solved]:
    """What is kept of a film that is not there. Raises InputError when nothing is."""
    kept = kept_analysis(film.content_key)
    if kept is None:
        raise InputError(tr("The film of this project is not where it was."), film.path,
                         tr("Put it back, or beside the project, and open the project again."))
    return kept, first_solved(kept)


class AnalysisWorker(Worker):
    """Analyses ``film``; one of the three results is emitted.

    A film that was analysed before comes with its first paths solved. Of any other what is known
    so far is emitted again and again before, and shots are solved as somebody looks at them.
    """

    progressed = Signal(object)
    grew = Signal(object)
    ready = Signal(object, object)

    def __init__(self, film: Path, gone: FilmReference | None = None) -> None:
        """``gone`` is what a project knows of a film that is not there: what is kept is shown."""
        super().__init__()
        self.film, self._gone = film, gone
        self.token = CancelToken()
        self._growing = AnalysisBuilder()
        self._looked_on = False

    def work(self) -> None:
        if self._gone is not None:
            analysis, found = reopened(self._gone)
        else:
            analysis = analyse_apart(self.film, self._tell, self.token, self._grow)
            found = {} if self._looked_on else first_solved(analysis)
        self.ready.emit(analysis, found)

    def _tell(self, progress: Progress) -> None:
        self.progressed.emit(progress)

    def _grow(self, grown: AnalysisUpdate) -> None:
        for ended_shot in grown.ended:
            self._growing.add(ended_shot)
        self._looked_on = True
        self.grew.emit(self._growing.so_far(grown))
