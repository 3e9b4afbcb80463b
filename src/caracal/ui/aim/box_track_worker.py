"""Following a drawn box, in a thread of its own."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Signal

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.model import Analysis
from caracal.core.analysis.tracking.box_following import Followed, follow_box
from caracal.core.base.geometry import Box
from caracal.core.base.work import CancelToken
from caracal.ui.services.worker import Worker


@dataclass(frozen=True)
class Drawn:
    """A box drawn at a frame of a shot, in master pixels."""

    analysis: Analysis
    shot: int
    frame: int
    box: Box


class BoxTrackWorker(Worker):
    """Follows one box; ``followed`` carries the request and its answer."""

    followed = Signal(object, object)

    def __init__(self, drawn: Drawn) -> None:
        super().__init__()
        self._drawn = drawn
        self.token = CancelToken()

    def work(self) -> None:
        drawn = self._drawn
        proxy = AnalysisStore(drawn.analysis.content_key).proxy
        found: Followed = follow_box(
            proxy, drawn.analysis, drawn.shot, drawn.frame, drawn.box, self.token)
        self.followed.emit(drawn, found)
