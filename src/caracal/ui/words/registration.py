"""Words, as the window knows it."""

from __future__ import annotations

from PySide6.QtCore import QSettings

from caracal.core.base.translation import mark, tr
from caracal.ui.session.view import View
from caracal.ui.widgets.side import keep_side, recall_side
from caracal.ui.words.view import Words


def _keep(settings: QSettings, words: Words) -> None:
    keep_side(settings, "words", words.side, words.halves)


def _recall(settings: QSettings, words: Words) -> None:
    recall_side(settings, "words", words.side, words.halves)


WORDS = View(
    mark("Words"), "3", tr("Click a caption to go there, drag a title or its corner on a canvas"),
    lambda place: Words(place.session), close=Words.close_down, keep=_keep, recall=_recall,
    gestures=(
        (mark("Click a caption"), mark("Go there")),
        (mark("Click the sound"), mark("Go to that frame")),
        (mark("Drag an end of the caption in the sound"), mark("Change its time")),
        (mark("Drag a title or its corner on a canvas"), mark("Move it, change its size")),
    ))
