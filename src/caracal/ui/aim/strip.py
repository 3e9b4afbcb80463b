"""The path strip: time across, window position up; why the window moves as it does."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from caracal.core.framing.path import ShotPath
from caracal.ui import theme
from caracal.ui.session import Session

LEFT, RIGHT, TOP, BOTTOM = 12, 12, 26, 14
BAND = QColor(208, 138, 60, 90)


class PathStrip(QWidget):
    """The shot's path: the lead's extent as a band, the window's edges as lines, keyframes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setFixedHeight(150)
        self.setToolTip("Band: the lead. Between the lines: the window. Diamonds: your keyframes. "
                        "Click or drag to go.")
        for signal in (session.project_changed, session.version_changed):
            signal.connect(self.update)
        session.frame_changed.connect(lambda _: self.update())

    def _path(self) -> ShotPath:
        return self._session.path(self._session.letter, self._session.shot)

    def _x(self, frame: float) -> float:
        path = self._path()
        room = self.width() - LEFT - RIGHT
        return LEFT + (frame - path.start) / max(1, len(path.windows) - 1) * room

    def _y(self, place: float) -> float:
        """Left of the picture is up, so that the strip reads like the picture turned upright."""
        path, active = self._path(), self._session.analysis.active
        share = (place - active[path.axis]) / active[path.axis + 2]
        return TOP + share * (self.height() - TOP - BOTTOM)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event)

    def _go(self, event: QMouseEvent) -> None:
        path = self._path()
        share = (event.position().x() - LEFT) / (self.width() - LEFT - RIGHT)
        frame = path.start + round(share * (len(path.windows) - 1))
        self._session.go(min(max(frame, path.start), path.end - 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), QColor(theme.PANEL))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        path = self._path()
        active = self._session.analysis.active
        low, high = active[path.axis], active[path.axis] + active[path.axis + 2]
        fence = QRectF(LEFT, self._y(low), self.width() - LEFT - RIGHT,
                       self._y(high) - self._y(low))
        p.fillRect(fence, QColor("#1f1f1f"))
        p.setPen(QPen(QColor("#555555"), 1))
        p.drawRect(fence)
        self._band(p, path)
        self._window(p, path)
        self._keyframes(p, path)
        p.setPen(QPen(QColor(theme.ACCENT), 2))
        x = self._x(self._session.frame)
        p.drawLine(QPointF(x, TOP - 6), QPointF(x, self.height() - BOTTOM + 6))
        self._legend(p, path)
        p.end()

    def _band(self, p: QPainter, path: ShotPath) -> None:
        if path.across is None:
            return
        extent = path.across.extent
        seen = [int(i) for i in np.nonzero(~np.isnan(extent[:, 0]))[0]]
        if len(seen) == 0:
            return
        upper = [QPointF(self._x(path.start + i), self._y(extent[i, 0])) for i in seen]
        lower = [QPointF(self._x(path.start + i), self._y(extent[i, 1])) for i in seen]
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(BAND)
        p.drawPolygon(QPolygonF([*upper, *reversed(lower)]))

    def _window(self, p: QPainter, path: ShotPath) -> None:
        index = [one.letter for one in self._session.project.versions].index(self._session.letter)
        near = path.windows[:, path.axis]
        far = near + path.windows[:, path.axis + 2]
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(theme.version_pen(index, 2.0))
        for edge in (near, far):
            points = [QPointF(self._x(path.start + i), self._y(v)) for i, v in enumerate(edge)]
            p.drawPolyline(QPolygonF(points))

    def _keyframes(self, p: QPainter, path: ShotPath) -> None:
        choice = self._session.project.choice(self._session.letter, self._session.shot)
        p.setPen(QPen(QColor(theme.GROUND), 1))
        p.setBrush(QColor(theme.WORDS))
        for key in choice.keyframes:
            x, y = self._x(key.frame), self._y(key.centre[path.axis])
            p.drawPolygon(_diamond(x, y))

    def _legend(self, p: QPainter, path: ShotPath) -> None:
        """What is drawn, above the fence; which side of the picture is up, inside it."""
        index = [one.letter for one in self._session.project.versions].index(self._session.letter)
        x = self._word(p, LEFT, f"Path of {self._session.letter}: {path.manner}", theme.WORDS) + 24
        p.setPen(theme.version_pen(index, 2.0))
        p.drawLine(QPointF(x, 10), QPointF(x + 22, 10))
        p.drawLine(QPointF(x, 16), QPointF(x + 22, 16))
        x = self._word(p, x + 30, "edges of the window", theme.QUIET) + 24
        if path.lead is not None:
            p.fillRect(QRectF(x, 7, 22, 12), BAND)
            x = self._word(p, x + 30, "the lead", theme.QUIET) + 24
        if self._session.project.choice(self._session.letter, self._session.shot).keyframes:
            p.setPen(QPen(QColor(theme.GROUND), 1))
            p.setBrush(QColor(theme.WORDS))
            p.drawPolygon(_diamond(x + 7, 13))
            self._word(p, x + 20, "your keyframes", theme.QUIET)
        sides = ("left side of the picture", "right side") if path.axis == 0 else (
            "top of the picture", "bottom")
        for text, y in zip(sides, (TOP + 2, self.height() - BOTTOM - 18), strict=True):
            self._word(p, LEFT + 6, text, "#6f6f6f", y)

    @staticmethod
    def _word(p: QPainter, x: float, text: str, tint: str, y: float = 4) -> float:
        """Write ``text`` at ``x``; the place where it ends."""
        p.setFont(theme.ui_font(12))
        p.setPen(QColor(tint))
        wide = p.fontMetrics().horizontalAdvance(text)
        p.drawText(QRectF(x, y, wide + 4, 18), Qt.AlignmentFlag.AlignVCenter, text)
        return x + wide


def _diamond(x: float, y: float) -> QPolygonF:
    return QPolygonF([QPointF(x, y - 7), QPointF(x + 7, y), QPointF(x, y + 7), QPointF(x - 7, y)])
