"""Where a version that is too long may end: found by listening, in a process apart."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from caracal.core.analysis.model import Analysis
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken
from caracal.core.plan.planner import fitted
from caracal.core.processes.apart import Call, call_apart
from caracal.ui.services.worker import Worker


class DurationFitWorker(Worker):
    """Shortens ranges to a limit, at the last pause that fits."""

    fitted = Signal(str, object)  # a version's letter and its new ranges

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent=parent)
        self._asked: tuple[str, Analysis, tuple[FrameRange, ...], float] | None = None
        self._token = CancelToken()

    def ask(self, letter: str, analysis: Analysis, ranges: tuple[FrameRange, ...],
            most_s: float) -> None:
        """Find the ranges that version ``letter`` may keep."""
        if not self.isRunning():
            self._asked = (letter, analysis, ranges, most_s)
            self.start()

    def work(self) -> None:
        if self._asked is None:
            return
        letter, analysis, ranges, most_s = self._asked
        call = Call(fitted, (analysis, ranges, most_s), stoppable=True, grace_s=0.0)
        self.fitted.emit(letter, call_apart(call, analysis.master.file, cancel=self._token))

    def close(self) -> None:
        """Stop listening."""
        self._token.cancel()
        self.part()
