"""The start page's drawing: one wide picture, and the shapes that come out of it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from caracal.core.base.translation import tr
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import letter_badge

SHAPES = ((9, 16), (1, 1), (4, 5))
HIGH = 150
LEAD = 0.62  # where the lead stands in the wide picture, of its width


class Motif(QWidget):
    """A wide picture with a lead and three windows on it; beside it the three canvases."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(620, HIGH + 8)
        self.setAccessibleName(tr("One wide picture; vertical, square and 4:5 versions of it"))

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            wide = QRectF(1, 4, HIGH * 16 / 9, HIGH)
            p.fillRect(wide, QColor(theme.RAISED))
            self._figure(p, wide, wide)
            for i in reversed(range(len(SHAPES))):
                window = self._window(wide, SHAPES[i])
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.setPen(theme.version_pen(i, 1.8))
                p.drawRect(window)
            x = wide.right() + 50
            p.setPen(QPen(QColor(theme.QUIET), 2))
            p.drawLine(QPointF(wide.right() + 16, 79), QPointF(wide.right() + 38, 79))
            p.drawPolyline([QPointF(wide.right() + 32, 73), QPointF(wide.right() + 38, 79),
                            QPointF(wide.right() + 32, 85)])
            for i, (across, down) in enumerate(SHAPES):
                high = HIGH * 0.62 if down == across else HIGH * 0.78 if down == 5 else HIGH
                canvas = QRectF(x, 4, high * across / down, high)
                self._canvas(p, canvas, wide, i)
                x += canvas.width() + 12

    def _window(self, wide: QRectF, shape: tuple[int, int]) -> QRectF:
        width = HIGH * shape[0] / shape[1]
        left = min(max(wide.left() + LEAD * wide.width() - width / 2, wide.left()),
                   wide.right() - width)
        return QRectF(left, wide.top(), width, HIGH)

    def _canvas(self, p: QPainter, canvas: QRectF, wide: QRectF, index: int) -> None:
        p.fillRect(canvas, QColor(theme.RAISED))
        window = self._window(wide, SHAPES[index])
        p.save()
        p.setClipRect(canvas)
        factor = canvas.height() / HIGH
        shown = QRectF(canvas.left() - (window.left() - wide.left()) * factor, canvas.top(),
                       wide.width() * factor, canvas.height())
        self._figure(p, shown, wide)
        p.restore()
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.version_pen(index, 1.8))
        p.drawRect(canvas)
        letter_badge(p, canvas.left() + 6, canvas.top() + 6, "ABC"[index], index)

    @staticmethod
    def _figure(p: QPainter, area: QRectF, wide: QRectF) -> None:
        """A head and shoulders on a horizon, drawn for ``wide`` and shown in ``area``."""
        p.save()
        p.setClipRect(area, Qt.ClipOperation.IntersectClip)
        p.translate(area.topLeft())
        p.scale(area.width() / wide.width(), area.height() / wide.height())
        p.setPen(Qt.PenStyle.NoPen)
        p.fillRect(QRectF(0, 96, wide.width(), 60), QColor("#3a3a3a"))
        middle = LEAD * wide.width()
        p.setBrush(QColor(theme.ACCENT))
        p.drawEllipse(QPointF(middle, 62), 17, 20)
        body = QPainterPath(QPointF(middle - 36, 150))
        body.cubicTo(middle - 34, 92, middle - 14, 88, middle, 88)
        body.cubicTo(middle + 14, 88, middle + 34, 92, middle + 36, 150)
        p.drawPath(body)
        p.restore()
