"""The Board, as the window knows it."""

from __future__ import annotations

from PySide6.QtCore import QSettings
from PySide6.QtGui import QAccessible

from caracal.core.base.translation import mark, tr
from caracal.ui.board.cell_cursor import words_of_cell
from caracal.ui.board.grid import Grid
from caracal.ui.board.tile_layout import USUAL
from caracal.ui.board.view import Board
from caracal.ui.services.settings import kept_number
from caracal.ui.session.view import Part, Parts, Shell, View


def _connect(board: Board, shell: Shell) -> None:
    board.opened.connect(lambda *_: shell.show_close_up())
    board.grid.verticalScrollBar().valueChanged.connect(shell.activity)


def _keep(settings: QSettings, board: Board) -> None:
    settings.setValue("board/order", board.bar.order.currentIndex())
    settings.setValue("board/only", board.bar.only.currentIndex())
    settings.setValue("board/picture size", board.grid.picture_size)


def _recall(settings: QSettings, board: Board) -> None:
    for box, name in ((board.bar.order, "board/order"), (board.bar.only, "board/only")):
        at = round(kept_number(settings, name, -1.0))
        if 0 <= at < box.count():
            box.setCurrentIndex(at)
    board.grid.picture_size = round(kept_number(settings, "board/picture size", USUAL))


def _select(grid: Grid, number: int) -> None:
    """Select a cell, and look at it."""
    letters = [version.letter for version in grid.session.project.versions]
    row, column = divmod(number, len(letters))
    grid.select(((letters[column], grid.rows[row]),))


def _cell(grid: Grid, number: int) -> Part:
    session = grid.session
    letters = [version.letter for version in session.project.versions]
    row, column = divmod(number, len(letters))
    cell = (letters[column], grid.rows[row])
    return Part(words_of_cell(session, cell, cell in grid.cells),
                grid.cell_rect(cell[1], column + 1), cell in grid.cells)


BOARD = View(
    mark("Board"), "1", tr("Hover a tile to scrub it, double-click a picture to aim"),
    lambda place: Board(place.session), connect=_connect, keep=_keep, recall=_recall,
    gestures=(
        (mark("Hover a tile"), mark("Scrub the shot in all versions")),
        (mark("Click a picture"), mark("Select it")),
        (mark("Ctrl + click, Shift + click"), mark("Select more of them")),
        (mark("Double-click a picture"), mark("Open the shot in Aim")),
        (mark("Ctrl + wheel"), mark("Larger or smaller tiles")),
    ),
    parts={Grid: Parts(QAccessible.Role.Table, QAccessible.Role.Cell, lambda grid: len(
        grid.rows) * len(grid.session.project.versions), _cell,
        press=_select)})
