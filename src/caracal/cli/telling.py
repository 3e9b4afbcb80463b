"""Stops that are clean, with progress meanwhile, and JSON."""

from __future__ import annotations

import sys
from collections.abc import Callable
from typing import TypeVar

import msgspec

from caracal.cli.progress_bar import ProgressBar
from caracal.core.base.work import CancelToken, Report
from caracal.core.processes.stop_signals import stopped_by_signals

T = TypeVar("T")


def stoppable(work: Callable[[CancelToken, Report], T]) -> T:
    """Run ``work`` so that Ctrl+C and a polite kill stop it cleanly; progress on a terminal."""
    token = CancelToken()
    with stopped_by_signals(token), ProgressBar() as bar:
        return work(token, bar.tell)


def print_json(value: object) -> None:
    """``value`` as one line of JSON on standard output."""
    sys.stdout.write(msgspec.json.encode(value).decode() + "\n")
