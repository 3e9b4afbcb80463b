"""How long work reports and is stopped: a progress callable and a cancel token."""

from __future__ import annotations

import time
from collections.abc import Callable

import msgspec

from caracal.core.base.errors import Cancelled


class Progress(msgspec.Struct, frozen=True):
    """How far some work is. ``left_s`` is None until there is something to judge it by."""

    doing: str
    done: int
    total: int
    left_s: float | None = None

    @property
    def share(self) -> float:
        """The share of the work that is done, 0 to 1."""
        return self.done / self.total if self.total else 0.0


Report = Callable[[Progress], None]


def no_progress(_: Progress) -> None:
    """Takes progress without telling anybody."""


Check = Callable[[], None]  # called again and again by long work; it may raise to stop it


def unchecked() -> None:
    """Lets work go on."""


class CancelToken:
    """Set from any thread or signal handler; work calls :meth:`check` often (within 200 ms).

    It is a plain flag: an event's lock, held by the very code that a handler interrupts, would wait
    for ever.
    """

    def __init__(self) -> None:
        self._cancelled = False

    def cancel(self) -> None:
        """Asks the work to stop; it does so at its next check."""
        self._cancelled = True

    @property
    def cancelled(self) -> bool:
        """Whether the work was asked to stop."""
        return self._cancelled

    def check(self) -> None:
        """Raise Cancelled when asked to stop."""
        if self._cancelled:
            raise Cancelled


class Pause:
    """Set and cleared from any thread or signal handler; work asks :attr:`on`, and waits."""

    def __init__(self) -> None:
        self._on = False

    @property
    def on(self) -> bool:
        """Whether the work is to wait."""
        return self._on

    def set(self, on: bool) -> None:
        """Let the work wait, or go on."""
        self._on = on


class ProgressReporter:
    """Turns counts into progress with time left, at most a few reports a second."""

    INTERVAL_S = 0.1

    def __init__(self, doing: str, total: int, report: Report, first: int = 0) -> None:
        """``first`` of the ``total`` was done before."""
        self._doing, self._total, self._report, self._first = doing, total, report, first
        self._began = self._last = time.monotonic()

    def at(self, done: int) -> None:
        """Report that ``done`` of the total is finished, if a report is due."""
        now = time.monotonic()
        if now - self._last < self.INTERVAL_S and done < self._total:
            return
        self._last = now
        spent = now - self._began
        here = done - self._first
        left = spent / here * (self._total - done) if here > 0 and spent > 0.3 else None
        self._report(Progress(self._doing, done, self._total, left))


class Control:
    """What may happen to the work from outside: stop all, wait, stop one file."""

    def __init__(self, cancel: CancelToken | None = None, pause: Pause | None = None) -> None:
        self.cancel, self.pause = cancel or CancelToken(), pause or Pause()
        self.stopped: set[int] = set()
