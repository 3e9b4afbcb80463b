"""Paths and flags are solved in a process of their own; a thread waits for its answers."""

from __future__ import annotations

import atexit
import threading
import time
from functools import cache

from PySide6.QtCore import Signal

from caracal.core.base.errors import Cancelled
from caracal.core.framing.solver_process import Key, SolveRequest, SolveResult, SolverProcess
from caracal.ui.services.worker import Worker

PATIENCE_S = 1.0  # with a shot that is being solved when its film is closed

__all__ = ["Key", "SolveRequest", "SolveResult", "SolverWorker"]


@cache
def _answerer() -> SolverProcess:
    """One process for all films that are opened one after the other: starting it takes a second."""
    made = SolverProcess()
    atexit.register(made.close)
    return made


class SolverWorker(Worker):
    """Answers the newest question first: it is what somebody looks at."""

    answered = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self._waiting: dict[tuple[Key, bool], SolveRequest] = {}
        self._wake = threading.Condition()
        self._over_at: float | None = None
        self._open = 0  # questions whose answer was not taken yet

    @property
    def busy(self) -> bool:
        """Whether any answer is still to come."""
        return self._open > 0

    def ask(self, question: SolveRequest) -> None:
        """Answer this soon; asking again moves it to the front."""
        with self._wake:
            if self._waiting.pop((question.key, question.with_alternatives), None) is None:
                self._open += 1
            self._waiting[question.key, question.with_alternatives] = question
            self._wake.notify()
        if not self.isRunning():
            self.start()

    def taken(self) -> None:
        """Whoever asked says by this that an answer was taken."""
        self._open -= 1

    def forget(self) -> None:
        """This drops all questions that still wait."""
        with self._wake:
            self._open -= len(self._waiting)
            self._waiting.clear()

    def work(self) -> None:
        while (question := self._next()) is not None:
            try:
                answer = _answerer().answer(question, self._given_up)
            except Cancelled:
                return
            except Exception as problem:  # noqa: BLE001 - told, and the next one is answered
                self.tell(problem)
                answer = SolveResult(question)
            self.answered.emit(answer)

    def _next(self) -> SolveRequest | None:
        with self._wake:
            while not self._waiting and self._over_at is None:
                self._wake.wait()
            return None if self._over_at is not None else self._waiting.popitem()[1]

    def _given_up(self) -> bool:
        """Whether the question at hand has taken too long since this was closed."""
        return self._over_at is not None and time.monotonic() > self._over_at + PATIENCE_S

    def close(self) -> None:
        """Stop; the question at hand is answered, or given up when it takes too long."""
        with self._wake:
            self._over_at = time.monotonic()
            self._wake.notify()
        self.part()
