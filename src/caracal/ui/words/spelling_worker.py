"""Looking through the captions for words that are spelt wrongly, off the interface."""

from __future__ import annotations

from PySide6.QtCore import Signal

from caracal.core.text.spelling import language_of, misspelt
from caracal.ui.services.worker import Worker


class SpellingWorker(Worker):
    """``checked`` carries wrong words with better ones, and the language's code."""

    checked = Signal(object, str)

    def __init__(self, texts: tuple[str, ...], language: str, names: tuple[str, ...]) -> None:
        """``language`` is a code; none: it is found."""
        super().__init__()
        self._texts, self._language, self._names = texts, language, names

    def work(self) -> None:
        language = self._language or language_of(self._texts)
        self.checked.emit(misspelt(self._texts, language, self._names), language)
