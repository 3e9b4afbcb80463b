"""The views, in the order of their keys. A new view is a folder and a line here."""

from __future__ import annotations

from caracal.ui.aim.registration import AIM
from caracal.ui.batch.registration import BATCH
from caracal.ui.board.registration import BOARD
from caracal.ui.session.view import View
from caracal.ui.sound.registration import SOUND
from caracal.ui.words.registration import WORDS

VIEWS = (BOARD, AIM, WORDS, SOUND, BATCH)  # Watch comes before Batch, and takes its key then
FIRST, CLOSE_UP = BOARD, AIM  # what a film opens in, and where one shot is worked on


def view_called(name: str) -> View:
    """Returns the view that is called ``name``."""
    return next(view for view in VIEWS if view.name == name)
