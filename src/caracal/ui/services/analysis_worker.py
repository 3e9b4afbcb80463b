"""Analysis in a thread of its own, with progress, what is known so far, and a way to stop."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Signal

from caracal.core.analysis.film_pass.analyse import kept_analysis
from caracal.core.analysis.film_pass.builder import AnalysisBuilder, AnalysisUpdate
from caracal.core.analysis.film_pass.process import analyse_apart
from caracal.core.analysis.film_pass.setups import similar_shots
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Progress
from caracal.core.plan.analysis_source import fingerprint
from caracal.core.project.storage import FilmReference
from caracal.ui.services.worker import Worker


def reopened(film: FilmReference) -> Analysis:
    """What is kept of a film that is not there. Raises InputError when nothing is."""
    kept = kept_analysis(film.content_key)
    if kept is None:
        raise InputError(tr("The film of this project is not where it was."), film.path,
                         tr("Put it back, or beside the project, and open the project again."))
    return kept


class AnalysisWorker(Worker):
    """Analyses ``film``; one of the three results is emitted.

    What is known so far is emitted again and again before. Shots are solved as somebody looks at
    them.
    """

    progressed = Signal(object)
    grew = Signal(object)
    ready = Signal(object)

    def __init__(self, film: Path, gone: FilmReference | None = None) -> None:
        """``gone`` is what a project knows of a film that is not there: what is kept is shown."""
        super().__init__()
        self.film, self._gone = film, gone
        self.token = CancelToken()
        self._growing = AnalysisBuilder()

    def work(self) -> None:
        if self._gone is not None:
            analysis = reopened(self._gone)
        else:
            analysis = analyse_apart(self.film, self._tell, self.token, self._grow)
        # What is kept for an analysis is worked out here: of a long film it holds for 0.3 s.
        fingerprint(analysis)
        similar_shots(analysis, 0)
        self.ready.emit(analysis)

    def _tell(self, progress: Progress) -> None:
        self.progressed.emit(progress)

    def _grow(self, grown: AnalysisUpdate) -> None:
        for ended_shot in grown.ended:
            self._growing.add(ended_shot)
        self.grew.emit(self._growing.so_far(grown))
