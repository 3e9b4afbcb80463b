"""What was solved of an open film's shots: asked for when somebody looks, kept, and forgotten."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QObject, QTimer, Signal

from caracal.core.analysis.model import Analysis
from caracal.core.framing.motion import Motion
from caracal.core.framing.shot_solution import Lost, ShotSolution, unsolved
from caracal.core.framing.why import Alternative
from caracal.core.plan.analysis_source import AnalysisSource
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.services.solver_worker import Key, SolveRequest, SolveResult, SolverWorker

SOON_MS = 15  # results that come together are shown together
LATER_MS = 2000  # and so those that nobody looks at


class Solutions(QObject):
    """Answers at once, with what was solved before if need be; ``changed`` tells of news."""

    changed = Signal()
    failed = Signal(str)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.source: AnalysisSource | None = None  # of the analysis; None while it grows
        self._known: dict[Key, ShotSolution] = {}
        self._latest: dict[tuple[str, int], ShotSolution] = {}
        self._alternatives: dict[Key, tuple[Alternative, ...]] = {}
        self._unsolvable: set[tuple[Key, bool]] = set()  # not asked again
        self._round = 0
        # Found by shot and version, for one project: finding by what was decided takes longer.
        self._at_hand: dict[int, dict[str, ShotSolution]] = {}
        self._at_hand_of: tuple[object, object] = (None, None)
        self._worker = SolverWorker()
        self._worker.answered.connect(self._answered)
        self._worker.failed.connect(self.failed)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self.changed)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(LATER_MS)
        self._later.timeout.connect(self.changed)

    @property
    def busy(self) -> bool:
        """Whether anything is still to come, or to be shown."""
        return self._worker.busy or self._soon.isActive()

    def at_hand(
        self, project: object, analysis: Analysis, cell: tuple[str, int]
    ) -> ShotSolution | None:
        """What was found last for a version's letter and a shot, if nothing changed since."""
        if self._at_hand_of[0] is not project or self._at_hand_of[1] is not analysis:
            self._at_hand, self._at_hand_of = {}, (project, analysis)
        return self._at_hand.get(cell[1], {}).get(cell[0])

    def is_known(self, key: Key) -> bool:
        """Whether ``key`` is solved; nobody is asked for it."""
        return key in self._known

    def known(self, key: Key) -> ShotSolution | None:
        """The solution of ``key``; None while there is none: nobody is asked for it."""
        return self._known.get(key)

    def solution(
        self, key: Key, analysis: Analysis, sheet: SpecSheet, motion: Motion,
        drawn: Mapping[int, Lost], letter: str = "",
    ) -> ShotSolution:
        """The solution of ``key``; while it is solved, the latest one of its shot, or none yet.

        That of a version's ``letter`` is kept :meth:`at_hand`, and stands for others while they are
        solved; without one it is only looked at.
        """
        if key not in self._known:
            self._ask(SolveRequest(key, self._round, analysis, sheet, motion, dict(drawn),
                                   source=self.source))
            if key[:2] not in self._latest:
                self._latest[key[:2]] = unsolved(analysis, key[1], sheet.frame)
            if letter:  # until the next answer comes
                self._at_hand.setdefault(key[1], {})[letter] = self._latest[key[:2]]
            return self._latest[key[:2]]
        if letter:
            self._latest[key[:2]] = self._known[key]
            self._at_hand.setdefault(key[1], {})[letter] = self._known[key]
        return self._known[key]

    def alternatives(
        self, key: Key, analysis: Analysis, sheet: SpecSheet, motion: Motion,
        drawn: Mapping[int, Lost],
    ) -> tuple[Alternative, ...]:
        """The other manners of ``key``'s shot; none while they are solved."""
        if key not in self._alternatives:
            self._ask(SolveRequest(key, self._round, analysis, sheet, motion, dict(drawn), True,
                                   self.source))
        return self._alternatives.get(key, ())

    def _ask(self, request: SolveRequest) -> None:
        if (request.key, request.with_alternatives) not in self._unsolvable:
            self._worker.ask(request)

    def solve_ahead(
        self, key: Key, analysis: Analysis, sheet: SpecSheet, motion: Motion,
        drawn: Mapping[int, Lost],
    ) -> None:
        """Solve ``key`` when nothing that somebody looks at is to be solved."""
        if key not in self._known and (key, False) not in self._unsolvable:
            self._worker.ask_ahead(SolveRequest(key, self._round, analysis, sheet, motion,
                                                dict(drawn), source=self.source))

    @property
    def has_ahead(self) -> bool:
        """Whether anything that nobody looks at is still to be solved."""
        return self._worker.has_ahead

    def _answered(self, result: SolveResult, ahead: bool) -> None:
        self._worker.taken(ahead)
        key = result.question.key
        if result.question.round != self._round:
            return  # about shots or limits of before
        if result.solution is None and result.alternatives is None:
            self._unsolvable.add((key, result.question.with_alternatives))
        if result.solution is not None:
            self._known[key] = result.solution
        if result.alternatives is not None:
            self._alternatives[key] = result.alternatives
        self._at_hand.pop(key[1], None)
        news = self._later if ahead else self._soon
        if not news.isActive():
            news.start()

    def forget(self) -> None:
        """Everything is solved anew; what was stands for it until then."""
        self._round += 1
        self._at_hand.clear()
        self._worker.forget()
        for kept in (self._unsolvable, self._known, self._alternatives):
            kept.clear()

    def forget_shots(self, first: int = 0) -> None:
        """What was solved of shots from ``first`` on stands for nothing: they are others now."""
        self._latest = {key: solution for key, solution in self._latest.items() if key[1] < first}

    def close(self) -> None:
        """Stop, and wait for what is being solved."""
        self._soon.stop()
        self._later.stop()
        self._worker.close()
