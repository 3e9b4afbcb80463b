"""Finding who speaks in a shot, in a thread of its own."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Signal

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.detectors.mouths import mouth_activity
from caracal.core.analysis.model import Analysis
from caracal.core.base.work import CancelToken
from caracal.core.framing.choice import Swap
from caracal.core.framing.lead import Subject
from caracal.core.framing.swaps import proposed_swaps
from caracal.ui.services.worker import Worker


@dataclass(frozen=True)
class Asked:
    """For which shot and version, and between whom."""

    analysis: Analysis
    letter: str
    shot: int
    people: tuple[Subject, ...]


@dataclass(frozen=True)
class Proposed:
    """The answer to what was asked."""

    asked: Asked
    first: int
    swaps: tuple[Swap, ...]


class SpeakerSwapWorker(Worker):
    """Looks at the mouths of one shot; ``proposed`` carries the request it answers."""

    proposed = Signal(object)

    def __init__(self, asked: Asked) -> None:
        super().__init__()
        self._asked = asked
        self.token = CancelToken()

    def work(self) -> None:
        asked = self._asked
        shot = asked.analysis.shots[asked.shot]
        faces = [subject.face for subject in asked.people if subject.face is not None]
        activity = mouth_activity(AnalysisStore(asked.analysis.content_key).proxy,
                                  asked.analysis, faces, shot.start, shot.end, self.token)
        first, swaps = proposed_swaps(asked.analysis, asked.shot,
                                      [person.id for person in asked.people], activity)
        self.proposed.emit(Proposed(asked, first, swaps))
