"""Zones drawn over a canvas: covers, clear area, thumbnail cut, edge trim, a plain phone outline.

Told apart by their line and letters first: covers are hatched, the clear area dashed, the thumbnail
cut dotted, what the edge trim takes is crossed out.
"""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from caracal.core.base.translation import tr
from caracal.core.specs.sheet import SpecSheet, Zone
from caracal.core.specs.zones import GRAPHICS_SAFE, safe_areas
from caracal.ui.session.zones_look import ZonesLook
from caracal.ui.widgets import theme

LEAST_LABEL = 46  # pixels: in narrower zones no words are drawn


def rect_of(zone: Zone, canvas: QRectF) -> QRectF:
    """Where ``zone`` lies on a drawn canvas."""
    return QRectF(canvas.left() + zone.left * canvas.width(),
                  canvas.top() + zone.top * canvas.height(),
                  zone.width * canvas.width(), zone.height * canvas.height())


def paint_zones(p: QPainter, sheet: SpecSheet, canvas: QRectF, look: ZonesLook) -> None:
    """Draw the chosen zones of ``sheet`` over a canvas."""
    p.save()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setClipRect(canvas.adjusted(-8, -8, 8, 8))
    if look.covers:
        for cover in sheet.covers:
            _cover(p, cover, rect_of(cover, canvas), look)
    if look.trim and sheet.edge_trim is not None:
        _trim(p, rect_of(sheet.edge_trim, canvas), canvas, look)
    if look.clear:
        for area in reversed(safe_areas(sheet)):  # the outer one last: no line through its name
            _outline(p, tr(area.what), rect_of(area, canvas), look, Qt.PenStyle.DashLine,
                     at_end=area == GRAPHICS_SAFE)
    if look.thumbnail and sheet.thumbnail_cut is not None:
        _outline(p, tr("thumbnail"), rect_of(sheet.thumbnail_cut, canvas), look,
                 Qt.PenStyle.DotLine)
    if look.phone and canvas.height() > canvas.width():
        _phone(p, canvas, look)
    p.restore()


def _ink(look: ZonesLook, share: float = 1.0) -> QColor:
    colour = QColor(look.colour)
    colour.setAlphaF(min(1.0, look.strength * share))
    return colour


def _cover(p: QPainter, zone: Zone, rect: QRectF, look: ZonesLook) -> None:
    p.fillRect(rect, QColor(20, 20, 20, round(150 * look.strength)))
    p.fillRect(rect, QBrush(_ink(look, 0.6), Qt.BrushStyle.BDiagPattern))
    p.setPen(QPen(_ink(look), 1))
    p.drawRect(rect)
    _label(p, tr(zone.what), rect, look)


def _outline(
    p: QPainter, what: str, rect: QRectF, look: ZonesLook, line: Qt.PenStyle, at_end: bool = False
) -> None:
    """A rectangle with its name in the left, or right, upper corner: close ones have both."""
    for width, colour in ((3.0, QColor(0, 0, 0, round(140 * look.strength))), (1.5, _ink(look))):
        pen = QPen(colour, width)
        pen.setStyle(line)
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(rect)
    _label(p, what, rect, look,
           Qt.Corner.TopRightCorner if at_end else Qt.Corner.TopLeftCorner)


def _trim(p: QPainter, kept: QRectF, canvas: QRectF, look: ZonesLook) -> None:
    """What taller phones cut off, at both sides."""
    whole, inner = QPainterPath(), QPainterPath()
    whole.addRect(canvas)
    inner.addRect(kept)
    lost = whole.subtracted(inner)
    p.fillPath(lost, QColor(20, 20, 20, round(170 * look.strength)))
    p.fillPath(lost, QBrush(_ink(look, 0.5), Qt.BrushStyle.DiagCrossPattern))


def _phone(p: QPainter, canvas: QRectF, look: ZonesLook) -> None:
    radius = canvas.width() * 0.09
    outside, screen = QPainterPath(), QPainterPath()
    outside.addRect(canvas)
    screen.addRoundedRect(canvas, radius, radius)
    p.fillPath(outside.subtracted(screen), QColor(theme.GROUND))
    p.setPen(QPen(QColor("#6d6d6d"), 4))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRoundedRect(canvas.adjusted(2, 2, -2, -2), radius, radius)


def _label(
    p: QPainter, words: str, rect: QRectF, look: ZonesLook, corner: Qt.Corner | None = None
) -> None:
    """Words in an upper ``corner`` of ``rect``; without one in its middle."""
    if rect.width() < LEAST_LABEL or rect.height() < 16:
        return
    p.setFont(theme.ui_font(10))
    wide = min(p.fontMetrics().horizontalAdvance(words) + 8, rect.width())
    place = QRectF(rect.left(), rect.top(), wide, theme.scaled(14))
    if corner is None:
        place.moveCenter(rect.center())
    elif corner == Qt.Corner.TopRightCorner:
        place.moveRight(rect.right())
    p.fillRect(place, QColor(20, 20, 20, 190))
    p.setPen(_ink(look, 1.6))
    p.drawText(place, Qt.AlignmentFlag.AlignCenter,
               p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(wide)))
