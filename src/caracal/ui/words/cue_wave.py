"""The sound round the chosen caption, with captions laid along it: their ends are dragged there."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from caracal.core.analysis.model import PEAKS_A_SECOND
from caracal.core.base.translation import tr
from caracal.core.text.cues import Cue
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.words.cue_actions import CueActions

HIGH, LEAST_HIGH, BAND = 76, 44, 22  # pixels: of all, in a small window, of its captions
SHOWN_S = 8.0
NEAR_PX = 6
LEAST_FRAMES = 1  # a caption keeps
QUIET = 0.004  # of full scale: less is drawn as nothing
WAVE = QColor("#8c8c8c")


@dataclass(frozen=True)
class Hold:
    """An end of a caption that is dragged, and what was shown when it was taken."""

    ends: bool
    view: tuple[float, float]
    gesture: object


class CueWave(QWidget):
    """Click to go there; drag an end of the chosen caption: it snaps to frames."""

    def __init__(self, session: Session, actions: CueActions) -> None:
        super().__init__()
        self._session, self._actions = session, actions
        self._hold: Hold | None = None
        self._holds = 0
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Maximum)
        self.setMinimumHeight(LEAST_HIGH)
        self._band = theme.scaled(BAND)
        self.setToolTip(tr("Sound. Click to go there; drag an end of the selected caption"))
        self.setAccessibleName(tr("Sound around the selected caption"))
        actions.chosen.connect(lambda _: self.update())
        session.project_changed.connect(self.update)
        session.cursor.frame_changed.connect(lambda _: self.update())
        session.grew.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(200, HIGH)

    @property
    def view(self) -> tuple[float, float]:
        """From which to which second it shows: the chosen caption if the playhead is near."""
        if self._hold is not None:
            return self._hold.view
        cue, now = self._actions.cue, self._session.frame / self._session.rate
        middle = now if cue is None else (cue.start_s + cue.end_s) / 2
        if abs(middle - now) > SHOWN_S / 2 - 0.5:
            middle = now
        return middle - SHOWN_S / 2, middle + SHOWN_S / 2

    def x_of(self, time_s: float) -> float:
        """Where a second of the film lies, in pixels."""
        first, last = self.view
        return (time_s - first) / (last - first) * self.width()

    def _time(self, x: float) -> float:
        first, last = self.view
        return first + x / self.width() * (last - first)

    def _frame_time(self, x: float) -> float:
        """The time of the frame that is nearest to ``x``."""
        rate = self._session.rate
        return max(0, round(self._time(x) * rate)) / rate

    def _end_at(self, x: float) -> bool | None:
        """Whether the chosen caption's end (True) or start (False) is at ``x``; None: neither."""
        cue = self._actions.cue
        if cue is None:
            return None
        off = {ends: abs(self.x_of(time) - x) for ends, time in (
            (False, cue.start_s), (True, cue.end_s))}
        ends = min(off, key=lambda each: off[each])
        return ends if off[ends] <= NEAR_PX else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of an end, or go there."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        x = event.position().x()
        ends = self._end_at(x)
        if ends is not None:
            self._holds += 1
            self._hold = Hold(ends, self.view, ("caption end", id(self), self._holds))
            return
        time = self._time(x)
        number = next((i for i, cue in enumerate(self._actions.cues)
                       if cue.start_s <= time < cue.end_s), None)
        if number is not None and event.position().y() > self.height() - self._band:
            self._actions.choose(number)
        else:
            self._session.go(max(0, int(time * self._session.rate)))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the end that is held."""
        x, cue = event.position().x(), self._actions.cue
        if self._hold is None or cue is None:
            near = self._end_at(x) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.ArrowCursor)
            return
        time, least = self._frame_time(x), LEAST_FRAMES / self._session.rate
        if self._hold.ends:
            self._actions.set_times(cue.start_s, max(time, cue.start_s + least),
                                    self._hold.gesture)
        else:
            self._actions.set_times(min(time, cue.end_s - least), cue.end_s, self._hold.gesture)

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        """Let go."""
        self._hold = None
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.fillRect(self.rect(), QColor(theme.PANEL))
            first, last = self.view
            self._paint_wave(p, first, last)
            for number, cue in enumerate(self._actions.cues):
                if cue.end_s > first and cue.start_s < last:
                    self._paint_cue(p, cue, number == self._actions.number)
            x = self.x_of((self._session.frame + 0.5) / self._session.rate)
            p.setPen(QPen(QColor(theme.WORDS), 1))
            p.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    def _paint_wave(self, p: QPainter, start: float, end: float) -> None:
        peaks, middle = self._session.analysis.sound.peaks, (self.height() - self._band) / 2
        step = (end - start) / self.width() * PEAKS_A_SECOND  # peaks, for a pixel
        p.setPen(QPen(WAVE, 1))
        for x in range(0, self.width(), 2):
            first = int(start * PEAKS_A_SECOND + x * step)
            last = max(first + 1, int(start * PEAKS_A_SECOND + (x + 2) * step))
            loud = max(peaks[max(0, first) : max(0, last)], default=0.0)
            if loud > QUIET:
                half = max(0.5, loud**0.6 * middle)
                p.drawLine(QPointF(x, middle - half), QPointF(x, middle + half))

    def _paint_cue(self, p: QPainter, cue: Cue, chosen: bool) -> None:
        left, right = self.x_of(cue.start_s), self.x_of(cue.end_s)
        band = QRectF(left, self.height() - self._band + 1, right - left, self._band - 2)
        p.fillRect(band, QColor(theme.CHOSEN) if chosen else QColor(theme.RAISED))
        p.setPen(QPen(QColor(theme.ACCENT if chosen else theme.EDGE), 1))
        p.drawRect(band)
        p.setPen(QColor(theme.WORDS))
        words = cue.text.replace("\n", " / ")
        p.drawText(band.adjusted(4, 0, -4, 0), Qt.AlignmentFlag.AlignVCenter,
                   p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight,
                                              int(band.width()) - 8))
        if not chosen:
            return
        p.setPen(QPen(QColor(theme.ACCENT), 2))
        for x in (left, right):
            p.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        p.setPen(QPen(QColor(theme.ACCENT), 1))
        for word in cue.words:  # where each begins to be said
            x = self.x_of(word.start_s)
            p.drawLine(QPointF(x, self.height() - self._band - 5),
                       QPointF(x, self.height() - self._band))
