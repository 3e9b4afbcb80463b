"""Pieces of work that are done one after the other in a thread: the interface waits for none."""

from __future__ import annotations

import threading
import time
from collections import deque
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QCoreApplication, QObject, Signal

from caracal.core.base.errors import Cancelled
from caracal.ui.services.worker import Worker


class TaskQueue(QObject):
    """Does work in the order in which it was asked for; each result comes back to the thread of
    the window. ``failed`` tells a problem in one sentence."""

    failed = Signal(str)
    _ended = Signal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._waiting: deque[tuple[object, Callable[[], Any], Callable[[Any], object]]] = deque()
        self._results: deque[tuple[Callable[[Any], object], Any]] = deque()
        self._wake = threading.Condition()
        self._busy = self._over = False
        self._worker = Worker(self._work)
        self._worker.failed.connect(self.failed)
        self._ended.connect(self._deliver)

    def do(
        self, work: Callable[[], Any], then: Callable[[Any], object] = lambda _: None,
        key: object = None,
    ) -> None:
        """Do ``work`` and give its result to ``then``.

        Work of the same ``key`` that has not begun yet is replaced: it was overtaken.
        """
        with self._wake:
            if key is not None:
                self._waiting = deque(task for task in self._waiting if task[0] != key)
            self._waiting.append((key, work, then))
            self._wake.notify_all()
        if not self._worker.isRunning():
            self._worker.start()

    def _work(self) -> None:
        while (task := self._next()) is not None:
            _, work, then = task
            try:
                result = work()
            except Cancelled:
                continue
            except Exception as problem:  # noqa: BLE001 - told, and the next work is done
                self._worker.tell(problem)
            else:
                self._results.append((then, result))
                self._ended.emit()

    def _next(self) -> tuple[object, Callable[[], Any], Callable[[Any], object]] | None:
        with self._wake:
            self._busy = False
            self._wake.notify_all()
            while not self._waiting and not self._over:
                self._wake.wait()
            if not self._waiting:
                return None
            self._busy = True
            return self._waiting.popleft()

    def _deliver(self) -> None:
        while self._results:
            then, result = self._results.popleft()
            then(result)

    def wait(self, most_s: float) -> bool:
        """Wait until all work is done and delivered, and what that asked for; at most so long.

        Returns whether it is.
        """
        end, done = time.monotonic() + most_s, True
        while done and (self._waiting or self._busy or self._results):
            with self._wake:
                done = self._wake.wait_for(lambda: not (self._waiting or self._busy),
                                           max(0.0, end - time.monotonic()))
            self._deliver()
        QCoreApplication.sendPostedEvents(self)  # what failed is said
        return done

    def give_up(self) -> None:
        """End without what still waits; whoever calls has cancelled the work that is done now, and
        keeps this until it has ended."""
        with self._wake:
            self._waiting.clear()
            self._over = True
            self._wake.notify_all()
        self._results.clear()
        self._worker.part()

    def close(self, most_s: float) -> bool:
        """Do what still waits, and end; whether all was done in so long."""
        done = self.wait(most_s)
        with self._wake:
            self._over = True
            self._wake.notify_all()
        return self._worker.end(most_s) and done
