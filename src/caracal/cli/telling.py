"""Stops that are clean, with progress meanwhile, and JSON."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable
from typing import TypeVar

import msgspec

from caracal.cli.progress_bar import ProgressBar
from caracal.core.work import CancelToken, Report

T = TypeVar("T")


def stoppable(work: Callable[[CancelToken, Report], T]) -> T:
    """Run ``work`` so that Ctrl+C and a polite kill stop it cleanly; progress on a terminal."""
    token = CancelToken()
    before = {literal: signal.signal(literal, lambda *_: token.cancel())
              for literal in (signal.SIGINT, signal.SIGTERM)}
    try:
        with ProgressBar() as bar:
            return work(token, bar.tell)
    finally:
        for signals, handler in before.items():
            signal.signal(signals, handler)


def print_json(value: object) -> None:
    """``value`` as one line of JSON on standard output."""
    sys.stdout.write(msgspec.json.encode(value).decode() + "\n")
