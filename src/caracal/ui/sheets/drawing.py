"""The live drawing of a canvas with its zones, which can be dragged by their middle or edges."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from caracal.core.base.translation import tr
from caracal.core.specs.sheet import SpecSheet, Zone
from caracal.ui.session.zones_look import ZonesLook
from caracal.ui.widgets import theme
from caracal.ui.widgets.zones import paint_zones, rect_of

REACH = 7.0  # pixels from an edge that take hold of it
LEAST = 0.02  # of the canvas: no zone is smaller
STEPS = 200  # a canvas has so many places: zones lie at halves of a percent
ALL = ZonesLook(covers=True, clear=True, thumbnail=True, trim=False, strength=0.8)
MARGIN = 24


@dataclass(frozen=True)
class Handle:
    """What is dragged: a zone's place in the sheet, and which of its sides move."""

    field: str  # covers, clear, thumbnail_cut or edge_trim
    number: int
    sides: tuple[bool, bool, bool, bool]  # left, top, right, bottom; all: the whole zone


class Drawing(QWidget):
    """Shows ``sheet``; dragging a zone emits the changed sheet."""

    changed = Signal(object)
    chosen_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.sheet: SpecSheet | None = None
        self.chosen: tuple[str, int] | None = None
        self._held: tuple[Handle, QPointF, Zone] | None = None
        self.setMinimumSize(260, 320)
        self.setMouseTracking(True)
        self.setToolTip(tr("Drag a zone, or one of its edges"))

    def show_sheet(self, sheet: SpecSheet) -> None:
        """Draw ``sheet``."""
        self.sheet = sheet
        if self.chosen is not None and self.chosen not in dict(zones_in(sheet)):
            self.chosen = None
        self.update()

    def canvas(self) -> QRectF:
        """Where the canvas is drawn."""
        assert self.sheet is not None
        width, height = self.sheet.canvas
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        scale = min(room.width() / max(1, width), room.height() / max(1, height))
        made = QRectF(0, 0, width * scale, height * scale)
        made.moveCenter(room.center())
        return made

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.sheet is None:
            return
        with QPainter(self) as p:
            canvas = self.canvas()
            p.fillRect(canvas, QColor("#4b4b4b"))
            p.setPen(QPen(QColor("#5d5d5d"), 1))
            for i in (1, 2):  # thirds, to judge places by
                x = canvas.left() + canvas.width() * i / 3
                y = canvas.top() + canvas.height() * i / 3
                p.drawLine(QPointF(x, canvas.top()), QPointF(x, canvas.bottom()))
                p.drawLine(QPointF(canvas.left(), y), QPointF(canvas.right(), y))
            paint_zones(p, self.sheet, canvas, ALL)
            if self.sheet.edge_trim is not None:
                p.setPen(QPen(QColor(theme.QUIET), 1, Qt.PenStyle.DashDotLine))
                p.drawRect(rect_of(self.sheet.edge_trim, canvas))
            found = dict(zones_in(self.sheet)).get(self.chosen) if self.chosen else None
            if found is not None:
                p.setPen(QPen(QColor(theme.ACCENT), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(rect_of(found, canvas))
            p.setPen(QColor(theme.QUIET))
            p.setFont(theme.ui_font(12))
            width, height = self.sheet.canvas
            p.drawText(QRectF(canvas.left(), canvas.bottom() + 3, canvas.width(), theme.scaled(18)),
                       Qt.AlignmentFlag.AlignCenter, f"{width} × {height}, {self.sheet.shape}")

    def handle_at(self, spot: QPointF) -> Handle | None:
        """What a press at ``spot`` takes hold of: the smallest zone there, edges first."""
        if self.sheet is None:
            return None
        canvas = self.canvas()
        near = []
        for (field, number), zone in zones_in(self.sheet):
            rect = rect_of(zone, canvas)
            if rect.adjusted(-REACH, -REACH, REACH, REACH).contains(spot):
                sides = (abs(spot.x() - rect.left()) < REACH, abs(spot.y() - rect.top()) < REACH,
                         abs(spot.x() - rect.right()) < REACH,
                         abs(spot.y() - rect.bottom()) < REACH)
                edge = any(sides)
                near.append(((field, number) != self.chosen, not edge,
                             rect.width() * rect.height(),
                             Handle(field, number, sides if edge else (True,) * 4)))
        return min(near, key=lambda handle: handle[:3])[3] if near else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        handle = self.handle_at(event.position())
        self.chosen = (handle.field, handle.number) if handle else None
        self.chosen_changed.emit()
        if handle is not None and self.sheet is not None:
            zone = dict(zones_in(self.sheet))[handle.field, handle.number]
            self._held = (handle, event.position(), zone)
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None or self.sheet is None:
            handle = self.handle_at(event.position())
            whole = handle is not None and all(handle.sides)
            self.setCursor(Qt.CursorShape.SizeAllCursor if whole else Qt.CursorShape.CrossCursor
                           if handle else Qt.CursorShape.ArrowCursor)
            return
        handle, start, zone = self._held
        canvas = self.canvas()
        moved = event.position() - start
        made = dragged(zone, handle.sides, moved.x() / canvas.width(),
                       moved.y() / canvas.height())
        self.changed.emit(with_zone(self.sheet, (handle.field, handle.number), made))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = None


def zones_in(sheet: SpecSheet) -> list[tuple[tuple[str, int], Zone]]:
    """All zones of a sheet with their places in it."""
    found = [(("covers", i), cover) for i, cover in enumerate(sheet.covers)]
    for field in ("clear", "thumbnail_cut", "edge_trim"):
        zone = getattr(sheet, field)
        if zone is not None:
            found.append(((field, 0), zone))
    return found


def with_zone(sheet: SpecSheet, place: tuple[str, int], zone: Zone | None) -> SpecSheet:
    """``sheet`` with another zone at ``place``; None takes it away, a new number adds one."""
    field, number = place
    if field != "covers":
        return msgspec.structs.replace(sheet, **{field: zone})
    covers = list(sheet.covers)
    covers[number : number + 1] = [] if zone is None else [zone]
    return msgspec.structs.replace(sheet, covers=tuple(covers))


def dragged(zone: Zone, sides: tuple[bool, bool, bool, bool], dx: float, dy: float) -> Zone:
    """``zone`` with its ``sides`` moved by shares of the canvas, inside it and at whole steps."""
    left, right = _moved(zone.left, zone.left + zone.width, sides[0], sides[2], dx)
    top, bottom = _moved(zone.top, zone.top + zone.height, sides[1], sides[3], dy)
    return Zone(zone.what, left, top, round(right - left, 4), round(bottom - top, 4))


def _moved(low: float, high: float, move_low: bool, move_high: bool, by: float) -> (
        tuple[float, float]):
    if move_low and move_high:
        by = min(max(by, -low), 1 - high)
        by = round(by * STEPS) / STEPS
        return round(low + by, 4), round(high + by, 4)
    if move_low:
        low = min(max(round((low + by) * STEPS) / STEPS, 0.0), high - LEAST)
    if move_high:
        high = max(min(round((high + by) * STEPS) / STEPS, 1.0), low + LEAST)
    return round(low, 4), round(high, 4)
