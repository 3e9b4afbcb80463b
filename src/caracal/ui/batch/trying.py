"""Sizes and times to expect, from short trial encodes; a thread waits for their process."""

from __future__ import annotations

import threading
from typing import NamedTuple

from PySide6.QtCore import QThread, Signal

from caracal.core.batch.estimate import Estimate
from caracal.core.batch.trial import TrialOrder, tried
from caracal.core.errors import Cancelled, CaracalError
from caracal.core.work import CancelToken


class Trial(NamedTuple):
    """What to try; ``key`` is told with the answer."""

    key: object
    order: TrialOrder


class Trying(QThread):
    """Tries one version after the other; asking again drops what was asked before."""

    answered = Signal(object, object, bool)  # the key, an Estimate or why there is none; the last?

    def __init__(self) -> None:
        super().__init__()
        self._waiting: list[Trial] = []
        self._now: object = None  # the key of what is tried
        self._wake, self._over = threading.Condition(), False
        self._token = CancelToken()

    def ask(self, trials: list[Trial]) -> None:
        """Try these, and nothing else; one that is being tried goes on."""
        with self._wake:
            if self._now not in [one.key for one in trials]:
                self._token.cancel()
            self._waiting = [one for one in trials if one.key != self._now]
            self._wake.notify()
        if not self.isRunning():
            self.start()

    def run(self) -> None:
        while (trial := self._next()) is not None:
            key = trial.key
            answer: Estimate | str
            try:
                answer = tried(trial.order, self._token,
                               lambda first, key=key: self.answered.emit(key, first, False))
            except Cancelled:
                continue
            except CaracalError as problem:
                answer = problem.sentence()
            self.answered.emit(key, answer, True)

    def _next(self) -> Trial | None:
        with self._wake:
            self._now = None
            while not self._waiting and not self._over:
                self._wake.wait()
            self._token = CancelToken()
            if self._over:
                return None
            trial = self._waiting.pop(0)
            self._now = trial.key
            return trial

    def close(self) -> None:
        """Stop, and wait."""
        with self._wake:
            self._over = True
            self._token.cancel()
            self._wake.notify()
        self.wait()
