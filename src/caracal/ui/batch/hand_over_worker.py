"""Reports and bundles are written in a thread: they read every file that was made."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.ui.services.worker import Worker


class HandOverWorker(Worker):
    """Does one piece of work at a time and says how it ended."""

    said = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent=parent)
        self.failed.connect(self.said)
        self._work: Callable[[CancelToken], Path] | None = None
        self._words, self._token = "", CancelToken()

    def do(self, words: str, work: Callable[[CancelToken], Path]) -> None:
        """Do ``work``, which a token stops, and say ``words`` with the path it made."""
        if self.isRunning():
            self.said.emit(tr("Wait: the last report or bundle is still being written."))
            return
        self._work, self._words = work, words
        self.start()

    def work(self) -> None:
        if self._work is not None:
            self.said.emit(f"{self._words} {self._work(self._token)}.")

    def close(self) -> None:
        """Stop; nothing half-made is left when the thread has ended."""
        self._token.cancel()
        self.part()
