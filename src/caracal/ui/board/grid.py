"""The grid: a tile for each shot, in it a picture for each version."""

from __future__ import annotations

import math
import time

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QStatusTipEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QApplication

from caracal.core.base.translation import tr
from caracal.core.project.board_order import Filter, Order, arranged
from caracal.ui.board.cell_cursor import Cell, CellCursor
from caracal.ui.board.hover_card import HoverCard, words_on_hover
from caracal.ui.board.tile_layout import SIZES, USUAL, TileLayout, flow, next_size
from caracal.ui.board.tiles import MARGIN, KeptTiles, Tile, paint_tile
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

AT_ONCE_S = 0.002  # new tiles are painted for so long at a time; the others follow at once


class Grid(QAbstractScrollArea):
    """Hover scrubs a tile in all versions; click selects; double click opens Aim.

    It keeps the order, the layout, the selection and what is painted: too closely tied to part.
    """

    opened = Signal()
    selected = Signal(object)  # cells (letter, shot), the first chosen one first
    resized = Signal(int)  # the height of pictures that is wanted

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._hover: tuple[int, int] | None = None  # shot, frame
        self._how = (Order.FILM, Filter.ALL)
        self._rows: tuple[int, ...] = ()  # shots in the order of their tiles
        self._row_of: dict[int, int] = {}
        self._kept = KeptTiles(session)
        self._rest = QTimer(self)  # tiles that were left for the next time
        self._rest.setSingleShot(True)
        self._rest.timeout.connect(self._go_on)
        self._left: list[int] = []  # shots whose tiles were left
        self._size = USUAL
        self._layout = flow(1, [1.0], USUAL)
        self._card = HoverCard(session, self)
        self._pointed: tuple[int, int] | None = None  # the shot and column under the pointer
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
        """A picture that a tile in sight waits for."""
        number = self.session.analysis.shot_at(frame)
        self._kept.arrived(number)
        if number in self._in_sight():
            self.viewport().update(self._row_rect(number))

    def _go_on(self) -> None:
        """Paint the tiles that were left."""
        left, self._left = self._left, []
        for shot in left:
            self.viewport().update(self._row_rect(shot))

    def _row_rect(self, shot: int) -> QRect:
        """All of a shot's tile on the viewport; empty if it is filtered out."""
        return self._area(shot).toAlignedRect()

    def _area(self, shot: int) -> QRectF:
        """A shot's tile with its margin on the viewport; empty if it is filtered out."""
        if shot not in self._row_of:
            return QRectF()
        layout = self._layout
        x, y = layout.place(self._row_of[shot])
        y -= self.verticalScrollBar().value()
        return QRectF(x - MARGIN, y, layout.wide + 2 * MARGIN, layout.high - MARGIN)

    def _in_sight(self) -> tuple[int, ...]:
        """The shots whose tiles are on the screen."""
        gone, high, across = (self.verticalScrollBar().value(), self._layout.high,
                              self._layout.across)
        last = math.ceil((gone + self.viewport().height()) / high)
        return self._rows[max(0, int(gone // high)) * across : last * across]

    def arrange(self, order: Order, only: Filter) -> None:
        """Sort and filter the tiles."""
        self._how = (order, only)
        self._changed()
        self.verticalScrollBar().setValue(0)

    def _changed(self) -> None:
        self._kept.changed()
        session, count = self.session, len(self.session.analysis.shots)
        self._rows = arranged(session.project, count, *self._how, session.known_flags)
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
        """The shots in the order of their tiles."""
        return self._rows

    @property
    def across(self) -> int:
        """How many tiles stand side by side."""
        return self._layout.across

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
        return [float(self.session.sheet(version.letter).shape.ratio)
                for version in self.session.project.versions]

    @property
    def layout_of_tiles(self) -> TileLayout:
        """The places of the tiles."""
        return self._layout

    def cell_rect(self, shot: int, column: int) -> QRectF:
        """Where a cell's picture is on the viewport; column 0 is the master, then versions.

        Empty for a shot that is filtered out, and for the master where it is not shown.
        """
        area, layout = self._area(shot), self._layout
        left, wide = layout.pictures[column]
        if area.isEmpty() or not wide:
            return QRectF()
        return QRectF(area.left() + MARGIN + left, area.top() + layout.above, wide,
                      layout.picture_high)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._measure()

    @property
    def picture_size(self) -> int:
        """The height of pictures that is wanted, in pixels: one of the sizes of tiles."""
        return self._size

    @picture_size.setter
    def picture_size(self, size: int) -> None:
        if size == self._size or size not in SIZES:
            return
        bar = self.verticalScrollBar()
        first = int(bar.value() // self._layout.high) * self._layout.across
        self._size = size
        self._measure()
        bar.setValue(round(self._layout.place(first)[1]))  # the same shot stays on top
        self.viewport().update()
        self.resized.emit(size)

    def step_size(self, larger: bool) -> None:
        """Make tiles one size larger or smaller."""
        self.picture_size = next_size(self._size, larger)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.step_size(event.angleDelta().y() > 0)
            return
        super().wheelEvent(event)

    def _measure(self) -> None:
        self._layout = flow(self.viewport().width(), self._ratios(), self._size,
                            theme.word_scale())
        whole = self._layout.whole_high(len(self._rows))
        bar = self.verticalScrollBar()
        bar.setRange(0, max(0, round(whole - self.viewport().height())))
        bar.setPageStep(self.viewport().height())
        bar.setSingleStep(round(self._layout.high / 3))

    def _at(self, point: QPointF) -> tuple[int, int] | None:
        """(shot, column) under a point; column -1 is beside the pictures of a tile."""
        number = self._layout.number_at(point.x(), point.y() + self.verticalScrollBar().value())
        if number is None or number >= len(self._rows):
            return None
        shot = self._rows[number]
        for column in range(len(self._layout.pictures)):
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
        self._show_words(found)
        self.viewport().update()

    def _show_words(self, found: tuple[int, int] | None) -> None:
        """Say in the status line what is under the pointer, and soon in a card with the master."""
        words = "" if found is None else words_on_hover(self.session, *found)
        if found != self._pointed:
            self._pointed = found
            QApplication.sendEvent(self, QStatusTipEvent(words))
        if found is None:
            self._card.leave()
        else:
            frame = self._hover[1] if self._hover is not None else (
                self.session.analysis.shots[found[0]].poster_frame)
            self._card.show_soon(found[0], frame, words, self._row_rect(found[0]))

    def hideEvent(self, event: QHideEvent) -> None:
        """Another view is shown by a key: the card of this one goes, too."""
        super().hideEvent(event)
        self._show_words(None)

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self._show_words(None)
        self.viewport().update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._at(event.position())
        if found is None:
            return
        shot, column = found
        if column > 0:
            letter = self.session.project.versions[column - 1].letter
            self._pick((letter, shot), event.modifiers())
        else:
            self._select(())
        self._go_to(shot, column)
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
        found = self._at(event.position())
        if found is not None:
            self._go_to(*found)
            self._card.leave()
            self.opened.emit()

    def _go_to(self, shot: int, column: int) -> None:
        """Choose the version of a picture, and go to its shot."""
        if column > 0:
            self.session.choose_version(self.session.project.versions[column - 1].letter)
        self.session.go(self.session.analysis.shots[shot].poster_frame)

    def _follow(self, _: int) -> None:
        area = self._area(self.session.shot)
        if area.isEmpty():
            return
        bar = self.verticalScrollBar()
        if area.top() < 0:
            bar.setValue(round(bar.value() + area.top()))
        elif area.bottom() > self.viewport().height():
            bar.setValue(round(bar.value() + area.bottom() - self.viewport().height()))
        self.viewport().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self.viewport()) as p:
            p.fillRect(event.rect(), QColor(theme.GROUND))
            enough = time.perf_counter() + AT_ONCE_S
            for shot in self._in_sight():
                if not event.region().intersects(self._row_rect(shot)):
                    continue
                tile = self._tile(shot)
                if tile.frame is not None:
                    paint_tile(p, self.session, tile)
                elif not self._kept.paint(p, tile, self.devicePixelRatioF(), enough):
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
                           tr("No shots match “{how}”.", how=tr(self._how[1])))

    def _tile(self, shot: int) -> Tile:
        hover, layout = self._hover, self._layout
        return Tile(shot, self._area(shot),
                    tuple(self.cell_rect(shot, i) for i in range(len(layout.pictures))),
                    layout.above, layout.below,
                    tuple(letter for letter, at in self._cells if at == shot),
                    hover[1] if hover is not None and hover[0] == shot else None)
