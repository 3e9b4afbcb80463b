"""The grid: a row for each shot, a column for each version, every cell the real picture."""

from __future__ import annotations

import math
import time

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from caracal.core.base.translation import tr
from caracal.core.project.board_order import Filter, Order, arranged
from caracal.ui.board.cell_cursor import Cell, CellCursor
from caracal.ui.board.cell_size import ROWS, Columns, laid_out, next_rows
from caracal.ui.board.head import HEAD, HEAD_GAP, paint_head
from caracal.ui.board.rows import ABOVE, GAP, KeptRows, Row, paint_row, state_high
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

AT_ONCE_S = 0.002  # new rows are painted for so long at a time; the others follow at once


class Grid(QAbstractScrollArea):
    """Hover scrubs a row in all versions; click selects; double click opens Aim."""

    opened = Signal()
    selected = Signal(object)  # cells (letter, shot), the first chosen one first

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._hover: tuple[int, int] | None = None  # shot, frame
        self._how = (Order.FILM, Filter.ALL)
        self._rows: tuple[int, ...] = ()  # shots from top to bottom
        self._row_of: dict[int, int] = {}
        self._kept = KeptRows(session)
        self._rest = QTimer(self)  # rows that were left for the next time
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._go_on)
        self._left: list[int] = []  # shots whose rows were left
        self._layout: tuple[float, Columns] = (0.0, [])
        self._rows_shown = ROWS
        self._cells: tuple[Cell, ...] = ()
        self.cursor_cell = CellCursor(self, self, session)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # a click leaves the keys to the film
        self.setAccessibleName(tr("Board"))
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self.setMouseTracking(True)
        session.solutions_changed.connect(self._changed)
        session.cursor.version_changed.connect(self.viewport().update)
        session.zones_changed.connect(self.viewport().update)
        session.cursor.frame_changed.connect(self._follow)
        session.preview.arrived.connect(self._arrived)
        self._changed()

    def _arrived(self, frame: int) -> None:
        """A picture that a row in sight waits for."""
        number = self.session.analysis.shot_at(frame)
        self._kept.arrived(number)
        if number in self._in_sight():
            self.viewport().update(self._row_rect(number))

    def _go_on(self) -> None:
        """Paint the rows that were left."""
        left, self._left = self._left, []
        for shot in left:
            self.viewport().update(self._row_rect(shot))

    def _row_rect(self, shot: int) -> QRect:
        """All of a shot's row on the viewport; empty if it is filtered out."""
        if shot not in self._row_of:
            return QRect()
        top = self.cell_rect(shot, 0).top() - ABOVE
        return QRectF(0, top, self.viewport().width(), self._row_high()).toAlignedRect()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        """What stays in sight is moved as it is; only what comes into sight is painted."""
        body = self.viewport().rect().adjusted(0, HEAD - HEAD_GAP, 0, 0)
        self.viewport().scroll(dx, dy, body)

    def _in_sight(self) -> tuple[int, ...]:
        """The shots whose rows are on the screen."""
        gone, high = self.verticalScrollBar().value(), self._row_high()
        last = math.ceil((gone + self.viewport().height() - HEAD + ABOVE) / high)
        return self._rows[max(0, int(gone // high)) : last]

    def arrange(self, order: Order, only: Filter) -> None:
        """Sort and filter the rows."""
        self._how = (order, only)
        self._changed()
        self.verticalScrollBar().setValue(0)

    def _changed(self) -> None:
        self._kept.changed()
        session, count = self.session, len(self.session.analysis.shots)
        self._rows = arranged(session.project, count, *self._how, session.flags)
        self._row_of = {shot: row for row, shot in enumerate(self._rows)}
        shown, letters = set(self._rows), {version.letter for version in session.project.versions}
        self._select(tuple(cell for cell in self._cells if cell[1] in shown and cell[0] in letters))
        self._measure()
        self.viewport().update()

    @property
    def cells(self) -> tuple[Cell, ...]:
        """The chosen cells, the first chosen one first."""
        return self._cells

    @property
    def rows(self) -> tuple[int, ...]:
        """The shots from top to bottom."""
        return self._rows

    def open_cell(self) -> None:
        """Show the cell that is looked at in Aim."""
        self.opened.emit()

    def own_keys(self, event: QKeyEvent) -> bool:
        """Whether a key is the grid's own while it has the keyboard."""
        return self.cursor_cell.knows(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.cursor_cell.press(event):
            super().keyPressEvent(event)

    def focusInEvent(self, _: QFocusEvent) -> None:
        self.cursor_cell.tell()
        self.viewport().update()

    def focusOutEvent(self, _: QFocusEvent) -> None:
        self.viewport().update()

    def _select(self, cells: tuple[Cell, ...]) -> None:
        if cells != self._cells:
            self._cells = cells
            self.selected.emit(cells)

    def _ratios(self) -> list[float]:
        versions = self.session.project.versions
        return [16 / 9, *(float(self.session.sheet(version.letter).shape.ratio)
                          for version in versions)]

    def _row_high(self) -> float:
        return self._layout[0] + state_high() + GAP

    def _columns(self) -> Columns:
        """Left and width of the master's and each version's column."""
        return self._layout[1]

    def cell_rect(self, shot: int, column: int) -> QRectF:
        """Where a cell's picture is on the viewport; column 0 is the master, then versions.

        Empty for a shot that is filtered out.
        """
        row = self._row_of.get(shot)
        if row is None:
            return QRectF()
        left, wide = self._columns()[column]
        top = HEAD + row * self._row_high() - self.verticalScrollBar().value()
        return QRectF(left, top, wide, self._layout[0])

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._measure()

    @property
    def rows_shown(self) -> float:
        """How many rows are to be seen at once: cells are larger with fewer."""
        return self._rows_shown

    @rows_shown.setter
    def rows_shown(self, rows: float) -> None:
        bar, above = self.verticalScrollBar(), self.verticalScrollBar().value() / self._row_high()
        self._rows_shown = rows
        self._measure()
        bar.setValue(round(above * self._row_high()))  # the same shot stays on top
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.rows_shown = next_rows(self._rows_shown, event.angleDelta().y() > 0)
            return
        super().wheelEvent(event)

    def _measure(self) -> None:
        self._layout = laid_out(*self.viewport().size().toTuple(), self._ratios(), self._rows_shown)
        whole = HEAD + self._row_high() * len(self._rows)
        bar = self.verticalScrollBar()
        bar.setRange(0, max(0, round(whole - self.viewport().height())))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(round(self._row_high() / 3))

    def _at(self, point: QPointF) -> tuple[int, int] | None:
        """(shot, column) under a point; column -1 is the words."""
        row = int((point.y() + self.verticalScrollBar().value() - HEAD) // self._row_high())
        if point.y() < HEAD or not 0 <= row < len(self._rows):
            return None
        shot = self._rows[row]
        for column in range(len(self._columns())):
            if self.cell_rect(shot, column).contains(point):
                return shot, column
        return shot, -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self._at(event.position())
        self._hover = None
        if found is not None and found[1] >= 0:
            rect = self.cell_rect(*found)
            share = (event.position().x() - rect.left()) / rect.width()
            shot = self.session.analysis.shots[found[0]]
            self._hover = (found[0], shot.start + int(share * (shot.frames - 1)))
        self.viewport().update()

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.viewport().update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._at(event.position())
        if found is None:
            return
        shot, column = found
        if column > 0:
            letter = self.session.project.versions[column - 1].letter
            self._pick((letter, shot), event.modifiers())
            self.session.choose_version(letter)
        else:
            self._select(())
        self.session.go(self.session.analysis.shots[shot].poster_frame)
        self.viewport().update()

    def _pick(self, cell: Cell, keys: Qt.KeyboardModifier) -> None:
        """Alone; with Ctrl in or out of the others; with Shift all cells from the first to it."""
        if keys & Qt.KeyboardModifier.ControlModifier:
            rest = tuple(other for other in self._cells if other != cell)
            self._select(rest if cell in self._cells else (*self._cells, cell))
        elif keys & Qt.KeyboardModifier.ShiftModifier and self._cells:
            self._select(self.between(self._cells[0], cell))
        else:
            self._select((cell,))

    def between(self, first: Cell, last: Cell) -> tuple[Cell, ...]:
        """All cells between two, those among them, the first one first."""
        letters = [version.letter for version in self.session.project.versions]
        columns = sorted((letters.index(first[0]), letters.index(last[0])))
        rows = sorted((self._rows.index(first[1]), self._rows.index(last[1])))
        cells = [(letter, shot) for shot in self._rows[rows[0] : rows[1] + 1]
                 for letter in letters[columns[0] : columns[1] + 1]]
        return (first, *(cell for cell in cells if cell != first))

    def select(self, cells: tuple[Cell, ...]) -> None:
        """Select those of ``cells`` that are shown."""
        self._select(tuple(cell for cell in cells if cell[1] in self._rows))
        self.viewport().update()

    def select_all(self) -> None:
        """Every cell that is shown."""
        self._select(tuple((version.letter, shot) for shot in self._rows
                           for version in self.session.project.versions))
        self.viewport().update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._at(event.position()) is not None:
            self.opened.emit()

    def _follow(self, _: int) -> None:
        rect = self.cell_rect(self.session.shot, 0)
        if rect.isEmpty():
            return
        bar = self.verticalScrollBar()
        if rect.top() < HEAD:
            bar.setValue(round(bar.value() + rect.top() - HEAD))
        elif rect.bottom() + state_high() > self.viewport().height():
            lower = rect.bottom() + state_high() + GAP - self.viewport().height()
            bar.setValue(round(bar.value() + lower))
        self.viewport().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self.viewport()) as p:
            p.fillRect(event.rect(), QColor(theme.GROUND))
            enough = time.perf_counter() + AT_ONCE_S
            for shot in self._in_sight():
                if not event.region().intersects(self._row_rect(shot)):
                    continue
                row = self._row(shot)
                if row.frame is not None:
                    paint_row(p, self.session, row)
                elif not self._kept.paint(p, row, self.devicePixelRatioF(), enough):
                    self._left.append(shot)
                    self._rest.start(0)
            if self.hasFocus():
                letters = [version.letter for version in self.session.project.versions]
                at = 1 + letters.index(self.session.letter)
                self.cursor_cell.paint(p, self.cell_rect(self.session.shot, at))
            if not self._rows:
                p.setPen(QColor(theme.QUIET))
                p.setFont(theme.ui_font(15))
                p.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter,
                           tr("No shot is here: {how}. Nothing to look after.", how=self._how[1]))
            head = QRect(0, 0, self.viewport().width(), HEAD - HEAD_GAP)
            if event.region().intersects(head):
                paint_head(p, self.session, self._columns(), self.viewport().width())

    def _row(self, shot: int) -> Row:
        hover = self._hover
        return Row(shot, tuple(self.cell_rect(shot, i) for i in range(len(self._columns()))),
                   self.viewport().width(), self._row_high(),
                   tuple(letter for letter, at in self._cells if at == shot),
                   hover[1] if hover is not None and hover[0] == shot else None)
