"""The film line: the whole film as a strip of shots, its sound, the range and the playhead."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QWidget

from caracal.core.analysis.model import PEAKS_A_SECOND, Transition
from caracal.core.time import timecode
from caracal.ui import theme
from caracal.ui.session import Session

STRIP = QRectF(0, 8, 0, 52)
WAVE_TOP, WAVE_HIGH = 62, 26
LEAST_SPAN = 50  # frames visible when zoomed in fully


class FilmLine(QWidget):
    """Click to go, drag to scrub, wheel to zoom in time."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._from, self._span = 0.0, float(session.analysis.master.frames)
        self.setFixedHeight(96)
        self.setMouseTracking(True)
        self.setToolTip("Click to go, drag to scrub, wheel to zoom in time. I and O set the range.")
        session.frame_changed.connect(lambda _: self.update())
        session.project_changed.connect(self.update)
        session.pictures.arrived.connect(lambda _: self.update())

    def _x(self, frame: float) -> float:
        return 12 + (frame - self._from) / self._span * (self.width() - 24)

    def _frame(self, x: float) -> int:
        return int(self._from + (x - 12) / (self.width() - 24) * self._span)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._session.go(self._frame(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._session.go(self._frame(event.position().x()))

    def wheelEvent(self, event: QWheelEvent) -> None:
        frames = float(self._session.analysis.master.frames)
        under = self._frame(event.position().x())
        factor = 0.8 if event.angleDelta().y() > 0 else 1.25
        span = min(frames, max(LEAST_SPAN, self._span * factor))
        share = (under - self._from) / self._span
        self._span = span
        self._from = min(max(0.0, under - share * span), frames - span)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), QColor(theme.PANEL))
        for number in range(len(self._session.analysis.shots)):
            self._shot(p, number)
        self._wave(p)
        self._range(p)
        self._playhead(p)
        p.end()

    def _shot(self, p: QPainter, number: int) -> None:
        shot = self._session.analysis.shots[number]
        left, right = self._x(shot.start), self._x(shot.end)
        if right < 0 or left > self.width():
            return
        box = QRectF(left + 1, STRIP.top(), max(1.0, right - left - 2), STRIP.height())
        image = self._session.pictures.get(shot.telling_frame)
        if image is None:
            p.fillRect(box, QColor(theme.RAISED))
        else:
            whole = STRIP.height() * image.width() / image.height()
            shown = min(box.width(), whole)
            part = image.width() * shown / whole
            source = QRectF((image.width() - part) / 2, 0, part, image.height())
            p.save()
            p.setClipRect(box)
            at = box.left()
            while at < box.right():
                p.drawImage(QRectF(at, box.top(), shown, box.height()), image, source)
                at += shown
            p.restore()
        if shot.transition_in is Transition.DISSOLVE:
            mark = QPolygonF([QPointF(left - 5, 6), QPointF(left + 5, 6), QPointF(left, 14)])
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(QColor(theme.WORDS))
            p.drawPolygon(mark)
        if number == self._session.shot:
            p.setPen(QPen(QColor(theme.ACCENT), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box.adjusted(0, 0, 0, 0))

    def _wave(self, p: QPainter) -> None:
        peaks = self._session.analysis.sound.peaks
        middle = WAVE_TOP + WAVE_HIGH / 2
        p.setPen(QPen(QColor("#8c8c8c"), 1))
        rate = self._session.rate
        for x in range(12, self.width() - 12, 2):
            first = int(self._frame(x) / rate * PEAKS_A_SECOND)
            last = max(first + 1, int(self._frame(x + 2) / rate * PEAKS_A_SECOND))
            loud = max(peaks[first:last], default=0.0)
            if loud > 0.004:
                half = max(0.5, loud**0.6 * WAVE_HIGH / 2)
                p.drawLine(QPointF(x, middle - half), QPointF(x, middle + half))

    def _range(self, p: QPainter) -> None:
        span = self._session.project.span
        left, right = self._x(span.start), self._x(span.end_exclusive)
        shade = QColor(0, 0, 0, 140)
        p.fillRect(QRectF(12, 8, max(0.0, left - 12), 80), shade)
        p.fillRect(QRectF(right, 8, max(0.0, self.width() - 12 - right), 80), shade)
        p.setPen(QPen(QColor(theme.WORDS), 2))
        for x, step in ((left, 6), (right, -6)):
            p.drawLine(QPointF(x, 61), QPointF(x, 91))
            p.drawLine(QPointF(x, 91), QPointF(x + step, 91))
            p.drawLine(QPointF(x, 61), QPointF(x + step, 61))

    def _playhead(self, p: QPainter) -> None:
        x = self._x(self._session.frame)
        p.setPen(QPen(QColor(theme.ACCENT), 2))
        p.drawLine(QPointF(x, 2), QPointF(x, 94))
        label = timecode(self._session.frame, self._session.analysis.master.rate)
        p.setFont(theme.ui_font(12, bold=True))
        wide = p.fontMetrics().horizontalAdvance(label) + 12
        left = min(max(x + 4, 0), self.width() - wide)
        p.fillRect(QRectF(left, 72, wide, 20), QColor(theme.ACCENT))
        p.setPen(QColor("#1b1510"))
        p.drawText(QRectF(left, 72, wide, 20), Qt.AlignmentFlag.AlignCenter, label)
