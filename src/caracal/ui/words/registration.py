"""Words, as the window knows it."""

from __future__ import annotations

from caracal.core.base.translation import mark, tr
from caracal.ui.session.view import View
from caracal.ui.words.view import Words

WORDS = View(
    mark("Words"), "3", tr("Click a caption to go there, drag a title or its corner on a canvas"),
    lambda place: Words(place.session), close=Words.close_down)
