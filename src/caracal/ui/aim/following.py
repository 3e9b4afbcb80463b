"""Following a drawn box, in a thread of its own."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QThread, Signal

from caracal.core.analysis.boxes import Followed, follow_box
from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.model import Analysis
from caracal.core.errors import Cancelled
from caracal.core.geometry import Box
from caracal.core.logs import unforeseen
from caracal.core.work import CancelToken


@dataclass(frozen=True)
class Drawn:
    """A box drawn at a frame of a shot, in master pixels."""

    analysis: Analysis
    shot: int
    frame: int
    box: Box


class Following(QThread):
    """Follows one box; ``followed`` carries the request and its answer."""

    followed = Signal(object, object)
    failed = Signal(str)

    def __init__(self, drawn: Drawn) -> None:
        super().__init__()
        self._drawn = drawn
        self.token = CancelToken()

    def run(self) -> None:
        one = self._drawn
        proxy = AnalysisStore(one.analysis.content_key).proxy
        try:
            found: Followed = follow_box(
                proxy, one.analysis, one.shot, one.frame, one.box, self.token)
        except Cancelled:
            return
        except Exception as problem:  # noqa: BLE001 - the last handler of this thread
            self.failed.emit(unforeseen(problem).sentence())
        else:
            self.followed.emit(one, found)
