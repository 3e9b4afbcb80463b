"""A trial encode in a process of its own, out of the way: ``python -m caracal.core.batch.trial N``.

Takes a TrialOrder from an open connection and answers with one or two TrialAnswers (msgpack).
"""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Callable
from multiprocessing import Pipe
from multiprocessing.connection import Connection
from pathlib import Path

import msgspec

from caracal.core.analysis.analyse import analyse
from caracal.core.batch.estimate import Estimate, estimate
from caracal.core.errors import CaracalError, Problem, problem_of
from caracal.core.plan import Wanted
from caracal.core.project.model import DrawnBox, ShotStart
from caracal.core.project.shots import as_decided
from caracal.core.time import FrameRange
from caracal.core.work import CancelToken

NICE = 10  # the window and the encoders go first
ASK_S = 0.1


class TrialOrder(msgspec.Struct, frozen=True):
    """One version to try: as a line of the batch list would make it."""

    master: str
    wanted: Wanted
    span: FrameRange
    starts: tuple[ShotStart, ...] = ()
    drawn: tuple[DrawnBox, ...] = ()


class TrialAnswer(msgspec.Struct, frozen=True):
    """What is expected, or why nothing can be; a better answer follows one not the ``last``."""

    estimate: Estimate | None = None
    problem: Problem | None = None
    last: bool = True


def tried(
    order: TrialOrder, cancel: CancelToken, tell: Callable[[Estimate], None] = lambda _: None
) -> Estimate:
    """Try ``order`` in a process of its own; ``tell`` hears a first answer where more is tried.

    Raises what went wrong there, and Cancelled.
    """
    ours, theirs = Pipe()
    with theirs:
        process = subprocess.Popen(
            [sys.executable, "-m", "caracal.core.batch.trial", str(theirs.fileno())],
            pass_fds=[theirs.fileno()])
    try:
        with ours:
            ours.send_bytes(msgspec.msgpack.encode(order))
            while True:
                cancel.check()
                if not ours.poll(ASK_S):
                    continue
                answer = msgspec.msgpack.decode(ours.recv_bytes(), type=TrialAnswer)
                if answer.problem is not None:
                    raise answer.problem.error()
                if answer.estimate is not None and answer.last:
                    return answer.estimate
                if answer.estimate is not None:
                    tell(answer.estimate)
    except (EOFError, ConnectionError) as problem:
        raise CaracalError("The trial encode ended by itself.", order.master,
                           "Try again.") from problem
    finally:
        process.kill()
        process.wait()


def main() -> int:
    """Answer one order."""
    os.nice(NICE)
    line = Connection(int(sys.argv[1]))
    try:
        order = msgspec.msgpack.decode(line.recv_bytes(), type=TrialOrder)
        line.send_bytes(msgspec.msgpack.encode(_answer(order, line)))
    except (EOFError, OSError):
        pass  # nobody wants to know any more
    return 0


def _answer(order: TrialOrder, line: Connection) -> TrialAnswer:
    def tell(first: Estimate) -> None:
        line.send_bytes(msgspec.msgpack.encode(TrialAnswer(first, last=False)))

    try:
        analysis = as_decided(analyse(Path(order.master)), order.starts, order.drawn)
        return TrialAnswer(estimate(analysis, order.wanted, order.span, tell=tell))
    except CaracalError as problem:
        return TrialAnswer(problem=problem_of(problem))


if __name__ == "__main__":
    sys.exit(main())
