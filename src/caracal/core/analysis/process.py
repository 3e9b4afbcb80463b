"""Reading a film in a process of its own.

A hostile film can end the process that reads it: this one, which nobody misses. What it finds is
kept in the cache; whoever asked takes it from there.
"""

from __future__ import annotations

import signal
from contextlib import suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path

import msgspec

from caracal.core.analysis.growing import Grow, Grown, unheard
from caracal.core.analysis.model import Analysis
from caracal.core.children import Child
from caracal.core.decoding import decode_msgpack
from caracal.core.errors import Cancelled, CaracalError, InputError, Problem, problem_of
from caracal.core.logs import keep_log, unforeseen
from caracal.core.media.master import Master
from caracal.core.media.probe import probe
from caracal.core.paths import path_of, text_of
from caracal.core.translation import tr
from caracal.core.work import CancelToken, Progress, Report, silent

ASK_S = 0.1  # how often a stop is noticed
END_S = 5.0  # the process has to leave nothing half-made


class AnalysisRequest(msgspec.Struct, frozen=True):
    """What the process is to read: only what the file is, or all of the film."""

    path: str
    only_look: bool = False


class AnalysisMessage(msgspec.Struct, frozen=True, omit_defaults=True):
    """One message from the process; ``master`` or ``problem`` is the last, or ``done``."""

    progress: Progress | None = None
    grown: Grown | None = None
    master: Master | None = None
    problem: Problem | None = None
    stopped: bool = False
    done: bool = False

    @property
    def last(self) -> bool:
        """Returns whether nothing follows this message."""
        return self.progress is None and self.grown is None


def probe_apart(path: Path) -> Master:
    """What the file at ``path`` is, read in a process of its own. Raises like :func:`look`."""
    told = _asked(AnalysisRequest(text_of(path), only_look=True), silent, CancelToken())
    assert told.master is not None
    return told.master


def analyse_apart(
    path: Path, report: Report, cancel: CancelToken, grow: Grow = unheard
) -> Analysis:
    """Everything found in the film at ``path``, read in a process of its own.

    ``grow`` is told of shots as they end, in this thread.
    Raises like :func:`analyse`, and InputError when the process was ended by the film.
    """
    # The detectors and all they need: who only looks at what a file is does without.
    from caracal.core.analysis.analyse import analyse, analysed_before  # noqa: PLC0415

    kept = analysed_before(path)
    if kept is not None:
        return kept
    _asked(AnalysisRequest(text_of(path)), report, cancel, grow)
    return analysed_before(path) or analyse(path, report, cancel)


def _asked(
    asked: AnalysisRequest, report: Report, cancel: CancelToken, grow: Grow = unheard
) -> AnalysisMessage:
    ours, theirs = Pipe()
    with theirs:
        process = Child("core.analysis.process", theirs)
    try:
        ours.send_bytes(msgspec.msgpack.encode(asked))
        told = _heard(ours, process, report, cancel, grow)
    except (EOFError, OSError):
        told = None
    finally:
        ours.close()
        process.end(END_S)
    if told is None:
        cancel.check()
        raise _ended(asked, process.exit_code or 0)
    if told.stopped:
        raise Cancelled
    if told.problem is not None:
        raise told.problem.error()
    return told


def _heard(
    line: Connection, process: Child, report: Report, cancel: CancelToken, grow: Grow,
) -> AnalysisMessage:
    """The last message of ``process``; it is told to stop when we are."""
    asked_to_stop = False
    while True:
        if cancel.cancelled and not asked_to_stop:
            process.terminate()
            asked_to_stop = True
        if not line.poll(ASK_S):
            continue
        told = decode_msgpack(line.recv_bytes(), AnalysisMessage)
        if told.last:
            return told
        if told.progress is not None:
            report(told.progress)
        if told.grown is not None:
            grow(told.grown)


def _ended(asked: AnalysisRequest, code: int) -> InputError:
    why = signal.Signals(-code).name if code < 0 else tr("code {code}", code=code)
    return InputError(tr("Reading this film ended the process that did it ({why}).", why=why),
                      path_of(asked.path), tr("It is damaged in an unusual way: export it again."))


def main(line: Connection) -> int:
    """Answer the one question that comes over ``line``."""
    keep_log("analysis")
    cancel = CancelToken()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    signal.signal(signal.SIGTERM, lambda *_: cancel.cancel())
    signal.siginterrupt(signal.SIGTERM, False)  # a read that is cut short looks like damage
    asked = decode_msgpack(line.recv_bytes(), AnalysisRequest)

    def tell(told: AnalysisMessage) -> None:
        with suppress(OSError):
            line.send_bytes(msgspec.msgpack.encode(told))

    try:
        if asked.only_look:
            tell(AnalysisMessage(master=probe(path_of(asked.path))))
        else:
            from caracal.core.analysis.analyse import analyse  # noqa: PLC0415

            analyse(
                path_of(asked.path),
                lambda progress: tell(AnalysisMessage(progress=progress)),
                cancel,
                grow=lambda grown: tell(AnalysisMessage(grown=grown)),
            )
            tell(AnalysisMessage(done=True))
    except Cancelled:
        tell(AnalysisMessage(stopped=True))
    except CaracalError as problem:
        tell(AnalysisMessage(problem=problem_of(problem)))
    except Exception as problem:  # noqa: BLE001 - the last handler of this process
        tell(AnalysisMessage(problem=problem_of(unforeseen(problem))))
    return 0
