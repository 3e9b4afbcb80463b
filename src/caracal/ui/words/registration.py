"""Words, as the window knows it."""

from __future__ import annotations

from PySide6.QtCore import QSettings

from caracal.core.base.translation import mark, tr
from caracal.ui.services.settings import kept_bytes, kept_text
from caracal.ui.session.view import View
from caracal.ui.words.view import Words


def _keep(settings: QSettings, words: Words) -> None:
    settings.setValue("words/page", words.side.page)
    settings.setValue("words/halves", words.halves.saveState())


def _recall(settings: QSettings, words: Words) -> None:
    page, halves = kept_text(settings, "words/page"), kept_bytes(settings, "words/halves")
    if page in words.side.tabs:
        words.show_page(page)
    if halves is not None:
        words.halves.restoreState(halves)


WORDS = View(
    mark("Words"), "3", tr("Click a caption to go there, drag a title or its corner on a canvas"),
    lambda place: Words(place.session), close=Words.close_down, keep=_keep, recall=_recall)
