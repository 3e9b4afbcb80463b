"""Progress on a terminal, stops that are clean, and JSON."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable
from typing import TypeVar

import msgspec

from caracal.core.time import short_time
from caracal.core.work import CancelToken, Progress, Report

T = TypeVar("T")


def stoppable(work: Callable[[CancelToken, Report], T]) -> T:
    """Run ``work`` so that Ctrl+C and a polite kill stop it cleanly; progress on a terminal."""
    token = CancelToken()
    before = {literal: signal.signal(literal, lambda *_: token.cancel())
              for literal in (signal.SIGINT, signal.SIGTERM)}
    try:
        return work(token, _tell)
    finally:
        for signals, handler in before.items():
            signal.signal(signals, handler)
        if sys.stderr.isatty():
            sys.stderr.write("\r\x1b[K")


def tell_progress(on: bool) -> None:
    """Whether progress is told on a terminal."""
    _telling["progress"] = on


_telling = {"progress": True}


def _tell(progress: Progress) -> None:
    if _telling["progress"] and sys.stderr.isatty():
        left = "" if progress.left_s is None else f", {short_time(progress.left_s)} left"
        sys.stderr.write(f"\r\x1b[K{progress.doing} {progress.share:4.0%}{left}")


def print_json(value: object) -> None:
    """``value`` as one line of JSON on standard output."""
    sys.stdout.write(msgspec.json.encode(value).decode() + "\n")
