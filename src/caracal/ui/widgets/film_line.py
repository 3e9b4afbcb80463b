"""The film line: the whole film as a strip of shots, its sound, the range and the playhead."""

from __future__ import annotations

import time

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import (
    QBrush,
    QColor,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from caracal.core.analysis.model import PEAKS_A_SECOND, Transition
from caracal.core.base.identity import Same
from caracal.core.base.time import FrameRange, timecode
from caracal.core.base.translation import tr
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.cached_painting import Layer
from caracal.ui.widgets.picture_paint import canvas_of

STRIP = QRectF(0, 8, 0, 52)
WAVE_TOP, WAVE_HIGH = 62, 26
SOON_MS = 60  # pictures that arrive meanwhile are put in together
AT_ONCE_S = 0.004  # so long at a time
FIRST_S = 0.004  # and so long when all of them are new
REACH = 6.0  # pixels from an end of the range that take hold of it
LEAST_SPAN = 50  # frames visible when zoomed in fully


class FilmLine(QWidget):
    """Click to go, drag to scrub, wheel to zoom in time."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName(tr("Film line: shots, sound, captions and the range"))
        self.session = session
        self._held = ""  # the end of the range that is dragged
        self._press = 0  # which press this is: each drag is a step of its own
        self._of: object = None  # the analysis whose shots are painted
        self._missing: dict[int, int] = {}  # shots by the frames whose pictures are to come
        self._came: list[int] = []  # such frames whose pictures are there by now
        self._from, self._span = 0.0, float(session.analysis.master.frames)
        self.setFixedHeight(76 + theme.scaled(20))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # its keys are those of the film: arrows
        self.setToolTip(tr("Click to go, drag to scrub, wheel to zoom in time. I and O set the "
                           "range; its ends can be dragged."))
        self._ground, self._sound = Layer(self), Layer(self)
        self._thumbs: dict[tuple[int, float], QPixmap] = {}
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._fill_in)
        session.cursor.frame_changed.connect(lambda _: self.update())
        session.solutions_changed.connect(self.update)
        session.preview.arrived.connect(self._arrived)

    def place_of(self, frame: float) -> float:
        """Where the left edge of ``frame`` is, in pixels from the left."""
        return 12 + (frame - self._from) / self._span * (self.width() - 24)

    def _frame(self, x: float) -> int:
        return int(self._from + (x - 12) / (self.width() - 24) * self._span)

    def bracket_at(self, spot: QPointF) -> str:
        """Which end of the range a press takes hold of: start, end, or neither."""
        span = self.session.project.span
        if spot.y() > WAVE_TOP - 4:
            for which, frame in (("start", span.start), ("end", span.end_exclusive)):
                if abs(spot.x() - self.place_of(frame)) <= REACH:
                    return which
        return ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = self.bracket_at(event.position())
        if not self._held:
            self.session.go(self._frame(event.position().x()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not event.buttons() & Qt.MouseButton.LeftButton:
            near = self.bracket_at(event.position())
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.ArrowCursor)
        elif self._held:
            self._drag_range(self._frame(event.position().x()))
        else:
            self.session.go(self._frame(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = ""
        self._press += 1
        self.session.document.seal()

    def _drag_range(self, frame: int) -> None:
        """Move the end that is held; the picture there shows."""
        session = self.session
        span, frames = session.project.span, session.analysis.master.frames
        if self._held == "start":
            made = FrameRange(min(max(0, frame), span.end_exclusive - 1), span.end_exclusive)
            session.go(made.start)
        else:
            made = FrameRange(span.start, min(max(frame, span.start + 1), frames))
            session.go(made.end_exclusive - 1)
        session.edit(msgspec.structs.replace(session.project, span=made), tr("Drag range"),
                     ("range", self._press), held=True)
        session.said.emit(tr("Range of {count:.2f} s", count=len(made) / session.rate))

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(self._frame(event.position().x()), 0.8 if event.angleDelta().y() > 0 else 1.25)

    def zoom_in_time(self, way: int) -> None:
        """Show a shorter stretch round the playhead (1), a longer one (-1), or all of it (0)."""
        frame = self.session.frame
        if way and not self._from <= frame < self._from + self._span:
            self._from = frame - self._span / 2  # it was out of sight
        self._zoom(frame, {1: 0.5, -1: 2.0, 0: self.session.analysis.master.frames}[way])

    @property
    def stretch(self) -> tuple[float, float]:
        """The frame at its left edge, and how many are seen."""
        return self._from, self._span

    @stretch.setter
    def stretch(self, stretch: tuple[float, float]) -> None:
        frames = float(self.session.analysis.master.frames)
        self._span = min(frames, max(LEAST_SPAN, stretch[1]))
        self._from = min(max(0.0, stretch[0]), frames - self._span)
        self.update()

    def _zoom(self, under: float, factor: float) -> None:
        """``factor`` times the stretch; the frame ``under`` the pointer stays where it is."""
        frames = float(self.session.analysis.master.frames)
        span = min(frames, max(LEAST_SPAN, self._span * factor))
        share = (under - self._from) / self._span
        self.stretch = (under - share * span, span)

    def _arrived(self, frame: int) -> None:
        """Pictures that come together are put in together."""
        if frame in self._missing:
            self._came.append(frame)
            if not self._soon.isActive():
                self._soon.start(SOON_MS)

    def _fill_in(self) -> None:
        if self._of is not self.session.analysis:
            return  # other shots are about to be painted, all of them
        enough = time.perf_counter() + AT_ONCE_S

        def draw(p: QPainter) -> None:
            while self._came and time.perf_counter() < enough:
                number = self._missing.pop(self._came.pop(), None)
                if number is not None:
                    self._shot(p, number)
                    self._mark(p, number + 1)  # it reaches into this shot

        self._ground.add(draw)
        if self._came:
            self._soon.start(SOON_MS)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.fillRect(self.rect(), QColor(theme.PANEL))
            key = (self._from, self._span, Same(self.session.analysis))
            self._sound.paint(p, key, self._wave)
            self._ground.paint(p, key, self._shots)
            self._unseen(p)
            shot = self.session.analysis.shots[self.session.shot]
            p.setPen(QPen(QColor(theme.ACCENT), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(self._box(shot.start, shot.end))
            self._range(p)
            self._playhead(p)
            if self.hasFocus():
                p.setPen(QPen(QColor(theme.WORDS), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _unseen(self, p: QPainter) -> None:
        """What was not looked at yet: slanted lines, and words where there is room."""
        analysis = self.session.analysis
        if analysis.whole:
            return
        left = max(12.0, self.place_of(analysis.known_to))
        rest = QRectF(left + 1, STRIP.top(), self.width() - 12 - left, STRIP.height())
        if rest.width() < 2:
            return
        p.fillRect(rest, QBrush(QColor(theme.EDGE), Qt.BrushStyle.BDiagPattern))
        words = tr("Not analysed yet")
        p.setFont(theme.ui_font(12))
        wide = p.fontMetrics().horizontalAdvance(words) + 16
        if wide < rest.width():
            high = theme.scaled(22)
            plate = QRectF(rest.center().x() - wide / 2, rest.center().y() - high / 2, wide, high)
            p.fillRect(plate, QColor(theme.PANEL))
            p.setPen(QColor(theme.QUIET))
            p.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)

    def _box(self, start: int, end: int) -> QRectF:
        """Where the shot [start, end) is."""
        left, right = self.place_of(start), self.place_of(end)
        return QRectF(left + 1, STRIP.top(), max(1.0, right - left - 2), STRIP.height())

    def _shots(self, p: QPainter) -> None:
        self._missing.clear()
        self._came.clear()
        self._of = self.session.analysis
        enough = time.perf_counter() + FIRST_S
        for number, shot in enumerate(self.session.analysis.shots):
            if time.perf_counter() < enough:
                self._shot(p, number)
                continue
            box = QRectF(self._box(shot.start, shot.end).toRect())
            if box.right() >= 0 and box.left() <= self.width():
                p.fillRect(box, QColor(theme.RAISED))  # until the next time
                self._missing[shot.poster_frame] = number
                self._came.append(shot.poster_frame)
        if self._came:
            self._soon.start(0)

    def _shot(self, p: QPainter, number: int) -> None:
        shot = self.session.analysis.shots[number]
        box = QRectF(self._box(shot.start, shot.end).toRect())  # whole pixels: nothing resampled
        if box.right() < 0 or box.left() > self.width():
            return
        image = self._thumb(shot.poster_frame)
        if image is None:
            self._missing[shot.poster_frame] = number
            p.fillRect(box, QColor(theme.RAISED))
        else:
            scale = image.devicePixelRatio()
            whole = image.width() / scale
            at = box.left()
            while at < box.right():  # the middle of the picture, again and again
                shown = min(whole, box.right() - at)
                source = QRectF((whole - shown) / 2 * scale, 0, shown * scale, image.height())
                p.drawPixmap(QRectF(at, box.top(), shown, box.height()), image, source)
                at += shown
        self._mark(p, number)

    def _mark(self, p: QPainter, number: int) -> None:
        """The triangle of a dissolve or a wipe at the beginning of a shot."""
        shots = self.session.analysis.shots
        shared = (Transition.DISSOLVE, Transition.WIPE)
        if number < len(shots) and shots[number].transition_in in shared:
            left = self._box(shots[number].start, shots[number].end).left() - 1
            mark = QPolygonF([QPointF(left - 5, 6), QPointF(left + 5, 6), QPointF(left, 14)])
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(QColor(theme.WORDS))
            p.drawPolygon(mark)

    def _thumb(self, frame: int) -> QPixmap | None:
        """The picture of ``frame`` as high as the strip, brought to that height once."""
        scale = self.devicePixelRatioF()
        if (frame, scale) not in self._thumbs:
            master = self.session.found.master
            strip = QRectF(0, 0, STRIP.height() * master.width / master.height, STRIP.height())
            image = self.session.preview.later("", frame, canvas_of(strip, scale))
            if image is None:
                return None
            made = QPixmap.fromImage(image)
            made.setDevicePixelRatio(scale)
            self._thumbs[frame, scale] = made
        return self._thumbs[frame, scale]

    def _wave(self, p: QPainter) -> None:
        peaks = self.session.analysis.sound.peaks
        middle = WAVE_TOP + WAVE_HIGH / 2
        p.setPen(QPen(QColor("#8c8c8c"), 1))
        rate = self.session.rate
        for x in range(12, self.width() - 12, 2):
            first = int(self._frame(x) / rate * PEAKS_A_SECOND)
            last = max(first + 1, int(self._frame(x + 2) / rate * PEAKS_A_SECOND))
            loud = max(peaks[first:last], default=0.0)
            if loud > 0.004:
                half = max(0.5, loud**0.6 * WAVE_HIGH / 2)
                p.drawLine(QPointF(x, middle - half), QPointF(x, middle + half))

    def _range(self, p: QPainter) -> None:
        span = self.session.project.span
        left, right = self.place_of(span.start), self.place_of(span.end_exclusive)
        shade = QColor(0, 0, 0, 140)
        p.fillRect(QRectF(12, 8, max(0.0, left - 12), 80), shade)
        p.fillRect(QRectF(right, 8, max(0.0, self.width() - 12 - right), 80), shade)
        p.setPen(QPen(QColor(theme.WORDS), 2))
        for x, step in ((left, 6), (right, -6)):
            p.drawLine(QPointF(x, 61), QPointF(x, 91))
            p.drawLine(QPointF(x, 91), QPointF(x + step, 91))
            p.drawLine(QPointF(x, 61), QPointF(x + step, 61))

    def _playhead(self, p: QPainter) -> None:
        x = self.place_of(self.session.frame)
        p.setPen(QPen(QColor(theme.ACCENT), 2))
        p.drawLine(QPointF(x, 2), QPointF(x, 94))
        label = timecode(self.session.frame, self.session.analysis.master.rate)
        p.setFont(theme.ui_font(12, bold=True))
        wide = p.fontMetrics().horizontalAdvance(label) + 12
        left = min(max(x + 4, 0), self.width() - wide)
        plate = QRectF(left, 72, wide, theme.scaled(20))
        p.fillRect(plate, QColor(theme.ACCENT))
        p.setPen(QColor("#1b1510"))
        p.drawText(plate, Qt.AlignmentFlag.AlignCenter, label)
