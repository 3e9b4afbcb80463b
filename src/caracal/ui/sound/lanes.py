"""The tracks of a version below each other, over its own time."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

import msgspec
import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from caracal.core.analysis.model import PEAKS_A_SECOND
from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.layout.added_sound import AddedSound, SoundTrack
from caracal.core.layout.model import file_name
from caracal.core.sound.added import Laid, ShownRange, laid_in_file
from caracal.core.sound.mix import ExtraAudio
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

STEPS_A_SECOND = 1000  # in which places are counted here
FILM_HIGH, LANE_HIGH, GAP = 56, 40, 4  # pixels, as drawn
NAMES_WIDE = 84
WAVE, FILM_WAVE = QColor("#8c8c8c"), QColor("#b3a68f")
FADED_DB = -30.0  # the lowest gain that is drawn
TRACKS = tuple(SoundTrack)


class LaidSound(msgspec.Struct, frozen=True):
    """Sound ``number`` of the version, from ``start_s`` to ``end_s`` of its file; ``laid`` is None
    where it is muted or not heard."""

    number: int
    sound: AddedSound
    laid: Laid | None

    @property
    def span_s(self) -> tuple[float, float]:
        """From where to where it is heard, in seconds."""
        if self.laid is None:
            return 0.0, 0.0
        return self.laid.shape.start / STEPS_A_SECOND, self.laid.shape.end / STEPS_A_SECOND


class SoundLanes(QWidget):
    """The film's sound in the version, and a lane for each track with its sounds and their gain.

    A click goes there; a click on a sound selects it (``picked``, with its number).
    """

    picked = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._beside: ExtraAudio | None = None
        self.chosen: int | None = None
        self._laid: tuple[LaidSound, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip(tr("Click to go there; click a sound to select it"))
        self.setAccessibleName(tr("Tracks of the version"))
        session.cursor.frame_changed.connect(lambda _: self.update())

    def sizeHint(self) -> QSize:
        return QSize(400, theme.scaled(FILM_HIGH + len(TRACKS) * (LANE_HIGH + GAP)))

    def show_sounds(self, beside: ExtraAudio | None, chosen: int | None) -> None:
        """Show what is heard ``beside`` the film (None: that is not known yet); sound ``chosen`` is
        selected."""
        self._beside, self.chosen = beside, chosen
        self._laid = tuple(self._laid_sounds())
        self.update()

    @property
    def sounds(self) -> tuple[LaidSound, ...]:
        """The sounds of the version, with their places."""
        return self._laid

    def _laid_sounds(self) -> Iterable[LaidSound]:
        sounds = self._session.project.version(self._session.letter).sounds
        heard = [number for number, sound in enumerate(sounds) if not sound.muted]
        added = self._beside.added if self._beside is not None else ()
        laid: dict[int, Laid] = {}
        if len(added) == len(heard):
            speech = self._beside.speech if self._beside is not None else ()
            found = {id(each.audio): each for each in laid_in_file(
                added, speech, self._shown(), self._rate, STEPS_A_SECOND,
                round(self.length_s * STEPS_A_SECOND))}
            laid = {number: found[id(audio)] for number, audio in zip(heard, added, strict=True)
                    if id(audio) in found}  # those that are not heard are left out
        for number, sound in enumerate(sounds):
            yield LaidSound(number, sound, laid.get(number))

    @property
    def _rate(self) -> Fraction:
        return self._session.analysis.master.rate

    def _shown(self) -> tuple[ShownRange, ...]:
        """The ranges of the version, and where they lie in its file."""
        version = self._session.project.version(self._session.letter)
        before = 0 if version.opening is None else version.opening.frames
        made, at = list[ShownRange](), round(before / self._rate * STEPS_A_SECOND)
        for span in self._session.project.ranges_of(self._session.letter):
            count = round(span.duration_frames / self._rate * STEPS_A_SECOND)
            made.append(ShownRange(span, at, count))
            at += count
        return tuple(made)

    @property
    def length_s(self) -> float:
        """How long the version lasts with its cards, in seconds."""
        project, letter = self._session.project, self._session.letter
        frames = sum((span.duration_frames for span in project.ranges_of(letter)), Fraction(0))
        return max(0.04, float((frames + project.version(letter).card_frames) / self._rate))

    def x_of(self, time_s: float) -> float:
        """Where a second of the version lies, in pixels."""
        left = theme.scaled(NAMES_WIDE)
        return left + time_s / self.length_s * max(1, self.width() - left - 1)

    def time_at(self, x: float) -> float:
        """The second of the version at ``x``."""
        left = theme.scaled(NAMES_WIDE)
        return max(0.0, (x - left) / max(1, self.width() - left - 1)) * self.length_s

    def frame_at(self, time_s: float) -> int:
        """The frame of the film that the version shows at a second of it; the nearest one."""
        shown, place = self._shown(), time_s * STEPS_A_SECOND
        for each in shown:
            if place < each.at + each.count:
                inside = max(0.0, place - each.at) / STEPS_A_SECOND * float(self._rate)
                return min(each.span.end_exclusive - 1,
                           each.span.start + int(inside * each.span.percent / 100))
        return shown[-1].span.end_exclusive - 1

    def lane(self, track: SoundTrack) -> QRectF:
        """Where the lane of ``track`` lies."""
        left, high = theme.scaled(NAMES_WIDE), theme.scaled(LANE_HIGH)
        top = theme.scaled(FILM_HIGH) + theme.scaled(GAP) + TRACKS.index(track) * (
            high + theme.scaled(GAP))
        return QRectF(left, top, self.width() - left - 1, high)

    def place_of(self, number: int) -> QRectF:
        """Where sound ``number`` is drawn."""
        each = self._laid[number]
        lane, (start, end) = self.lane(each.sound.track), each.span_s
        return QRectF(self.x_of(start), lane.top() + 2,
                      max(4.0, self.x_of(end) - self.x_of(start)), lane.height() - 4)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select a sound, or go to that moment."""
        if event.button() != Qt.MouseButton.LeftButton:
            return
        hit = next((each.number for each in reversed(self._laid) if each.laid is not None
                    and self.place_of(each.number).contains(event.position())), None)
        if hit is not None:
            self.picked.emit(hit)
        self._session.go(self.frame_at(self.time_at(event.position().x())))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._session.go(self.frame_at(self.time_at(event.position().x())))

    def paintEvent(self, _: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_film(p)
            for track in TRACKS:
                self._paint_lane(p, track)
            self._paint_playhead(p)

    def _name(self, p: QPainter, words: str, top: float, high: float) -> None:
        p.setPen(QColor(theme.QUIET))
        p.drawText(QRectF(0, top, theme.scaled(NAMES_WIDE) - 8, high),
                   Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, words)

    def _paint_film(self, p: QPainter) -> None:
        high, left = theme.scaled(FILM_HIGH), theme.scaled(NAMES_WIDE)
        p.fillRect(QRectF(left, 0, self.width() - left - 1, high), QColor(theme.PANEL))
        self._name(p, tr("Film"), 0, high)
        peaks = np.asarray(self._session.analysis.sound.peaks or (0.0,))
        p.setPen(QPen(FILM_WAVE, 1))
        for each in self._shown():
            first, last = (self.x_of(place / STEPS_A_SECOND) for place in (
                each.at, each.at + each.count))
            xs = np.arange(int(first), int(last))
            if not len(xs):
                continue
            frames = each.span.start + (xs - first) / max(1.0, last - first) * len(each.span)
            places = frames / float(self._rate) * PEAKS_A_SECOND
            levels = peaks[np.clip(places.astype(int), 0, len(peaks) - 1)] * (not each.span.muted)
            for x, level in zip(xs.tolist(), levels.tolist(), strict=True):
                tall = max(0.5, min(1.0, level) * (high / 2 - 3))
                p.drawLine(QPointF(x, high / 2 - tall), QPointF(x, high / 2 + tall))
            p.setPen(QPen(QColor(theme.EDGE), 1))
            p.drawLine(QPointF(first, 0), QPointF(first, high))
            p.setPen(QPen(FILM_WAVE, 1))

    def _paint_lane(self, p: QPainter, track: SoundTrack) -> None:
        lane = self.lane(track)
        p.fillRect(lane, QColor(theme.PANEL))
        self._name(p, tr(track.value).capitalize(), lane.top(), lane.height())
        for each in self._laid:
            if each.sound.track is track and each.laid is not None:
                self._paint_sound(p, each)

    def _paint_sound(self, p: QPainter, each: LaidSound) -> None:
        assert each.laid is not None
        box, chosen = self.place_of(each.number), each.number == self.chosen
        p.setPen(QPen(QColor(theme.ACCENT if chosen else theme.OUTLINE), 2 if chosen else 1))
        p.setBrush(QColor(theme.CHOSEN if chosen else theme.RAISED))
        p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.save()
        p.setClipRect(box)
        p.setPen(QPen(WAVE, 1.4))
        p.drawPolyline(self._curve(each.laid, box))
        p.setPen(QColor(theme.WORDS))
        words = p.fontMetrics().elidedText(file_name(each.sound.content),
                                           Qt.TextElideMode.ElideRight, int(box.width()) - 12)
        p.drawText(box.adjusted(6, 0, -6, -2), Qt.AlignmentFlag.AlignBottom, words)
        p.restore()

    def _curve(self, laid: Laid, box: QRectF) -> QPolygonF:
        """The gain of a sound over its time: fades and ducking; the top is as loud as it gets."""
        xs = np.arange(max(0.0, box.left()), min(self.width(), box.right()) + 1)
        places = np.array([self.time_at(x) * STEPS_A_SECOND for x in xs])
        gains = 20 * np.log10(np.maximum(laid.shape.gain(places.astype(np.int64)), 1e-4))
        share = np.clip(gains / FADED_DB, 0, 1)
        return QPolygonF([QPointF(x, box.top() + 3 + part * (box.height() - 6))
                          for x, part in zip(xs.tolist(), share.tolist(), strict=True)])

    def _paint_playhead(self, p: QPainter) -> None:
        frame = self._session.frame
        for each in self._shown():
            if each.span.start <= frame < each.span.end_exclusive:
                x = self.x_of(each.place(frame, self._rate, STEPS_A_SECOND) / STEPS_A_SECOND)
                p.setPen(QPen(QColor(theme.WORDS), 1.5))
                p.drawLine(QPointF(x, 0), QPointF(x, self.height()))
                return

    def words_of(self, number: int) -> str:
        """Sound ``number`` in words, for assistive technology."""
        each = self._laid[number]
        name, track = file_name(each.sound.content), tr(each.sound.track.value).capitalize()
        if each.laid is None:
            return tr("{track}: {name}, not heard", track=track, name=name)
        start, end = (timecode(round(time * float(self._rate)), self._rate)
                      for time in each.span_s)
        return tr("{track}: {name}, {start} to {end}", track=track, name=name, start=start, end=end)
