"""The Board by keyboard: a cell that arrows move, which is the version and shot that is looked at.

It is there while the grid has the keyboard, by Tab; otherwise arrows and Space are the film's.
"""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QAccessible, QAccessibleEvent, QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from caracal.core.base.translation import tr
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

Cell = tuple[str, int]  # a version's letter and a shot

RING = 2  # pixels
STEPS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1),
         Qt.Key.Key_Down: (0, 1), Qt.Key.Key_PageUp: (0, -3), Qt.Key.Key_PageDown: (0, 3)}
# pictures to the side, and rows of tiles
ENDS = {Qt.Key.Key_Home: 0, Qt.Key.Key_End: -1}
OTHERS = {Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape}
MODIFIERS = (Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier)


def words_of_cell(session: Session, cell: Cell, chosen: bool) -> str:
    """What is told of a cell to those who cannot see it."""
    letter, shot = cell
    flags = ", ".join(tr(flag.kind.value) for flag in session.told(letter, shot).flags)
    parts = [tr("Shot {shot}", shot=shot + 1), letter,
             tr("issues: {flags}", flags=flags) if flags else tr("no issues")]
    return ", ".join([*parts, tr("selected")] if chosen else parts)


class CellGrid(Protocol):
    """What the cursor moves over."""

    @property
    def rows(self) -> tuple[int, ...]:
        """The shots in the order of their tiles."""
        ...

    @property
    def across(self) -> int:
        """How many tiles stand side by side."""
        ...

    @property
    def cells(self) -> tuple[Cell, ...]:
        """The chosen cells, the first chosen one first."""
        ...

    def select(self, cells: tuple[Cell, ...]) -> None:
        """Choose ``cells``."""
        ...

    def between(self, first: Cell, last: Cell) -> tuple[Cell, ...]:
        """All cells between two, those among them, the first one first."""
        ...

    def open_cell(self) -> None:
        """Show the cell that is looked at in Aim."""
        ...


class CellCursor:
    """Moves, chooses and opens by keys; says where it is to those who cannot see it."""

    def __init__(self, grid: CellGrid, widget: QWidget, session: Session) -> None:
        self._grid, self._widget, self._session = grid, widget, session
        self._anchor: Cell | None = None  # from which Shift extends

    @property
    def cell(self) -> Cell:
        """The cell it is at."""
        return self._session.letter, self._session.shot

    @staticmethod
    def knows(event: QKeyEvent) -> bool:
        """Whether a key is one of its own."""
        bare = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() in OTHERS:
            return bare == Qt.KeyboardModifier.NoModifier
        return (event.key() in STEPS or event.key() in ENDS) and (
            bare in (Qt.KeyboardModifier.NoModifier, *MODIFIERS))

    def press(self, event: QKeyEvent) -> bool:
        """Do what a key says. Returns whether it was one of its own."""
        if not self.knows(event):
            return False
        if event.key() == Qt.Key.Key_Space:
            self._toggle()
        elif event.key() == Qt.Key.Key_Escape:
            self._grid.select(())
        elif event.key() in OTHERS:
            self._grid.open_cell()
        else:
            self._move(event)
        self.tell()
        return True

    def _toggle(self) -> None:
        rest = tuple(cell for cell in self._grid.cells if cell != self.cell)
        self._grid.select(rest if self.cell in self._grid.cells else (*self._grid.cells, self.cell))
        self._anchor = self.cell

    def _move(self, event: QKeyEvent) -> None:
        session, rows = self._session, self._grid.rows
        letters = [version.letter for version in session.project.versions]
        if not rows:
            return
        before, (letter, shot) = self.cell, self.cell
        row, column = rows.index(shot) if shot in rows else 0, letters.index(letter)
        if event.key() in ENDS:
            row = ENDS[Qt.Key(event.key())] % len(rows)
        else:
            across, down = STEPS[Qt.Key(event.key())]
            if down:
                row = self._row_below(row, down)
            else:  # on to the next tile behind its last picture
                at = row * len(letters) + column + across
                row, column = divmod(min(max(at, 0), len(rows) * len(letters) - 1), len(letters))
        session.choose_version(letters[column])
        session.go(session.analysis.shots[rows[row]].poster_frame)
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            if self._anchor is None or self._anchor[1] not in rows:
                self._anchor = before
            self._grid.select(self._grid.between(self._anchor, self.cell))
        elif not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._anchor = self.cell
            self._grid.select((self.cell,))

    def _row_below(self, number: int, rows: int) -> int:
        """The tile so many ``rows`` below tile ``number``, or the last one there in its column."""
        across, last = self._grid.across, len(self._grid.rows) - 1
        to = number + rows * across
        while to > last:
            to -= across
        while to < 0:
            to += across
        return to

    def paint(self, p: QPainter, rect: QRectF) -> None:
        """Draw its ring round the cell at ``rect``."""
        p.setPen(QPen(QColor(theme.WORDS), RING))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(rect.adjusted(-RING, -RING, RING, RING))

    def tell(self) -> None:
        """Let the grid's accessible name say which cell it is at."""
        self._widget.setAccessibleName(
            words_of_cell(self._session, self.cell, self.cell in self._grid.cells))
        QAccessible.updateAccessibility(
            QAccessibleEvent(self._widget, QAccessible.Event.NameChanged))
