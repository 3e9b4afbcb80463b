"""The analysis that runs for the window: one counts, those that were left end by themselves."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from caracal.ui.services.analysis_worker import AnalysisWorker


class AnalysisController(QObject):
    """Passes on what the newest analysis tells, and nothing of those before it."""

    progressed = Signal(object)
    grew = Signal(object)
    ready = Signal(object)
    failed = Signal(str)
    stopped = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.current: AnalysisWorker | None = None
        self._ending: set[AnalysisWorker] = set()  # told to stop, and about to

    def start(self, work: AnalysisWorker) -> None:
        """Run ``work``; it is the one that counts now."""
        def mine(tell: Callable[..., None]) -> Callable[..., None]:
            return lambda *news: tell(*news) if work is self.current else None

        work.progressed.connect(mine(self.progressed.emit))
        work.grew.connect(mine(self.grew.emit))
        work.ready.connect(mine(self.ready.emit))
        work.failed.connect(mine(self.failed.emit))
        work.stopped.connect(mine(self.stopped.emit))
        work.finished.connect(lambda: self._over(work))
        self.current = work
        work.start()

    def stop(self) -> None:
        """Ask the one that runs to stop; it tells what it still has."""
        if self.current is not None:
            self.current.token.cancel()

    def leave(self) -> None:
        """Stop it and hear no more of it. What it found is kept."""
        if self.current is not None:
            self.stop()
            self._ending.add(self.current)
            self.current = None

    def _over(self, work: AnalysisWorker) -> None:
        work.end()  # it must have ended before it is let go
        self._ending.discard(work)
        if work is self.current:
            self.current = None

    def close(self) -> None:
        """Wait for all of them."""
        self.leave()
        for work in tuple(self._ending):
            work.end()
