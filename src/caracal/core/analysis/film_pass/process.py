"""Reading a film in a process of its own.

A hostile film can end the process that reads it: this one, which nobody misses. What it finds is
kept in the cache; whoever asked takes it from there.
"""

from __future__ import annotations

import signal
import time
from contextlib import suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path

import msgspec

from caracal.core.analysis.film_pass.builder import AnalysisUpdate, Grow, ignore
from caracal.core.analysis.model import Analysis
from caracal.core.base.decoding import decode_msgpack
from caracal.core.base.errors import Cancelled, InputError, Problem, problem_of
from caracal.core.base.logs import keep_log, unforeseen
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Progress, Report
from caracal.core.media.master import Master
from caracal.core.media.probe import probe
from caracal.core.processes.apart import Call, call_apart, ended_by
from caracal.core.processes.children import KILL_AFTER_S, Child
from caracal.core.processes.stop_signals import cancel_on_signals

PROBE_S = 120.0  # to look at what a file is: a network may be slow, a file may be made to hang
ASK_S = 0.1  # how often a stop is noticed


class AnalysisMessage(msgspec.Struct, frozen=True, omit_defaults=True):
    """One message from the process; the last one says how it ended."""

    progress: Progress | None = None
    grown: AnalysisUpdate | None = None
    problem: Problem | None = None
    stopped: bool = False
    done: bool = False

    @property
    def last(self) -> bool:
        """Returns whether nothing follows this message."""
        return self.progress is None and self.grown is None


def probe_apart(path: Path, cancel: CancelToken | None = None) -> Master:
    """What the file at ``path`` is, read in a process of its own.

    Raises like :func:`probe`, InputError when that takes longer than PROBE_S, Cancelled.
    """
    found: Master = call_apart(Call(probe, (path,)), path, cancel=cancel, within_s=PROBE_S)
    return found


def analyse_apart(
    path: Path, report: Report, cancel: CancelToken, grow: Grow = ignore
) -> Analysis:
    """Everything found in the film at ``path``, read in a process of its own.

    ``grow`` is told of shots as they end, in this thread.
    Raises like :func:`analyse`, and InputError when the process was ended by the film.
    """
    # The detectors and all they need: who only looks at what a file is does without.
    from caracal.core.analysis.film_pass.analyse import analysed_before  # noqa: PLC0415

    kept = analysed_before(path)
    if kept is not None:
        return kept
    _analysed(path, report, cancel, grow)
    found = analysed_before(path)
    if found is None:
        raise InputError(tr("The analysis of this film is gone from the cache."), path,
                         tr("Open the film again."))
    return found


def _analysed(path: Path, report: Report, cancel: CancelToken, grow: Grow) -> None:
    """Let a process analyse the film at ``path``. Raises what went wrong there, and Cancelled."""
    ours, theirs = Pipe()
    with theirs:
        process = Child("core.analysis.film_pass.process", theirs, path)
    try:
        told = _heard(ours, process, report, cancel, grow)
    except (EOFError, OSError):
        told = None
    finally:
        ours.close()
        process.end(KILL_AFTER_S)  # it has to leave nothing half-made
    if told is None:
        cancel.check()
        raise ended_by(path, process.exit_code or 0)
    if told.stopped:
        raise Cancelled
    if told.problem is not None:
        raise told.problem.error()


def _heard(
    line: Connection, process: Child, report: Report, cancel: CancelToken, grow: Grow,
) -> AnalysisMessage:
    """The last message of ``process``; it is told to stop when we are."""
    until: float | None = None  # when it is killed: it was asked to stop and did not
    while True:
        if cancel.cancelled and until is None:
            process.terminate()
            until = time.monotonic() + KILL_AFTER_S
        if not line.poll(ASK_S):
            if until is not None and time.monotonic() > until:
                process.end(0)
                raise Cancelled
            continue
        told = decode_msgpack(line.recv_bytes(), AnalysisMessage)
        if told.last:
            return told
        if told.progress is not None:
            report(told.progress)
        if told.grown is not None:
            grow(told.grown)


def main(line: Connection, path: Path) -> int:
    """Analyse the film at ``path``; what is found on the way is told over ``line``."""
    keep_log("analysis")
    cancel = CancelToken()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    cancel_on_signals(cancel, numbers=(signal.SIGTERM,))
    signal.siginterrupt(signal.SIGTERM, False)  # a read that is cut short looks like damage

    def tell(told: AnalysisMessage) -> None:
        with suppress(OSError):
            line.send_bytes(msgspec.msgpack.encode(told))

    try:
        from caracal.core.analysis.film_pass.analyse import analyse  # noqa: PLC0415

        analyse(path, lambda progress: tell(AnalysisMessage(progress=progress)), cancel,
                grow=lambda grown: tell(AnalysisMessage(grown=grown)))
        tell(AnalysisMessage(done=True))
    except Cancelled:
        tell(AnalysisMessage(stopped=True))
    except Exception as problem:  # noqa: BLE001 - the last handler of this process
        tell(AnalysisMessage(problem=problem_of(unforeseen(problem))))
    return 0
