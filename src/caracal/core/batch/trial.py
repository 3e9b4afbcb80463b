"""A trial encode in a process of its own: ``python -P -m caracal.core.batch.trial``.

Reads a TrialOrder from standard input and writes a TrialAnswer to standard output (msgpack).
"""

from __future__ import annotations

import os
import subprocess
import sys
from contextlib import suppress

import msgspec

from caracal.core.analysis.analyse import analyse
from caracal.core.batch.estimate import Estimate, estimate
from caracal.core.children import command, end_with_parent, environment
from caracal.core.errors import CaracalError, Problem, problem_of
from caracal.core.paths import path_of
from caracal.core.project.recipe import Recipe
from caracal.core.project.shots import decided
from caracal.core.work import CancelToken

NICE = 10  # the window and the encoders go first
ASK_S = 0.1


class TrialOrder(msgspec.Struct, frozen=True):
    """One version to try: as a line of the batch list would make it; ``thorough`` or soon."""

    master: str
    recipe: Recipe
    thorough: bool = True


class TrialAnswer(msgspec.Struct, frozen=True):
    """What is expected, or why nothing can be."""

    estimate: Estimate | None = None
    problem: Problem | None = None


def tried(order: TrialOrder, cancel: CancelToken) -> Estimate:
    """Try ``order`` in a process of its own. Raises what went wrong there, and Cancelled."""
    process = subprocess.Popen(command("core.batch.trial"), env=environment(),
                               stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    data: bytes | None = msgspec.msgpack.encode(order)
    try:
        while True:
            cancel.check()
            try:
                out, _ = process.communicate(data, timeout=ASK_S)
                break
            except subprocess.TimeoutExpired:
                data = None  # it was handed over at the first call
    finally:
        if process.poll() is None:
            process.kill()
            process.communicate()
    if process.returncode or not out:
        raise CaracalError("The trial encode ended by itself.", order.master, "Try again.")
    answer = msgspec.msgpack.decode(out, type=TrialAnswer)
    if answer.estimate is None:
        assert answer.problem is not None
        raise answer.problem.error()
    return answer.estimate


def main() -> int:
    """Answer one order."""
    end_with_parent()
    os.nice(NICE)
    order = msgspec.msgpack.decode(sys.stdin.buffer.read(), type=TrialOrder)
    try:
        analysis = decided(analyse(path_of(order.master)), order.recipe)
        answer = TrialAnswer(estimate(analysis, order.recipe, thorough=order.thorough))
    except CaracalError as problem:
        answer = TrialAnswer(problem=problem_of(problem))
    with suppress(BrokenPipeError):  # who asked is gone
        sys.stdout.buffer.write(msgspec.msgpack.encode(answer))
        sys.stdout.buffer.flush()
    return 0


if __name__ == "__main__":
    sys.exit(main())
