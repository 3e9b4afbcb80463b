"""Painting what every view shows: pictures pixel for pixel, and the badges of versions."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QColor, QPainter, QPixmap, QPolygonF, QTransform

from caracal.core.base.geometry import Box
from caracal.core.layout.model import Canvas
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

LARGER = 1.5  # times as wide as it is shown
BADGE = QSize(20, 18)


def scaled(box: Box, factor: float) -> QRectF:
    """A box in master pixels as a rectangle ``factor`` times as large."""
    return QRectF(*(value * factor for value in box))


def canvas_of(target: QRectF, scale: float) -> Canvas:
    """The pixels of the screen, even in number, that ``target`` has at ``scale`` of them a point.
    """
    return (max(2, 2 * round(target.width() * scale / 2)),
            max(2, 2 * round(target.height() * scale / 2)))


def paint_picture(p: QPainter, session: Session, letter: str, frame: int, target: QRectF) -> bool:
    """Paint version ``letter`` (empty: the whole master) at ``frame``; False: it is not there yet.

    Until it is, the nearest picture of the same shot stands for it, so that nothing flickers.
    """
    scale = p.device().devicePixelRatioF()
    canvas = canvas_of(target, scale)
    image = session.preview.get(letter, frame, canvas)
    if image is None:
        shot = session.analysis.shots[session.analysis.shot_at(frame)]
        found = session.preview.near(letter, frame, shot.start, shot.end)
        if found is None:
            p.fillRect(target, QColor(theme.RAISED))
        else:
            # A much larger one takes milliseconds to be brought down smoothly, and goes at once.
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform,
                            found.width() < LARGER * canvas[0])
            p.drawImage(target, found)
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
        return False
    corner = QPointF(round(target.left() * scale), round(target.top() * scale)) / scale
    p.drawImage(QRectF(corner, QSizeF(*canvas) / scale), image)
    return True


def leaning(rect: QRectF, degrees: float) -> QPolygonF:
    """The corners of ``rect`` turned anticlockwise by ``degrees`` about its middle."""
    middle = rect.center()
    turn = QTransform().translate(middle.x(), middle.y()).rotate(-degrees).translate(
        -middle.x(), -middle.y())
    return turn.map(QPolygonF(rect))


def upright_outline(p: QPainter, rect: QRectF, index: int, width: int) -> None:
    """The outline of version number ``index`` along an upright ``rect``, inside it."""
    scale = p.device().devicePixelRatioF()
    along, down = (_line(index, width, upright, scale) for upright in (False, True))
    p.drawTiledPixmap(QRectF(rect.topLeft(), QSizeF(rect.width(), width)), along)
    p.drawTiledPixmap(QRectF(rect.left(), rect.bottom() - width, rect.width(), width), along)
    p.drawTiledPixmap(QRectF(rect.topLeft(), QSizeF(width, rect.height())), down)
    p.drawTiledPixmap(QRectF(rect.right() - width, rect.top(), width, rect.height()), down)


@cache
def _line(index: int, width: int, upright: bool, scale: float) -> QPixmap:
    """A piece of a version's line, painted once: stroking long dashed lines takes milliseconds.

    It is as long as a whole number of its pattern's repeats.
    """
    pen = theme.version_pen(index, width)
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    repeat = sum(pen.dashPattern()) * width or 12.0
    made = QPixmap(QSize(round(repeat * 6 * scale), round(width * scale)))
    made.setDevicePixelRatio(scale)
    made.fill(Qt.GlobalColor.transparent)
    with QPainter(made) as inside:
        inside.setPen(pen)
        inside.drawLine(QPointF(0, width / 2), QPointF(repeat * 6, width / 2))
    return made.transformed(QTransform().rotate(90)) if upright else made


def letter_badge(p: QPainter, x: float, y: float, letter: str, index: int) -> None:
    """A version's letter on its colour."""
    p.drawPixmap(QPointF(round(x), round(y)), _badge(letter, index, p.device().devicePixelRatioF()))


@cache
def _badge(letter: str, index: int, scale: float) -> QPixmap:
    """Painted once: letters and round corners take long, and every picture bears some."""
    made = QPixmap(BADGE * scale)
    made.setDevicePixelRatio(scale)
    made.fill(Qt.GlobalColor.transparent)
    with QPainter(made) as p:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(theme.VERSION_COLOURS[index % len(theme.VERSION_COLOURS)]))
        p.drawRoundedRect(QRectF(QPointF(0, 0), BADGE.toSizeF()), 3, 3)
        p.setPen(QColor("#161616"))
        p.setFont(theme.ui_font(12, bold=True))
        p.drawText(QRectF(QPointF(0, 0), BADGE.toSizeF()), Qt.AlignmentFlag.AlignCenter, letter)
    return made


def paint_plate(p: QPainter, area: QRectF, words: str) -> None:
    """``words`` on a dark plate in the upper left corner of ``area``."""
    p.setFont(theme.ui_font(12, bold=True))
    plate = QRectF(area.left(), area.top(), p.fontMetrics().horizontalAdvance(words) + 20,
                   theme.scaled(26))
    p.fillRect(plate, QColor(20, 20, 20, 220))
    p.setPen(QColor(theme.ACCENT))
    p.drawText(plate, Qt.AlignmentFlag.AlignCenter, words)


def around(whole: QRectF, inner: QRectF) -> list[QRectF]:
    """What of ``whole`` lies above, below, left and right of ``inner``."""
    return [QRectF(whole.topLeft(), QPointF(whole.right(), inner.top())),
            QRectF(QPointF(whole.left(), inner.bottom()), whole.bottomRight()),
            QRectF(QPointF(whole.left(), inner.top()), inner.bottomLeft()),
            QRectF(inner.topRight(), QPointF(whole.right(), inner.bottom()))]
