"""Sizes and times to expect, from short trial encodes; a thread waits for their process."""

from __future__ import annotations

import threading
from typing import NamedTuple

from PySide6.QtCore import Signal

from caracal.core.base.errors import Cancelled
from caracal.core.base.logs import unforeseen
from caracal.core.base.work import CancelToken
from caracal.core.batch.estimate import Estimate
from caracal.core.batch.trial import TrialOrder, tried
from caracal.ui.services.worker import Worker


class Trial(NamedTuple):
    """What to try; ``key`` is told with the answer."""

    key: object
    order: TrialOrder


class TrialWorker(Worker):
    """Tries one version after the other; asking again drops what was asked before."""

    answered = Signal(object, object)  # the key, an Estimate or the sentence why there is none

    def __init__(self) -> None:
        super().__init__()
        self._waiting: list[Trial] = []
        self._now: Trial | None = None
        self._wake, self._over = threading.Condition(), False
        self._token = CancelToken()

    def ask(self, trials: list[Trial]) -> None:
        """Try these, and nothing else; the first, if it is being tried, goes on."""
        with self._wake:
            if self._now is not None and trials[:1] == [self._now]:
                trials = trials[1:]
            else:
                self._token.cancel()
            self._waiting = list(trials)
            self._wake.notify()
        if not self.isRunning():
            self.start()

    def work(self) -> None:
        while (trial := self._next()) is not None:
            answer: Estimate | str
            try:
                answer = tried(trial.order, self._token)
            except Cancelled:
                continue
            except Exception as problem:  # noqa: BLE001 - it is the answer, and the next is tried
                answer = unforeseen(problem).sentence()
            self.answered.emit(trial.key, answer)

    def _next(self) -> Trial | None:
        with self._wake:
            self._now = None
            while not self._waiting and not self._over:
                self._wake.wait()
            self._token = CancelToken()
            self._now = None if self._over else self._waiting.pop(0)
            return self._now

    def close(self) -> None:
        """Stop the trial that runs."""
        with self._wake:
            self._over = True
            self._token.cancel()
            self._wake.notify()
        self.part()
