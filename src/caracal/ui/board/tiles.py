"""A tile of the Board: a shot's words and its picture in every version, painted once and kept."""

from __future__ import annotations

import time
from collections import OrderedDict
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF

from caracal.core.base.identity import Same
from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.framing.flags import Flag
from caracal.core.framing.path import ShotPath
from caracal.core.layout.kinds import name_of
from caracal.ui.board.tile_layout import LINE
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import canvas_of, letter_badge, paint_picture
from caracal.ui.widgets.zones import paint_zones

MIDDLE = Qt.AlignmentFlag.AlignVCenter
HERE = "#2b2b2b"  # behind the tile at the playhead
WORD_GAP, WORD_SPACE = 10, "   "  # between words of a line: pixels, and letters
SHAPE_WIDE = 22  # pixels
MOST_KEPT_PIXELS = 24_000_000  # of painted tiles, 4 bytes each
MARGIN = 4  # pixels round a tile, within what is painted: rings stand there


@dataclass(frozen=True)
class Tile:
    """A shot's tile on the viewport: ``area`` with its margin, and the ``rects`` of the master's
    picture (empty where it is not shown) and of its versions'.

    ``above`` is the height of the words over the pictures, ``below`` that of the issues under them.
    ``frame`` is what is scrubbed to (None: the poster frame), ``chosen`` are the letters of
    selected cells.
    """

    shot: int
    area: QRectF
    rects: tuple[QRectF, ...]
    above: int
    below: int
    chosen: tuple[str, ...]
    frame: int | None = None


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


class KeptTiles:
    """Tiles at rest are painted once, and again when anything in them changes."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._painted: OrderedDict[int, tuple[object, QPixmap]] = OrderedDict()
        self._cells: dict[int, _Same] = {}  # what tiles show, until anything changes
        self._looked_up: dict[int, list[_Cell]] = {}  # of tiles that are not done with
        # The pictures of tiles, once all are there.
        self._whole: dict[int, tuple[object, tuple[Same[object], ...]]] = {}

    def changed(self) -> None:
        """Anything may have changed: tiles are compared again."""
        self._cells.clear()
        self._looked_up.clear()
        self._whole.clear()

    def arrived(self, shot: int) -> None:
        """A picture of ``shot`` came, perhaps in the place of another."""
        self._whole.pop(shot, None)

    def paint(self, p: QPainter, tile: Tile, scale: float, until_s: float) -> bool:
        """Paint a tile; False if it had to be painted again and was not, because the clock
        (time.perf_counter) had passed ``until_s``.

        It shows as it was then, or empty.
        """
        kept = self._painted.get(tile.shot)
        pictures = self._pictures(tile, scale, until_s) if self._known(tile.shot, until_s) else None
        if pictures is None:
            self._as_it_was(p, tile, None if kept is None else kept[1])
            return False
        key = self._key(tile, scale, pictures)
        if kept is None or kept[0] != key:
            if time.perf_counter() >= until_s:
                self._as_it_was(p, tile, None if kept is None else kept[1])
                return False
            kept = (key, self._pixmap(tile, scale))
        self._painted[tile.shot] = kept
        self._painted.move_to_end(tile.shot)
        size = tile.area.size() * scale
        most = max(8, round(MOST_KEPT_PIXELS / max(1.0, size.width() * size.height())))
        while len(self._painted) > most:
            self._painted.popitem(last=False)
        p.drawPixmap(tile.area.topLeft(), kept[1])
        return True

    def _pixmap(self, tile: Tile, scale: float) -> QPixmap:
        picture = QPixmap((tile.area.size() * scale).toSize())
        picture.setDevicePixelRatio(scale)
        picture.fill(QColor(theme.GROUND))
        with QPainter(picture) as inside:
            inside.translate(-tile.area.topLeft())
            paint_tile(inside, self._session, tile)
        return picture

    @staticmethod
    def _as_it_was(p: QPainter, tile: Tile, kept: QPixmap | None) -> None:
        """A tile that is about to be painted: its last picture if it has the size, else grey."""
        size = tile.area.size().toSize()
        if kept is not None and kept.deviceIndependentSize().toSize() == size:
            p.drawPixmap(tile.area.topLeft(), kept)
            return
        for rect in tile.rects:
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

    def _key(self, tile: Tile, scale: float, pictures: tuple[Same[object], ...]) -> object:
        """All that a tile shows."""
        session, shot = self._session, tile.shot
        return (self._cells[shot], tile.chosen, session.zones, shot == session.shot,
                session.letter, pictures, tile.area.size().toTuple(),
                tile.rects[-1].size().toTuple(), scale)

    def _pictures(
        self, tile: Tile, scale: float, until_s: float
    ) -> tuple[Same[object], ...] | None:
        """The pictures of a tile at rest, as far as they are there; None: not all were asked for
        when the clock had passed ``until_s``.

        Asking for them takes longer than painting them: when all are there, nobody is asked again.
        """
        session, at = self._session, self._session.analysis.shots[tile.shot].poster_frame
        canvases = tuple(canvas_of(rect, scale) for rect in tile.rects)
        if (whole := self._whole.get(tile.shot)) is not None and whole[0] == canvases:
            return whole[1]
        letters = ("", *(version.letter for version in session.project.versions))
        wanted = [(letter, canvas) for letter, canvas, rect in zip(
            letters, canvases, tile.rects, strict=True) if not rect.isEmpty()]
        found: tuple[Same[object], ...] = ()
        for letter, canvas in wanted:
            if found and time.perf_counter() >= until_s:
                return None
            found = (*found, Same(session.preview.get(letter, at, canvas)))
        if not session.speed and all(each.value is not None for each in found):
            self._whole[tile.shot] = (canvases, found)
        return found


def paint_tile(p: QPainter, session: Session, tile: Tile) -> None:
    """Paint a tile where it lies."""
    shot, found = tile.shot, session.analysis.shots[tile.shot]
    if shot == session.shot:
        p.fillRect(tile.area, QColor(HERE))
    frame = found.poster_frame if tile.frame is None else tile.frame
    words = QRectF(tile.rects[1]).united(tile.rects[-1]).united(tile.rects[0])
    _words_above(p, session, shot, QRectF(words.left(), words.top() - tile.above, words.width(),
                                          tile.above), tile.below == 0)
    if not tile.rects[0].isEmpty():
        paint_picture(p, session, "", frame, tile.rects[0])
    for number, (version, rect) in enumerate(
            zip(session.project.versions, tile.rects[1:], strict=True)):
        paint_picture(p, session, version.letter, frame, rect)
        paint_zones(p, session.sheet(version.letter), rect, session.zones)
        if tile.below:
            letter_badge(p, rect.left() + 2, rect.top() + 2, version.letter, number)
            _state(p, session, shot, version.letter, rect, tile.below)
        if shot == session.shot and version.letter == session.letter:
            p.setPen(QPen(QColor(theme.ACCENT), 2))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(rect.adjusted(-1, -1, 1, 1))
        if version.letter in tile.chosen:
            _tick(p, rect)
    if tile.frame is not None:
        for rect in tile.rects:
            x = rect.left() + (tile.frame - found.start) / found.frames * rect.width()
            if not rect.isEmpty():
                p.fillRect(QRectF(x, rect.bottom() - 8, 2, 8), QColor(theme.ACCENT))


def _words_above(p: QPainter, session: Session, shot: int, area: QRectF, shapes: bool) -> None:
    """The number, time, length and lead of a shot, as much as one line has room for.

    Where there is room for two lines the reason stands in the second. ``shapes``: issues and edits
    are marked here, as there is no line below the pictures.
    """
    found, said = session.analysis.shots[shot], session.told(session.letter, shot)
    line = min(theme.scaled(LINE), area.height())
    time_words = timecode(found.start, session.analysis.master.rate)
    length = f"{found.frames / session.rate:.1f} s"
    first = f"{shot + 1}"
    p.setFont(theme.ui_font(13, bold=True))
    p.setPen(QColor(theme.WORDS))
    p.drawText(QRectF(area.left(), area.top(), area.width(), line), MIDDLE, first)
    left = area.left() + p.fontMetrics().horizontalAdvance(first) + WORD_GAP
    p.setFont(theme.ui_font(12))
    p.setPen(QColor(theme.QUIET))
    room = area.right() - left - (SHAPE_WIDE if shapes else 0)
    lead = said.lead[:1].upper() + said.lead[1:]
    words = next((each for each in (
        WORD_SPACE.join((time_words, length, lead)), WORD_SPACE.join((length, lead)), length)
        if p.fontMetrics().horizontalAdvance(each) <= room), "")
    p.drawText(QRectF(left, area.top(), room, line), MIDDLE, words)
    if shapes:
        x = left + p.fontMetrics().horizontalAdvance(words) + WORD_GAP
        _shape(p, session, shot, [version.letter for version in session.project.versions],
               QPointF(x, area.top() + line / 2))
    if area.height() > 1.5 * line:
        second = QRectF(area.left(), area.top() + line, area.width(), line)
        p.drawText(second, MIDDLE, p.fontMetrics().elidedText(
            said.why, Qt.TextElideMode.ElideRight, round(area.width())))


def _shape(
    p: QPainter, session: Session, shot: int, letters: list[str], at: QPointF
) -> tuple[str, str]:
    """Paint a triangle for issues, a square for edits, a ring for neither, at its middle.

    Returns its word and the word's colour.
    """
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(Qt.PenStyle.NoPen)
    flags = [flag for letter in letters for flag in session.flags(letter, shot)]
    if session.analysis.goes_on(shot):
        p.setPen(QPen(QColor(theme.QUIET), 1.6, Qt.PenStyle.DotLine))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawEllipse(at, 3.6, 3.6)
        return tr("analysing"), theme.QUIET
    if flags:
        p.setBrush(QColor(theme.BAD))
        p.drawPolygon(QPolygonF([at + QPointF(-5, 4), at + QPointF(5, 4), at + QPointF(0, -5)]))
        return tr(flags[0].kind), theme.BAD
    if any(session.project.choice(letter, shot).touched for letter in letters):
        p.setBrush(QColor(theme.ACCENT))
        p.drawRect(QRectF(at.x() - 4, at.y() - 4, 8, 8))
        return tr("edited"), theme.ACCENT
    if len(letters) > 1:
        return "", theme.QUIET  # nothing to say of any version
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(QColor(theme.QUIET), 1.6))
    p.drawEllipse(at, 3.6, 3.6)
    return tr("auto"), theme.QUIET


def _state(
    p: QPainter, session: Session, shot: int, letter: str, rect: QRectF, high: int
) -> None:
    """Shape and words below a picture; words that have no room are left out whole."""
    at = QPointF(rect.left() + 5, rect.bottom() + high / 2 + 1)
    word, tint = _shape(p, session, shot, [letter], at)
    room = QRectF(at.x() + 9, rect.bottom() + 1, rect.right() - at.x() - 9, high)
    p.setPen(QColor(tint))
    p.setFont(theme.ui_font(12))
    fits = next((each for each in (*_more_words(session, shot, letter, word), word)
                 if p.fontMetrics().horizontalAdvance(each) <= room.width()), "")
    p.drawText(room, MIDDLE, fits)


def _more_words(session: Session, shot: int, letter: str, word: str) -> tuple[str, ...]:
    """The state of a cell in more words than its own: with a remedy, or with the manner."""
    if session.analysis.goes_on(shot):
        return ()
    offered = session.told(letter, shot).offered
    if offered is not None:
        return (tr("{word} · try {name}", word=word, name=tr(offered.name)),)
    layout = session.project.choice(letter, shot).layout
    manner = tr(session.path(letter, shot).manner) if layout.cropped else name_of(layout)
    return (f"{word} · {manner}",)


def _tick(p: QPainter, rect: QRectF) -> None:
    """The mark of a selected cell: a folded corner with a tick in it."""
    corner = rect.topRight()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(theme.ACCENT))
    size = min(30.0, rect.height() / 3)
    p.drawPolygon(QPolygonF([corner, corner + QPointF(-size, 0), corner + QPointF(0, size)]))
    p.setPen(QPen(QColor("#1b1510"), 2))
    unit = size / 30
    p.drawPolyline(QPolygonF([corner + QPointF(-14, 8) * unit, corner + QPointF(-10, 12) * unit,
                              corner + QPointF(-4, 5) * unit]))
