"""The batch list as the window sees it: polled, changed, and worked off in a process of its own."""

from __future__ import annotations

import sys
import threading
from collections.abc import Callable, Iterable
from pathlib import Path

from PySide6.QtCore import QObject, QProcess, QTimer, Signal

from caracal.core.batch.jobs import BatchList, Item, State, Work, worked_by_us
from caracal.core.batch.runner import recover
from caracal.core.batch.watching import look_for_more
from caracal.core.errors import CaracalError

POLL_MS = 250
FOLDER_EVERY = 8  # polls between two looks at a watched folder
GO_MS = 5000  # to end cleanly when the window closes


class Working(QObject):
    """Tells of every change of the list. Lives as long as its film view."""

    changed = Signal()
    said = Signal(str)
    over = Signal()  # the process has ended: nothing waits, or it was stopped

    def __init__(self, path: Path) -> None:
        super().__init__()
        self.jobs = BatchList(path)
        self.items: tuple[Item, ...] = ()
        # A file that was just finished in a crash is proved again: that takes its time.
        self._mending = threading.Thread(target=_mended, args=(path,), daemon=True)
        self._go_then = False
        if any(one.state.busy for one in self.jobs.items()):
            self._mending.start()
        self._process = QProcess(self)
        self._process.setProcessChannelMode(QProcess.ProcessChannelMode.ForwardedErrorChannel)
        self._process.finished.connect(self._ended)
        self._seen, self._polls = -1, 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self._poll)
        self._timer.start(POLL_MS)
        self._poll()

    @property
    def running(self) -> bool:
        return self._process.state() is not QProcess.ProcessState.NotRunning

    @property
    def waiting(self) -> int:
        return sum(one.state is State.WAITING for one in self.items)

    def _poll(self) -> None:
        self._polls += 1
        if self._go_then and not self._mending.is_alive():
            self._go_then = False
            self.go_on()
        if self._polls % FOLDER_EVERY == 0:
            self._look()
        now = self.jobs.changes
        if now != self._seen:
            self._seen = now
            self.renew()

    def _look(self) -> None:
        try:
            names = look_for_more(self.jobs)
        except CaracalError as problem:
            self.said.emit(problem.sentence())
            return
        if names:
            self.said.emit(f"New in the watched folder: {', '.join(names)}.")
            self.renew()
            self.go_on()

    def renew(self) -> None:
        """Read the list again."""
        self.items = self.jobs.items()
        self.changed.emit()

    def add(self, works: Iterable[Work]) -> None:
        """Put lines at the end and work the list off."""
        self.jobs.add(works)
        self.renew()
        self.go_on()

    def go_on(self) -> None:
        """Work off what waits, once the list is right."""
        if self._mending.is_alive():
            self._go_then = True
        elif not self.running:
            self._process.start(sys.executable, ["-m", "caracal.core.batch.runner",
                                                 str(self.jobs.path)])
        self.changed.emit()

    def do(self, change: Callable[[BatchList], None]) -> None:
        """Change the list and show it."""
        change(self.jobs)
        self.renew()

    def _ended(self) -> None:
        self.renew()
        if self.waiting and self._process.exitCode() == 0 and not self.jobs.paused:
            self.go_on()  # something was added as it was about to leave
            return
        if self._process.exitCode() == 3:
            self.said.emit("Another Caracal is working off the list; this window shows how far.")
        self.over.emit()

    def close(self) -> None:
        """Stop the process; what was in the making waits for the next time."""
        self._timer.stop()
        if self._mending.is_alive():
            self._mending.join()
        if self.running:
            self._process.blockSignals(True)
            self._process.terminate()
            if not self._process.waitForFinished(GO_MS):
                self._process.kill()
                self._process.waitForFinished(GO_MS)
        self.jobs.close()


def _mended(path: Path) -> None:
    """Bring the list right after a crash, unless another process works it off."""
    with worked_by_us(path) as ours:
        if ours:
            with BatchList(path) as jobs:
                recover(jobs)
