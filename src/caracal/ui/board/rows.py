"""A row of the Board: a shot's words and its picture in every version, painted once and kept."""

from __future__ import annotations

import time
from collections import OrderedDict
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.framing.flags import Flag
from caracal.core.framing.path import ShotPath
from caracal.core.layout.kinds import name_of
from caracal.ui.services.identity import Same
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import canvas_of, paint_picture
from caracal.ui.widgets.zones import paint_zones

GAP = 16
ABOUT_WIDE = 232  # the words at the left of a row, as drawn
STATE_HIGH = 22  # a cell's state below its picture
ABOVE = 6  # of a row, free above its pictures
MOST_KEPT = 48  # painted rows; 0.9 MB each at 1280x800


@dataclass(frozen=True)
class Row:
    """A shot's row: where its master and then its versions are shown, ``rects``, on the viewport.

    ``frame`` is what is scrubbed to (None: the poster frame), ``chosen`` are the letters of
    selected cells.
    """

    shot: int
    rects: tuple[QRectF, ...]
    width: int
    high: float
    chosen: tuple[str, ...]
    frame: int | None = None

    @property
    def top(self) -> float:
        """Returns where the upper edge of the row lies."""
        return self.rects[0].top() - ABOVE


_Cell = tuple[ShotPath, tuple[Flag, ...], bool]


@dataclass(frozen=True)
class _Same:
    """Cells (path, flags, touched): the same when their paths are the same objects."""

    cells: tuple[_Cell, ...]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and len(self.cells) == len(other.cells) and all(
            cell[0] is two[0] and cell[1:] == two[1:]
            for cell, two in zip(self.cells, other.cells, strict=True))

    __hash__ = None  # type: ignore[assignment]


class KeptRows:
    """Rows that rest are painted once, and again when anything in them changes."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._painted: OrderedDict[int, tuple[object, QPixmap]] = OrderedDict()
        self._cells: dict[int, _Same] = {}  # what rows show, until anything changes
        self._looked_up: dict[int, list[_Cell]] = {}  # of rows that are not done with
        self._whole: dict[int, tuple[object, tuple[Same, ...]]] = {}  # pictures, once all are there

    def changed(self) -> None:
        """Anything may have changed: rows are looked at anew."""
        self._cells.clear()
        self._looked_up.clear()
        self._whole.clear()

    def arrived(self, shot: int) -> None:
        """A picture of ``shot`` came, perhaps in the place of another."""
        self._whole.pop(shot, None)

    def paint(self, p: QPainter, row: Row, scale: float, until_s: float) -> bool:
        """Paint a row; False if it had to be painted anew and was not, because the clock
        (time.perf_counter) had passed ``until_s``.

        It shows as it was then, or empty.
        """
        kept = self._painted.get(row.shot)
        pictures = self._pictures(row, scale, until_s) if self._known(row.shot, until_s) else None
        if pictures is None:
            self._as_it_was(p, row, None if kept is None else kept[1])
            return False
        key = self._key(row, scale, pictures)
        if kept is None or kept[0] != key:
            if time.perf_counter() >= until_s:
                self._as_it_was(p, row, None if kept is None else kept[1])
                return False
            kept = (key, self._anew(row, scale))
        self._painted[row.shot] = kept
        self._painted.move_to_end(row.shot)
        while len(self._painted) > MOST_KEPT:
            self._painted.popitem(last=False)
        p.drawPixmap(QPointF(0, row.top), kept[1])
        return True

    def _anew(self, row: Row, scale: float) -> QPixmap:
        picture = QPixmap(round(row.width * scale), round(row.high * scale))
        picture.setDevicePixelRatio(scale)
        picture.fill(QColor(theme.GROUND))
        with QPainter(picture) as inside:
            inside.translate(0, -row.top)
            paint_row(inside, self._session, row)
        return picture

    @staticmethod
    def _as_it_was(p: QPainter, row: Row, kept: QPixmap | None) -> None:
        """A row that is about to be painted: its last picture if it has the size, else grey."""
        size = (row.width, round(row.high))
        if kept is not None and kept.deviceIndependentSize().toSize().toTuple() == size:
            p.drawPixmap(QPointF(0, row.top), kept)
            return
        for rect in row.rects:
            p.fillRect(rect, QColor(theme.RAISED))

    def _known(self, shot: int, until_s: float) -> bool:
        """Whether it is known what the cells of ``shot`` show; it is looked up until the clock has
        passed ``until_s``, and gone on with the next time.
        """
        if shot in self._cells:
            return True
        session, found = self._session, self._looked_up.setdefault(shot, [])
        letters = [version.letter for version in session.project.versions]
        while len(found) < len(letters):
            if time.perf_counter() >= until_s:
                return False
            letter = letters[len(found)]
            found.append((session.path(letter, shot), session.flags(letter, shot),
                          session.project.choice(letter, shot).touched))
        self._cells[shot] = _Same(tuple(self._looked_up.pop(shot)))
        return True

    def _key(self, row: Row, scale: float, pictures: tuple[Same, ...]) -> object:
        """All that a row shows."""
        session, shot = self._session, row.shot
        return (self._cells[shot], row.chosen, session.zones, shot == session.shot,
                session.letter, pictures, row.width, row.rects[0].height(), scale)

    def _pictures(self, row: Row, scale: float, until_s: float) -> tuple[Same, ...] | None:
        """The pictures of a row that rests, as far as they are there; None: not all were asked for
        when the clock had passed ``until_s``.

        Asking for them takes longer than painting them: when all are there, nobody is asked again.
        """
        session, at = self._session, self._session.analysis.shots[row.shot].poster_frame
        canvases = tuple(canvas_of(rect, scale) for rect in row.rects)
        if (whole := self._whole.get(row.shot)) is not None and whole[0] == canvases:
            return whole[1]
        letters = ("", *(version.letter for version in session.project.versions))
        found: tuple[Same, ...] = ()
        for letter, canvas in zip(letters, canvases, strict=True):
            if found and time.perf_counter() >= until_s:
                return None
            found = (*found, Same(session.preview.get(letter, at, canvas)))
        if not session.speed and all(each.value is not None for each in found):
            self._whole[row.shot] = (canvases, found)
        return found


def state_high() -> int:
    """How high the state of a cell is below its picture."""
    return theme.scaled(STATE_HIGH)


def about_wide() -> int:
    """How wide the words at the left of a row are."""
    return theme.scaled(ABOUT_WIDE)


def paint_row(p: QPainter, session: Session, row: Row) -> None:
    """Paint a row where it lies."""
    shot, found, master = row.shot, session.analysis.shots[row.shot], row.rects[0]
    if shot == session.shot:
        band = QRectF(0, row.top, row.width, row.high - 4)
        p.fillRect(band, QColor("#272727"))
        p.fillRect(QRectF(0, band.top(), 3, band.height()), QColor(theme.ACCENT))
    _about(p, session, shot, QRectF(GAP, master.top(), about_wide() - GAP,
                                      master.height()))
    frame = found.poster_frame if row.frame is None else row.frame
    paint_picture(p, session, "", frame, master)
    if row.frame is not None:
        x = master.left() + (row.frame - found.start) / found.frames * master.width()
        p.setPen(QPen(QColor(theme.ACCENT), 2))
        p.drawLine(QPointF(x, master.bottom() - 8), QPointF(x, master.bottom()))
    for version, rect in zip(session.project.versions, row.rects[1:], strict=True):
        paint_picture(p, session, version.letter, frame, rect)
        paint_zones(p, session.sheet(version.letter), rect, session.zones)
        if shot == session.shot and version.letter == session.letter:
            p.setPen(QPen(QColor(theme.ACCENT), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(rect.adjusted(-2, -2, 2, 2))
        if version.letter in row.chosen:
            _tick(p, rect)
        _state(p, session, shot, version.letter, rect)


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


def _about(p: QPainter, session: Session, shot: int, area: QRectF) -> None:
    found = session.analysis.shots[shot]
    words = session.told(session.letter, shot)
    rate = session.analysis.master.rate
    p.setPen(QColor(theme.WORDS))
    p.setFont(theme.ui_font(20, bold=True))
    s = theme.scaled
    p.drawText(QRectF(area.left(), area.top() - 4, s(50), s(28)), 0, f"{shot + 1}")
    p.setFont(theme.ui_font(12))
    p.setPen(QColor(theme.QUIET))
    length = f"{found.frames / session.rate:.1f} s, {tr(found.transition_in)}"
    p.drawText(QRectF(area.left() + s(40), area.top() - 1, s(190), s(18)), 0,
               f"{timecode(found.start, rate)}   {length}")
    p.setPen(QColor(theme.WORDS))
    p.setFont(theme.ui_font(13, bold=True))
    lead = words.lead
    p.drawText(QRectF(area.left(), area.top() + s(26), area.width(), s(20)), 0, lead.capitalize())
    p.setFont(theme.ui_font(13))
    p.setPen(QColor(theme.QUIET))
    p.drawText(QRectF(area.left(), area.top() + s(48), area.width(), area.height() - s(48)),
               Qt.TextFlag.TextWordWrap, words.why)


def _state(p: QPainter, session: Session, shot: int, letter: str, rect: QRectF) -> None:
    """Shape and word: a ring for auto, a square for touched, a triangle for flagged."""
    flags = session.flags(letter, shot)
    x, y = rect.left() + 5, rect.bottom() + theme.scaled(12)
    room = QRectF(x + 9, y - theme.scaled(9), max(rect.width() + 20, 80), theme.scaled(18))
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(Qt.PenStyle.NoPen)
    if session.analysis.goes_on(shot):
        p.setPen(QPen(QColor(theme.QUIET), 1.6, Qt.PenStyle.DotLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(QPointF(x, y), 3.6, 3.6)
        p.setFont(theme.ui_font(12))
        p.setPen(QColor(theme.QUIET))
        p.drawText(room, Qt.AlignmentFlag.AlignVCenter, tr("goes on"))
        return
    if flags:
        p.setBrush(QColor(theme.BAD))
        p.drawPolygon(QPolygonF([QPointF(x - 5, y + 4), QPointF(x + 5, y + 4),
                                 QPointF(x, y - 5)]))
        word, tint = tr(flags[0].kind), theme.BAD
    elif session.project.choice(letter, shot).touched:
        p.setBrush(QColor(theme.ACCENT))
        p.drawRect(QRectF(x - 4, y - 4, 8, 8))
        word, tint = tr("touched"), theme.ACCENT
    else:
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(theme.QUIET), 1.6))
        p.drawEllipse(QPointF(x, y), 3.6, 3.6)
        word, tint = tr("auto"), theme.QUIET
    layout = session.project.choice(letter, shot).layout
    manner = (tr(session.path(letter, shot).manner) if layout.cropped
              else name_of(layout))
    p.setPen(QColor(tint))
    p.setFont(theme.ui_font(12))
    words = f"{word} · {manner}" if rect.width() > 110 else word
    offered = session.told(letter, shot).offered
    if offered is not None:
        words = tr("{word} · try {name}", word=word, name=tr(offered.name))
    p.drawText(room, Qt.AlignmentFlag.AlignVCenter, p.fontMetrics().elidedText(
        words, Qt.TextElideMode.ElideRight, round(room.width())))
