"""Writing what is said, off the interface: a process recognises it, a thread waits for it."""

from __future__ import annotations

from PySide6.QtCore import Signal

from caracal.core.base.work import CancelToken, Progress
from caracal.core.speech.alignment import aligned
from caracal.core.speech.recognition import RecognitionOrder, recognised
from caracal.core.speech.segmenting import cues_of_words
from caracal.ui.services.worker import Worker


class RecognitionWorker(Worker):
    """``written`` carries captions and the language's code; ``progressed`` how far it is.

    With a ``text`` that is known, that text is laid in time by what was heard.
    """

    written = Signal(object, str)
    progressed = Signal(object)

    def __init__(self, order: RecognitionOrder, text: str = "") -> None:
        super().__init__()
        self._order, self._text = order, text
        self.token = CancelToken()

    def work(self) -> None:
        found = recognised(self._order, self._told, self.token)
        words = aligned(self._text, found.words) if self._text.strip() else ()
        cues = cues_of_words(words, found.language) if words else found.cues
        self.written.emit(cues, found.language)

    def _told(self, progress: Progress) -> None:
        self.progressed.emit(progress)
