"""Paths and flags are solved in a thread of their own, so that the window never waits for them."""

from __future__ import annotations

import threading
from dataclasses import dataclass

from PySide6.QtCore import QThread, Signal

from caracal.core.analysis.model import Analysis
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.path import shot_path
from caracal.core.framing.shown import Lost, Shown, shown
from caracal.core.framing.why import Alternative, alternatives
from caracal.core.specs.sheet import SpecSheet

Key = tuple[str, int, ShotChoice]  # a sheet's name, a shot, what was decided for it


@dataclass(frozen=True)
class Question:
    """What to solve; ``round`` tells answers about shots or limits of before from those of now.

    ``others`` asks for the rejected manners as well as what is shown.
    """

    key: Key
    round: int
    analysis: Analysis
    sheet: SpecSheet
    motion: Motion
    drawn: dict[int, Lost]
    others: bool = False


@dataclass(frozen=True)
class Answer:
    """What is shown, or the rejected manners; None where it was not asked for."""

    question: Question
    shown: Shown | None = None
    others: tuple[Alternative, ...] | None = None


def solved(one: Question) -> Answer:
    """The answer to a question."""
    _, shot, choice = one.key
    if not one.others:
        return Answer(one, shown(one.analysis, shot, one.sheet, choice, one.motion, one.drawn))
    return Answer(one, others=alternatives(
        one.analysis, shot, choice,
        lambda asked: shot_path(one.analysis, shot, one.sheet.frame, asked, one.motion)))


class Solving(QThread):
    """Answers the newest question first: it is what somebody looks at."""

    answered = Signal(object)
    failed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._waiting: dict[tuple[Key, bool], Question] = {}
        self._wake = threading.Condition()
        self._over = False
        self._open = 0  # questions whose answer was not taken yet

    @property
    def busy(self) -> bool:
        """Whether any answer is still to come."""
        return self._open > 0

    def ask(self, question: Question) -> None:
        """Answer this soon; asking again moves it to the front."""
        with self._wake:
            if self._waiting.pop((question.key, question.others), None) is None:
                self._open += 1
            self._waiting[question.key, question.others] = question
            self._wake.notify()
        if not self.isRunning():
            self.start()

    def taken(self) -> None:
        """An answer was taken."""
        self._open -= 1

    def forget(self) -> None:
        """Drop all that waits."""
        with self._wake:
            self._open -= len(self._waiting)
            self._waiting.clear()

    def run(self) -> None:
        while (question := self._next()) is not None:
            try:
                answer = solved(question)
            except Exception as problem:  # noqa: BLE001 - told in the window, the film stays open
                self.failed.emit(f"Shot {question.key[1] + 1} could not be solved: {problem}")
                answer = Answer(question)
            self.answered.emit(answer)

    def _next(self) -> Question | None:
        with self._wake:
            while not self._waiting and not self._over:
                self._wake.wait()
            return None if self._over else self._waiting.popitem()[1]

    def close(self) -> None:
        """Stop, and wait for the question at hand."""
        with self._wake:
            self._over = True
            self._wake.notify()
        self.wait()
