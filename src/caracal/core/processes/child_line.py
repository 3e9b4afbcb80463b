"""A process that answers one message after another."""

from __future__ import annotations

import time
from collections.abc import Callable
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from typing import Any

from caracal.core.processes.children import NICE, Child

ASK_S = 0.2  # how often it is noticed that the line was given up
LONGEST_S = 24 * 3600.0
TRIES = 2  # a process that ends by itself is started again once


class ChildGone(Exception):  # noqa: N818 - it is no error of ours
    """The process ended by itself, twice in a row."""


class ChildLine:
    """The line to a process that runs ``main`` of ``module`` with the line's other end and
    ``arguments``, at a priority lowered by ``nice``; it is started when it is needed. For one
    thread at a time."""

    def __init__(self, module: str, *arguments: object, nice: int = NICE) -> None:
        self._module, self._arguments, self._nice = module, arguments, nice
        self._process: Child | None = None
        self._line: Connection | None = None
        self._over = False

    def ask(
        self, message: Callable[[bool], object], within_s: float = LONGEST_S,
        given_up: Callable[[], bool] = lambda: False,
    ) -> Any:
        """The answer to ``message``, which is told whether the process has only begun.

        A process that does not answer ``within_s``, or once this is ``given_up``, is ended. Raises
        ChildGone.
        """
        for _ in range(TRIES):
            begun = self._line is None
            try:
                line = self._line or self._started()
                line.send(message(begun))
                until = time.monotonic() + within_s
                while not line.poll(ASK_S):
                    if self._over or given_up():
                        self._over = False
                        self.close()
                        raise ChildGone
                    if time.monotonic() > until:
                        raise TimeoutError
                return line.recv()
            except (EOFError, OSError):
                self.close()
        raise ChildGone

    def give_up(self) -> None:
        """Let whoever waits for an answer, or asks next, be told ChildGone; from any thread."""
        self._over = True

    def _started(self) -> Connection:
        ours, theirs = Pipe()
        with theirs:
            self._process = Child(self._module, theirs, *self._arguments, nice=self._nice)
        self._line = ours
        return ours

    def close(self) -> None:
        """End the process; another message starts it again."""
        if self._line is not None:
            self._line.close()
        if self._process is not None:
            self._process.end(0)
        self._line = self._process = None
