"""The grid: a row for each shot, a column for each version, every cell the real picture."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea

from caracal.core.framing.flags import Flag
from caracal.core.framing.path import ShotPath
from caracal.core.project.order import Filter, Order, arranged
from caracal.core.time import timecode
from caracal.ui import theme
from caracal.ui.picture_paint import letter_badge, paint_master, paint_version
from caracal.ui.session import Session
from caracal.ui.zones import paint_zones

Cell = tuple[str, int]  # a version's letter and a shot

HEAD = 40
GAP = 16
ABOUT_WIDE = 232  # the words at the left of a row
STATE_HIGH = 22  # a cell's state below its picture
LEAST_HIGH, MOST_HIGH = 120, 260
MOST_KEPT = 48  # painted rows; 0.9 MB each at 1280x800


@dataclass(frozen=True)
class _Same:
    """Cells (path, flags, touched, selected): the same when their paths are the same objects."""

    cells: tuple[tuple[ShotPath, tuple[Flag, ...], bool, bool], ...]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and len(self.cells) == len(other.cells) and all(
            one[0] is two[0] and one[1:] == two[1:]
            for one, two in zip(self.cells, other.cells, strict=True))

    __hash__ = None  # type: ignore[assignment]


class Grid(QAbstractScrollArea):
    """Hover scrubs a row in all versions; click selects; double click opens Aim."""

    opened = Signal()
    selected = Signal(object)  # cells (letter, shot), the first chosen one first

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._hover: tuple[int, int] | None = None  # shot, frame
        self._how = (Order.FILM, Filter.ALL)
        self._rows: tuple[int, ...] = ()  # shots from top to bottom
        self._row_of: dict[int, int] = {}
        self._kept: OrderedDict[int, tuple[object, QPixmap]] = OrderedDict()  # painted rows
        self._layout: tuple[float, list[tuple[float, float]]] = (0.0, [])
        self._cells: tuple[Cell, ...] = ()
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.viewport().setMouseTracking(True)
        self.setMouseTracking(True)
        session.shown_changed.connect(self._changed)
        session.version_changed.connect(self.viewport().update)
        session.zones_changed.connect(self.viewport().update)
        session.frame_changed.connect(self._follow)
        session.pictures.arrived.connect(lambda _: self.viewport().update())
        self._changed()

    def arrange(self, order: Order, only: Filter) -> None:
        """Sort and filter the rows."""
        self._how = (order, only)
        self._changed()
        self.verticalScrollBar().setValue(0)

    def _changed(self) -> None:
        session, count = self._session, len(self._session.analysis.shots)
        self._rows = arranged(session.project, count, *self._how, session.flags)
        self._row_of = {shot: row for row, shot in enumerate(self._rows)}
        shown = set(self._rows)
        self._select(tuple(one for one in self._cells if one[1] in shown))
        self._measure()
        self.viewport().update()

    def _select(self, cells: tuple[Cell, ...]) -> None:
        if cells != self._cells:
            self._cells = cells
            self.selected.emit(cells)

    def _ratios(self) -> list[float]:
        versions = self._session.project.versions
        return [16 / 9, *(float(self._session.sheet(one.letter).shape.ratio) for one in versions)]

    def _high(self) -> float:
        """Height of the pictures."""
        return self._layout[0]

    def _row_high(self) -> float:
        return self._high() + STATE_HIGH + GAP

    def _columns(self) -> list[tuple[float, float]]:
        """Left and width of the master's and each version's column."""
        return self._layout[1]

    def _laid_out(self) -> tuple[float, list[tuple[float, float]]]:
        """Pictures as large as the width allows, three rows and a bit at least."""
        ratios = self._ratios()
        room = self.viewport().width() - ABOUT_WIDE - GAP * (len(ratios) + 2)
        tall = (self.viewport().height() - HEAD) / 3.3 - STATE_HIGH - GAP
        high = min(max(min(room / sum(ratios), tall), LEAST_HIGH), MOST_HIGH)
        at, found = float(GAP + ABOUT_WIDE), []
        spare = self.viewport().width() - at - sum(high * ratio for ratio in ratios)
        step = min(max(GAP, spare / (len(ratios) + 1)), 4 * GAP)
        for ratio in ratios:
            found.append((at, high * ratio))
            at += high * ratio + step
        return high, found

    def cell_rect(self, shot: int, column: int) -> QRectF:
        """Where a cell's picture is on the viewport; column 0 is the master, then versions.

        Empty for a shot that is filtered out.
        """
        row = self._row_of.get(shot)
        if row is None:
            return QRectF()
        left, wide = self._columns()[column]
        top = HEAD + row * self._row_high() - self.verticalScrollBar().value()
        return QRectF(left, top, wide, self._high())

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._measure()

    def _measure(self) -> None:
        self._layout = self._laid_out()
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
            shot = self._session.analysis.shots[found[0]]
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
            letter = self._session.project.versions[column - 1].letter
            self._pick((letter, shot), event.modifiers())
            self._session.choose_version(letter)
        else:
            self._select(())
        self._session.go(self._session.analysis.shots[shot].telling_frame)
        self.viewport().update()

    def _pick(self, cell: Cell, keys: Qt.KeyboardModifier) -> None:
        """Alone; with Ctrl in or out of the others; with Shift all cells from the first to it."""
        if keys & Qt.KeyboardModifier.ControlModifier:
            rest = tuple(one for one in self._cells if one != cell)
            self._select(rest if cell in self._cells else (*self._cells, cell))
        elif keys & Qt.KeyboardModifier.ShiftModifier and self._cells:
            self._select(self._between(self._cells[0], cell))
        else:
            self._select((cell,))

    def _between(self, first: Cell, last: Cell) -> tuple[Cell, ...]:
        letters = [one.letter for one in self._session.project.versions]
        columns = sorted((letters.index(first[0]), letters.index(last[0])))
        rows = sorted((self._rows.index(first[1]), self._rows.index(last[1])))
        cells = [(letter, shot) for shot in self._rows[rows[0] : rows[1] + 1]
                 for letter in letters[columns[0] : columns[1] + 1]]
        return (first, *(one for one in cells if one != first))

    def select(self, cells: tuple[Cell, ...]) -> None:
        """Select those of ``cells`` that are shown."""
        self._select(tuple(one for one in cells if one[1] in self._rows))
        self.viewport().update()

    def select_all(self) -> None:
        """Every cell that is shown."""
        self._select(tuple((one.letter, shot) for shot in self._rows
                           for one in self._session.project.versions))
        self.viewport().update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._at(event.position()) is not None:
            self.opened.emit()

    def _follow(self, _: int) -> None:
        rect = self.cell_rect(self._session.shot, 0)
        if rect.isEmpty():
            return
        bar = self.verticalScrollBar()
        if rect.top() < HEAD:
            bar.setValue(round(bar.value() + rect.top() - HEAD))
        elif rect.bottom() + STATE_HIGH > self.viewport().height():
            lower = rect.bottom() + STATE_HIGH + GAP - self.viewport().height()
            bar.setValue(round(bar.value() + lower))
        self.viewport().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self.viewport())
        p.fillRect(self.viewport().rect(), QColor(theme.GROUND))
        first = max(0, int(self.verticalScrollBar().value() // self._row_high()))
        last = first + int(self.viewport().height() // self._row_high()) + 2
        for shot in self._rows[first:last]:
            if self._hover is not None and self._hover[0] == shot:
                self._row(p, shot)
            else:
                self._kept_row(p, shot)
        if not self._rows:
            p.setPen(QColor(theme.QUIET))
            p.setFont(theme.ui_font(15))
            p.drawText(self.viewport().rect(), Qt.AlignmentFlag.AlignCenter,
                       f"No shot is here: {self._how[1]}. Nothing to look after.")
        self._head(p)
        p.end()

    def _head(self, p: QPainter) -> None:
        p.fillRect(QRectF(0, 0, self.viewport().width(), HEAD - 8), QColor(theme.PANEL))
        p.setPen(QColor(theme.QUIET))
        p.setFont(theme.ui_font(12))
        line = Qt.AlignmentFlag.AlignVCenter
        p.drawText(QRectF(GAP, 0, ABOUT_WIDE, HEAD - 8), line,
                   "Shot, and why its window rests or moves")
        left, wide = self._columns()[0]
        p.drawText(QRectF(left, 0, wide, HEAD - 8), line, "Master")
        for i, version in enumerate(self._session.project.versions):
            left, _ = self._columns()[i + 1]
            letter_badge(p, left, 7, version.letter, i)
            p.setPen(QColor(theme.WORDS))
            p.drawText(QRectF(left + 27, 0, 90, HEAD - 8), line,
                       str(self._session.sheet(version.letter).shape))

    def _kept_row(self, p: QPainter, shot: int) -> None:
        """A row that rests is painted once, and again when anything in it changes."""
        top = self.cell_rect(shot, 0).top() - 6
        key, kept = self._row_key(shot), self._kept.get(shot)
        if kept is None or kept[0] != key:
            scale = self.devicePixelRatioF()
            picture = QPixmap(round(self.viewport().width() * scale),
                              round(self._row_high() * scale))
            picture.setDevicePixelRatio(scale)
            picture.fill(QColor(theme.GROUND))
            inside = QPainter(picture)
            inside.translate(0, -top)
            self._row(inside, shot)
            inside.end()
            kept = (key, picture)
        self._kept[shot] = kept
        self._kept.move_to_end(shot)
        while len(self._kept) > MOST_KEPT:
            self._kept.popitem(last=False)
        p.drawPixmap(QPointF(0, top), kept[1])

    def _row_key(self, shot: int) -> object:
        """All that a row shows."""
        session = self._session
        letters = [one.letter for one in session.project.versions]
        cells = tuple((session.path(letter, shot), session.flags(letter, shot),
                       session.project.choice(letter, shot).touched,
                       (letter, shot) in self._cells) for letter in letters)
        there = session.pictures.small(session.analysis.shots[shot].telling_frame) is not None
        return (_Same(cells), session.zones, shot == session.shot, session.letter, there,
                self.viewport().width(), self._layout[0], self.devicePixelRatioF())

    def _row(self, p: QPainter, shot: int) -> None:
        session, found = self._session, self._session.analysis.shots[shot]
        hovered = self._hover is not None and self._hover[0] == shot
        frame = self._hover[1] if self._hover is not None and hovered else None
        master = self.cell_rect(shot, 0)
        if shot == session.shot:
            band = QRectF(0, master.top() - 6, self.viewport().width(), self._row_high() - 4)
            p.fillRect(band, QColor("#272727"))
            p.fillRect(QRectF(0, band.top(), 3, band.height()), QColor(theme.ACCENT))
        self._about(p, shot, QRectF(GAP, master.top(), ABOUT_WIDE - GAP, master.height()))
        paint_master(p, session, frame, master, found.telling_frame)
        if frame is not None:
            x = master.left() + (frame - found.start) / found.frames * master.width()
            p.setPen(QPen(QColor(theme.ACCENT), 2))
            p.drawLine(QPointF(x, master.bottom() - 8), QPointF(x, master.bottom()))
        for i, version in enumerate(session.project.versions):
            rect = self.cell_rect(shot, i + 1)
            paint_version(p, session, version.letter, frame, rect, found.telling_frame)
            paint_zones(p, session.sheet(version.letter), rect, session.zones)
            if shot == session.shot and version.letter == session.letter:
                p.setPen(QPen(QColor(theme.ACCENT), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(rect.adjusted(-2, -2, 2, 2))
            if (version.letter, shot) in self._cells:
                self._tick(p, rect)
            self._state(p, shot, version.letter, rect)

    @staticmethod
    def _tick(p: QPainter, rect: QRectF) -> None:
        """The mark of a selected cell: a folded corner with a tick in it."""
        corner = rect.topRight()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(theme.ACCENT))
        p.drawPolygon(QPolygonF([corner, corner + QPointF(-30, 0), corner + QPointF(0, 30)]))
        p.setPen(QPen(QColor("#1b1510"), 2))
        p.drawPolyline(QPolygonF([corner + QPointF(-14, 8), corner + QPointF(-10, 12),
                                  corner + QPointF(-4, 5)]))

    def _about(self, p: QPainter, shot: int, area: QRectF) -> None:
        session, found = self._session, self._session.analysis.shots[shot]
        words = session.told(session.letter, shot)
        rate = session.analysis.master.rate
        p.setPen(QColor(theme.WORDS))
        p.setFont(theme.ui_font(20, bold=True))
        p.drawText(QRectF(area.left(), area.top() - 4, 50, 28), 0, f"{shot + 1}")
        p.setFont(theme.ui_font(12))
        p.setPen(QColor(theme.QUIET))
        length = f"{found.frames / session.rate:.1f} s, {found.transition_in}"
        p.drawText(QRectF(area.left() + 40, area.top() - 1, 190, 18), 0,
                   f"{timecode(found.start, rate)}   {length}")
        p.setPen(QColor(theme.WORDS))
        p.setFont(theme.ui_font(13, bold=True))
        lead = words.lead
        p.drawText(QRectF(area.left(), area.top() + 26, area.width(), 20), 0, lead.capitalize())
        p.setFont(theme.ui_font(13))
        p.setPen(QColor(theme.QUIET))
        p.drawText(QRectF(area.left(), area.top() + 48, area.width(), area.height() - 48),
                   Qt.TextFlag.TextWordWrap, words.why)

    def _state(self, p: QPainter, shot: int, letter: str, rect: QRectF) -> None:
        """Shape and word: a ring for auto, a square for touched, a triangle for flagged."""
        flags = self._session.flags(letter, shot)
        x, y = rect.left() + 5, rect.bottom() + 12
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        if flags:
            p.setBrush(QColor(theme.BAD))
            p.drawPolygon(QPolygonF([QPointF(x - 5, y + 4), QPointF(x + 5, y + 4),
                                     QPointF(x, y - 5)]))
            word, tint = str(flags[0].kind), theme.BAD
        elif self._session.project.choice(letter, shot).touched:
            p.setBrush(QColor(theme.ACCENT))
            p.drawRect(QRectF(x - 4, y - 4, 8, 8))
            word, tint = "touched", theme.ACCENT
        else:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(QColor(theme.QUIET), 1.6))
            p.drawEllipse(QPointF(x, y), 3.6, 3.6)
            word, tint = "auto", theme.QUIET
        manner = self._session.path(letter, shot).manner
        p.setPen(QColor(tint))
        p.setFont(theme.ui_font(12))
        words = f"{word} · {manner}" if rect.width() > 110 else word
        p.drawText(QRectF(x + 9, y - 9, max(rect.width() + 20, 80), 18),
                   Qt.AlignmentFlag.AlignVCenter, words)
