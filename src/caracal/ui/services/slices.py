"""Work that needs the interface's thread, done a little at a time so that nothing waits for it."""

from __future__ import annotations

import time
from collections.abc import Callable, Generator
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, QTimer

R = TypeVar("R")
SLICE_S = 0.008  # half of what the interface's thread may be held


class Slices(QObject, Generic[R]):
    """Runs a generator that yields where it may be interrupted, and hands on what it returns.

    What is short is done at once. Work that is asked for while some runs follows it: only the last
    that was asked for.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._work: tuple[Generator[None, None, R], Callable[[R], object]] | None = None
        self._next: tuple[Callable[[], Generator[None, None, R]], Callable[[R], object]] | None
        self._next = None
        self._timer = QTimer(self)
        self._timer.timeout.connect(lambda: self._go_on(SLICE_S))

    @property
    def runs(self) -> bool:
        """Whether anything is still to be done."""
        return self._work is not None

    def run(
        self, work: Callable[[], Generator[None, None, R]], then: Callable[[R], object]
    ) -> None:
        """Begin ``work``, or do it after what runs now; ``then`` gets its result."""
        if self._work is not None:
            self._next = work, then
            return
        self._work = work(), then
        self._timer.start(0)
        self._go_on(SLICE_S)

    def finish(self) -> None:
        """Do all of it now."""
        while self._work is not None:
            self._go_on(3600.0)

    def _go_on(self, for_s: float) -> None:
        if self._work is None:
            return
        (work, then), until = self._work, time.perf_counter() + for_s
        try:
            next(work)  # one step at least, however slow it is
            while time.perf_counter() < until:
                next(work)
            return
        except StopIteration as over:
            self._end()
            then(over.value)
        except BaseException:
            self._end()
            raise
        after, self._next = self._next, None
        if after is not None:
            self.run(*after)

    def _end(self) -> None:
        self._work = None
        self._timer.stop()
