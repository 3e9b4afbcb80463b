"""A trial encode in a process of its own, which takes a TrialOrder and tells a TrialAnswer."""

from __future__ import annotations

import os
from contextlib import suppress
from multiprocessing import Pipe
from multiprocessing.connection import Connection

import msgspec

from caracal.core.analysis.analyse import analyse
from caracal.core.batch.estimate import Estimate, estimate
from caracal.core.children import Child
from caracal.core.errors import CaracalError, Problem, problem_of
from caracal.core.paths import path_of
from caracal.core.project.recipe import Recipe
from caracal.core.project.shots import decided
from caracal.core.translation import tr
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
    ours, theirs = Pipe()
    with theirs:
        process = Child("core.batch.trial", theirs, order)
    try:
        cancel.check()
        while not ours.poll(ASK_S):
            cancel.check()
        answer: TrialAnswer = ours.recv()
    except (EOFError, OSError):
        raise CaracalError(tr("The trial encode ended by itself."), order.master,
                           tr("Try again.")) from None
    finally:
        ours.close()
        process.end(0)
    if answer.estimate is None:
        assert answer.problem is not None
        raise answer.problem.error()
    return answer.estimate


def main(line: Connection, order: TrialOrder) -> int:
    """Answer one order over ``line``."""
    os.nice(NICE)
    try:
        analysis = decided(analyse(path_of(order.master)), order.recipe)
        answer = TrialAnswer(estimate(analysis, order.recipe, thorough=order.thorough))
    except CaracalError as problem:
        answer = TrialAnswer(problem=problem_of(problem))
    with suppress(OSError):  # who asked is gone
        line.send(answer)
    return 0
