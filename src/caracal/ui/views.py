"""The registry of views: what each is called, its key, what one can do in it, and how it is made.

A new view is one entry here, and one menu line of its own by that.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QWidget

from caracal.core.translation import mark, tr
from caracal.ui.aim.view import Aim
from caracal.ui.batch.controller import BatchController
from caracal.ui.batch.view import Batch
from caracal.ui.board.view import Board
from caracal.ui.session import Session
from caracal.ui.words.view import Words


@dataclass(frozen=True)
class Place:
    """What views are made for: an open film, the folder of its files, and the batch list."""

    session: Session
    folder: Path
    working: BatchController


@dataclass(frozen=True)
class View:
    """One view. ``hint`` says what the mouse does there where no button says so.

    ``make`` builds its widget; what belongs to the film is closed by ``close``.
    """

    name: str
    key: str
    hint: str
    make: Callable[[Place], QWidget]
    close: Callable[[QWidget], None] = lambda widget: None


def _close(widget: QWidget) -> None:
    assert isinstance(widget, Aim | Words | Batch)
    widget.close_down()


# Watch (4) takes its key when it exists.
VIEWS = (
    View(mark("Board"), "1", tr("Hover a row to scrub it, double-click a cell to aim"),
         lambda place: Board(place.session)),
    View(mark("Aim"), "2",
         tr("Click somebody to make them lead, drag the lit window, turn the wheel to zoom it"),
         lambda place: Aim(place.session), _close),
    View(mark("Words"), "3",
         tr("Click a caption to go there, drag a title or its corner on a canvas"),
         lambda place: Words(place.session), _close),
    View(mark("Batch"), "5", tr("Click a line to see its proof"),
         lambda place: Batch(place.session, place.folder, place.working), _close),
)


def view(name: str) -> View:
    """Returns the view that is called ``name``."""
    return next(view for view in VIEWS if view.name == name)
