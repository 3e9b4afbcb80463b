"""Signals that ask a process to stop. Their handlers do nothing but set plain flags.

A handler runs between any two steps of the code that it interrupts, a second one inside the first:
whatever it needed a lock for could wait for ever.
"""

from __future__ import annotations

import signal
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from caracal.core.base.work import CancelToken

STOPS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)


def cancel_on_signals(
    token: CancelToken, within_s: float | None = None, numbers: tuple[int, ...] = STOPS
) -> dict[int, Any]:
    """Let ``numbers`` cancel ``token``; the handlers of before, by signal.

    ``within_s`` seconds after the first of them the kernel ends this process (SIGALRM), whatever it
    is doing then.
    """
    def stop(*_: object) -> None:
        token.cancel()
        if within_s is not None and not signal.getitimer(signal.ITIMER_REAL)[0]:
            signal.setitimer(signal.ITIMER_REAL, within_s)

    return {number: signal.signal(number, stop) for number in numbers}


@contextmanager
def stopped_by_signals(token: CancelToken) -> Iterator[None]:
    """Inside the block Ctrl+C, a polite kill and the end of the terminal cancel ``token``."""
    before = cancel_on_signals(token)
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)
