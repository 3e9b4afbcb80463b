"""A function that is called in a process of its own.

Whatever a stranger's film does to the libraries that read it ends that process and no other.
Whoever calls waits no longer than it wants to: a process that hangs is killed.
"""

from __future__ import annotations

import signal
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any, TypeVar

from caracal.core.base.errors import Cancelled, CaracalError, InputError, Problem, problem_of
from caracal.core.base.logs import keep_log, unforeseen
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Progress, Report, no_progress
from caracal.core.processes.children import KILL_AFTER_S, NICE, Child
from caracal.core.processes.stop_signals import cancel_on_signals

T = TypeVar("T")
ASK_S = 0.1  # how often a stop is noticed
LONGEST_S = 24 * 3600.0


@dataclass(frozen=True)
class Call:
    """What the process does: ``function``, of a module, with ``arguments``.

    A ``stoppable`` function takes a report and a cancel token after them, and has ``grace_s`` to
    end by itself before it is killed. ``nice`` lowers its priority (nice(2)); ``memory_bytes``
    limits the memory that it may take, if not None.
    """

    function: Callable[..., Any]
    arguments: tuple[Any, ...]
    stoppable: bool = False
    grace_s: float = KILL_AFTER_S
    nice: int = NICE
    memory_bytes: int | None = None


@dataclass(frozen=True)
class Ended:
    """How the call ended: with a value, a problem, or a stop."""

    value: Any = None
    problem: Problem | None = None
    stopped: bool = False


def call_apart(
    call: Call, file: Path, report: Report = no_progress, cancel: CancelToken | None = None,
    within_s: float = LONGEST_S, blame: Callable[[Path, int], CaracalError] | None = None,
) -> Any:
    """What ``call`` returns in a process of its own; ``file`` is what it reads, for a problem.

    Raises what went wrong there, InputError (or what ``blame`` says of ``file`` and an exit code)
    when the process was ended by ``file`` or took longer than ``within_s``, Cancelled when stopped:
    within 3 s, whatever the process does.
    """
    token = cancel or CancelToken()
    ours, theirs = Pipe()
    with theirs:
        process = Child("core.processes.apart", theirs, call, nice=call.nice)
    ended: Ended | None = None
    try:
        grace_s = call.grace_s if call.stoppable else 0.0
        ended = _heard(ours, process, report, token, time.monotonic() + within_s, grace_s)
    except (EOFError, OSError):
        pass  # it is gone: its exit code says how
    finally:
        ours.close()
        process.end(0 if ended is None else KILL_AFTER_S)
    if ended is None:
        token.check()
        raise (blame or ended_by)(file, process.exit_code or 0)
    if ended.stopped:
        raise Cancelled
    if ended.problem is not None:
        raise ended.problem.error()
    return ended.value


def _heard(
    line: Connection, process: Child, report: Report, token: CancelToken, until: float,
    grace_s: float,
) -> Ended:
    """How the call ended. Raises OSError when its time is over."""
    stopping = False
    while True:
        if token.cancelled and not stopping:
            process.terminate()
            stopping, until = True, min(until, time.monotonic() + grace_s)
        if not line.poll(ASK_S):
            if time.monotonic() > until:
                raise TimeoutError
            continue
        told: Progress | Ended = line.recv()
        if isinstance(told, Ended):
            return told
        report(told)


def ended_by(file: Path, code: int) -> InputError:
    """The error for a process that ended with ``code`` while it read ``file``."""
    why = signal.Signals(-code).name if code < 0 else tr("code {code}", code=code)
    return InputError(tr("The process that read this film crashed ({why}).", why=why), file,
                      tr("The file is damaged: export it again."))


def main(line: Connection, call: Call) -> int:
    """Do ``call`` and tell over ``line`` how it ended."""
    keep_log(call.function.__name__)
    token = CancelToken()
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    cancel_on_signals(token, KILL_AFTER_S, (signal.SIGTERM,))
    signal.siginterrupt(signal.SIGTERM, False)  # a read that is cut short looks like damage
    if call.memory_bytes is not None:
        _limit_memory(call.memory_bytes)

    def tell(told: Progress | Ended) -> None:
        with suppress(OSError):  # whoever asked is gone
            line.send(told)

    more = (tell, token) if call.stoppable else ()
    try:
        tell(Ended(call.function(*call.arguments, *more)))
    except Cancelled:
        tell(Ended(stopped=True))
    except Exception as problem:  # noqa: BLE001 - the last handler of this process
        tell(Ended(problem=problem_of(unforeseen(problem))))
    return 0


def _limit_memory(more_bytes: int) -> None:
    """Let this process take so much memory beyond what it has mapped already."""
    import resource  # noqa: PLC0415 - only few calls are limited

    mapped = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (mapped + more_bytes, mapped + more_bytes))
