"""Paths and flags are solved in a process of their own; a thread waits for its answers."""

from __future__ import annotations

import atexit
import threading
import time
from functools import cache

from PySide6.QtCore import Signal

from caracal.core.base.errors import Cancelled
from caracal.core.plan.solution_store import SolutionStore, solution_key
from caracal.core.plan.solver_process import Key, SolveRequest, SolveResult, SolverProcess
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
    """Answers the newest question first: it is what somebody looks at. What nobody looks at yet is
    answered when nothing else waits. What was solved before is read from the film's store."""

    answered = Signal(object, bool)

    def __init__(self) -> None:
        super().__init__()
        self._waiting: dict[tuple[Key, bool], SolveRequest] = {}
        self._ahead: dict[tuple[Key, bool], SolveRequest] = {}  # asked for by nobody yet
        self._stores: dict[str, SolutionStore] = {}
        self._wake = threading.Condition()
        self._over_at: float | None = None
        self._open = 0  # questions whose answer was not taken yet
        self._open_ahead = 0  # and such that nobody asked

    @property
    def busy(self) -> bool:
        """Whether any answer is still to come."""
        return self._open > 0

    def ask(self, question: SolveRequest) -> None:
        """Answer this soon; asking again moves it to the front."""
        with self._wake:
            if self._ahead.pop((question.key, question.with_alternatives), None) is not None:
                self._open_ahead -= 1
            if self._waiting.pop((question.key, question.with_alternatives), None) is None:
                self._open += 1
            self._waiting[question.key, question.with_alternatives] = question
            self._wake.notify()
        if not self.isRunning():
            self.start()

    def ask_ahead(self, question: SolveRequest) -> None:
        """Answer this when nothing else waits; it does not count as work."""
        with self._wake:
            self._open_ahead += (question.key, question.with_alternatives) not in self._ahead
            self._ahead[question.key, question.with_alternatives] = question
            self._wake.notify()
        if not self.isRunning():
            self.start()

    @property
    def has_ahead(self) -> bool:
        """Whether the answer to a question that nobody asked is still to come."""
        return self._open_ahead > 0

    def taken(self, ahead: bool) -> None:
        """Count an answer as taken; ``ahead``: that to a question which nobody had asked."""
        if ahead:
            self._open_ahead -= 1
        else:
            self._open -= 1

    def forget(self) -> None:
        """This drops all questions that still wait."""
        with self._wake:
            self._open -= len(self._waiting)
            self._open_ahead -= len(self._ahead)
            self._waiting.clear()
            self._ahead.clear()

    def work(self) -> None:
        try:
            while (found := self._next()) is not None:
                question, ahead = found
                try:
                    answer = self._answer(question)
                except Cancelled:
                    return
                except Exception as problem:  # noqa: BLE001 - told, and the next one is answered
                    self.tell(problem)
                    answer = SolveResult(question)
                self.answered.emit(answer, ahead)
        finally:
            for store in self._stores.values():
                store.close()
            self._stores.clear()

    def _answer(self, question: SolveRequest) -> SolveResult:
        """The answer, from the film's store if it was found before."""
        source = question.source
        if source is None or question.with_alternatives:
            return _answerer().answer(question, self._given_up)
        _, shot, choice = question.key
        store = self._stores.get(source.content_key)
        if store is None:
            store = self._stores[source.content_key] = SolutionStore(source.content_key)
        key = solution_key(source, shot, question.sheet, choice, question.motion, question.drawn)
        kept = store.get(key)
        if kept is not None:
            return SolveResult(question, kept)
        answer = _answerer().answer(question, self._given_up)
        if answer.solution is not None:
            store.put(key, answer.solution)
        return answer

    def _next(self) -> tuple[SolveRequest, bool] | None:
        """The next question, and whether nobody has asked for it yet; None: it is over."""
        with self._wake:
            while not self._waiting and not self._ahead and self._over_at is None:
                self._wake.wait()
            if self._over_at is not None:
                return None
            if self._waiting:
                return self._waiting.popitem()[1], False
            first = next(iter(self._ahead))
            return self._ahead.pop(first), True

    def _given_up(self) -> bool:
        """Whether the question at hand has taken too long since this was closed."""
        return self._over_at is not None and time.monotonic() > self._over_at + PATIENCE_S

    def close(self) -> None:
        """Stop; the question at hand is answered, or given up when it takes too long."""
        with self._wake:
            self._over_at = time.monotonic()
            self._wake.notify()
        self.part()
