"""Processes of our own: how they are started, and how they end with whoever started them."""

from __future__ import annotations

import ctypes
import os
import signal
import sys

QUIET = {  # nothing of these is wanted: no report leaves the machine, one pool of threads is enough
    "ORT_DISABLE_TELEMETRY": "1", "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1",
}
PARENT = "CARACAL_PARENT"  # the variable that names who started a process
PR_SET_PDEATHSIG = 1  # prctl(2)


def command(module: str, *arguments: str) -> list[str]:
    """What starts ``module`` of this program, whatever lies in the current folder: with ``-P``
    nothing is imported from there."""
    return [sys.executable, "-P", "-m", f"caracal.{module}", *arguments]


def environment() -> dict[str, str]:
    """The environment of a process of ours; its own children import nothing odd either."""
    return {**os.environ, **QUIET, "PYTHONSAFEPATH": "1", PARENT: str(os.getpid())}


def end_with_parent(parent: int | None = None) -> None:
    """Let this process be killed when the one that started it goes away, however it goes.

    ``parent`` is its process id, if :func:`environment` did not tell: it may have gone away while
    this process was still importing what it needs.
    """
    expected = parent or int(os.environ.get(PARENT, os.getppid()))
    ctypes.CDLL(None, use_errno=True).prctl(PR_SET_PDEATHSIG, signal.SIGKILL, 0, 0, 0)
    if os.getppid() != expected:
        os.kill(os.getpid(), signal.SIGKILL)
