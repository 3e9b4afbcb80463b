"""Solving shots in a process of its own.

The solver is Python for the most part; in a thread it would take turns with the interface's.
Requests and results are pickled. An analysis that is kept is read by the process itself; any other
is sent once.
"""

from __future__ import annotations

import signal
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from multiprocessing.connection import Connection

from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import Cancelled, CaracalError
from caracal.core.base.translation import tr
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.path import shot_path
from caracal.core.framing.shot_solution import Lost, ShotSolution, solve_shot
from caracal.core.framing.why import Alternative, alternatives
from caracal.core.plan.analysis_source import AnalysisSource, read_source
from caracal.core.processes.child_line import ChildGone, ChildLine
from caracal.core.specs.sheet import SpecSheet

WITHIN_S = 600.0  # for one shot: the longest take seconds
Key = tuple[str, int, ShotChoice]  # a sheet's name, a shot, what was decided for it


@dataclass(frozen=True)
class SolveRequest:
    """What to solve; ``round`` tells answers about shots or limits of before from those of now.

    ``with_alternatives`` asks for the rejected manners instead of what is shown. ``analysis`` is
    None on its way to a process that has it, or that reads it from its ``source``.
    """

    key: Key
    round: int
    analysis: Analysis | None
    sheet: SpecSheet
    motion: Motion
    drawn: dict[int, Lost]
    with_alternatives: bool = False
    source: AnalysisSource | None = None


@dataclass(frozen=True)
class SolveResult:
    """What is shown, or the rejected manners; None where it was not asked for."""

    question: SolveRequest
    solution: ShotSolution | None = None
    alternatives: tuple[Alternative, ...] | None = None


Solved = ShotSolution | tuple[Alternative, ...]


def solved(request: SolveRequest, analysis: Analysis) -> Solved:
    """What ``request`` asks for about ``analysis``."""
    _, shot, choice = request.key
    if not request.with_alternatives:
        return solve_shot(
            analysis, shot, request.sheet, choice, request.motion, request.drawn
        )
    return alternatives(analysis, shot, choice, lambda asked: shot_path(
        analysis, shot, request.sheet.frame, asked, request.motion))


class SolverProcess:
    """Asks the process, starting it when it is needed. For any thread, one question at a time."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._line = ChildLine("core.plan.solver_process")
        self._known: Analysis | None = None  # the analysis that the process has

    def answer(
        self, question: SolveRequest, given_up: Callable[[], bool] = lambda: False
    ) -> SolveResult:
        """The answer. Raises CaracalError when it cannot be had, and Cancelled once it is
        ``given_up``: the process is ended then."""
        def message(begun: bool, whole: bool = False) -> SolveRequest:
            known = None if begun else self._known
            self._known = question.analysis
            if question.analysis is known:
                return replace(question, analysis=None, source=None)
            return question if whole or question.source is None else replace(
                question, analysis=None)

        with self._lock:
            try:
                found: Solved | str | None = self._line.ask(message, WITHIN_S, given_up)
                if found is None:  # it is not kept, or the process that had it is gone
                    self._known = None
                    found = self._line.ask(partial(message, whole=True), WITHIN_S, given_up)
            except ChildGone:
                if given_up():
                    raise Cancelled from None
                raise CaracalError(tr("The process that solves paths ended by itself, twice."),
                                   None, tr("Save the project and start Caracal again.")) from None
        if found is None:
            raise CaracalError(tr("The process that solves paths has no film."), None,
                               tr("Save the project and start Caracal again."))
        if isinstance(found, str):
            raise CaracalError(found, None, tr("Undo the last step, or report this sentence."))
        if isinstance(found, ShotSolution):
            return SolveResult(question, solution=found)
        return SolveResult(question, alternatives=found)

    def close(self) -> None:
        """This ends the process; the next question starts it again."""
        with self._lock:
            self._line.close()


def main(line: Connection) -> int:
    """Answer what comes over ``line`` until the other side goes away."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the other side decides, also on Ctrl+C
    analysis = None
    while True:
        try:
            question: SolveRequest = line.recv()
            if question.source is not None:
                analysis = question.analysis or read_source(question.source)
            elif question.analysis is not None:
                analysis = question.analysis
            line.send(None if analysis is None else _answer(question, analysis))
        except (EOFError, OSError):
            return 0


def _answer(question: SolveRequest, analysis: Analysis) -> Solved | str:
    """What is asked for, or why it cannot be had."""
    try:
        return solved(question, analysis)
    except Exception as problem:  # noqa: BLE001 - told in the window, the film stays open
        return tr("Shot {key} could not be solved: {problem}", key=question.key[1] + 1,
                  problem=problem)
