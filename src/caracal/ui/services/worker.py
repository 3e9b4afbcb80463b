"""The one kind of background thread of the window: no problem ends it unsaid."""

from __future__ import annotations

import time
from collections.abc import Callable

from PySide6.QtCore import QCoreApplication, QObject, QThread, QTimer, Signal
from PySide6.QtWidgets import QWidget

from caracal.core.base.errors import Cancelled
from caracal.core.base.logs import log, unforeseen

MOST_WAIT_S = 4.0  # longer than a process is given before it is killed
LEFT: list[QThread] = []  # threads that did not end in time
LET_GO_MS = 50  # how often ended threads are checked for
_going: list[QWidget] = []  # what threads still refer to
_parted: list[Callable[[float], bool]] = []  # each waits for a thread; whether that has ended


def part_with(wait: Callable[[float], bool]) -> None:
    """Remember a thread that was told to stop: ``wait`` waits so many seconds for it, and tells
    whether it has ended. What it refers to must be kept until then."""
    _parted.append(wait)


def all_parted(within_s: float = 0.0) -> bool:
    """Whether all threads that were told to stop have ended; waits for them ``within_s``."""
    until = time.monotonic() + within_s
    _parted[:] = [wait for wait in _parted if not wait(max(0.0, until - time.monotonic()))]
    return not _parted


def let_go(widget: QWidget) -> None:
    """Delete ``widget`` once all threads that were told to stop have ended; keep it until then."""
    _going.append(widget)
    delete_let_go()


def delete_let_go() -> None:
    """Delete what was let go if all threads have ended; otherwise try again later."""
    if not all_parted():
        application = QCoreApplication.instance()
        if application is not None:
            QTimer.singleShot(LET_GO_MS, application, delete_let_go)
        return
    while _going:
        _going.pop().deleteLater()


class Worker(QThread):
    """Runs a piece of work, or :meth:`work` of a subclass, in a thread.

    ``failed`` tells a problem in one sentence; what nobody foresaw is in the log as well.
    ``stopped`` tells that the work was cancelled. Whoever gives it work of their own holds it and
    is no parent of it: the work refers to them, and neither could go before the other.
    """

    failed = Signal(str)
    stopped = Signal()

    def __init__(
        self, work: Callable[[], None] | None = None, parent: QObject | None = None
    ) -> None:
        super().__init__(parent)
        self._given = work

    def work(self) -> None:
        """What is done in the thread."""
        if self._given is not None:
            self._given()

    def run(self) -> None:
        """Do the work; the last handler of the thread is here."""
        try:
            self.work()
        except Cancelled:
            self.stopped.emit()
        except Exception as problem:  # noqa: BLE001 - the last handler of this thread
            self.tell(problem)

    def end(self, most_s: float = MOST_WAIT_S) -> bool:
        """Wait until the work has ended, ``most_s`` at the most; whether it has.

        Work that hangs is left to itself and heard no more: no window waits for ever.
        """
        if self.wait(round(most_s * 1000)):
            return True
        log.error("left to itself: %s", self._given or type(self).__name__)
        self.blockSignals(True)
        LEFT.append(self)  # a thread that runs must not be destroyed
        return False

    def part(self) -> None:
        """Hear no more of work that was told to stop, and let it end by itself."""
        if self.isRunning():
            self.blockSignals(True)
            self.setParent(None)  # it may outlive whoever began it
            part_with(lambda within_s: self.wait(round(within_s * 1000)))

    def tell(self, problem: Exception) -> None:
        """Say ``problem`` in one sentence; work that goes on after it calls this by itself."""
        self.failed.emit(unforeseen(problem).sentence())
