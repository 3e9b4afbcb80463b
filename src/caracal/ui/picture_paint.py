"""Painting a version's picture: the window's part of a proxy frame onto a rectangle."""

from __future__ import annotations

from functools import cache

from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPixmap, QPolygonF, QTransform

from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.geometry import Box, Shape, rotated_extent
from caracal.ui import theme
from caracal.ui.session import Session

BADGE = QSize(20, 18)


def scaled(box: Box, factor: float) -> QRectF:
    """A box in master pixels as a rectangle ``factor`` times as large."""
    return QRectF(*(value * factor for value in box))


def paint_version(
    p: QPainter, session: Session, letter: str, frame: int | None, target: QRectF, telling: int
) -> None:
    """Version ``letter`` at ``frame``; None, or while that is fetched: a small picture of
    ``telling``."""
    image, at = _picture(session, frame, telling)
    if image is None:
        p.fillRect(target, QColor(theme.RAISED))
        return
    factor = image.width() / session.analysis.master.width
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    path = session.path(letter, session.analysis.shot_at(at))
    window = session.window(letter, at)
    if path.finish == PLAIN:
        p.drawImage(target, image, scaled(window, factor))
    else:
        _finished(p, image, scaled(window, factor), target, path.finish)


def _finished(p: QPainter, image: QImage, part: QRectF, target: QRectF, finish: Finish) -> None:
    """``part`` of the picture turned and straightened onto ``target``."""
    lying = QSizeF(target.size())
    if finish.quarter_turns % 2:
        lying.transpose()
    shape = Shape.of(round(lying.width()), round(lying.height()))
    across, down = rotated_extent(shape, finish.straighten)
    wide, high = lying.width() * across, lying.height() * down
    source = QRectF(0, 0, part.width() * across, part.height() * down)
    source.moveCenter(part.center())
    p.save()
    p.setClipRect(target)
    p.translate(target.center())
    p.rotate(90 * finish.quarter_turns + finish.straighten)
    p.drawImage(QRectF(-wide / 2, -high / 2, wide, high), image, source)
    p.restore()


def leaning(rect: QRectF, degrees: float) -> QPolygonF:
    """The corners of ``rect`` turned anticlockwise by ``degrees`` about its middle."""
    middle = rect.center()
    turn = QTransform().translate(middle.x(), middle.y()).rotate(-degrees).translate(
        -middle.x(), -middle.y())
    return turn.map(QPolygonF(rect))


def _picture(session: Session, frame: int | None, telling: int) -> tuple[QImage | None, int]:
    """A picture and its frame: that of ``frame``, else the nearest of its shot, else the small one.

    So nothing flickers while pictures are on their way.
    """
    if frame is None:
        return session.pictures.small(telling), telling
    image = session.pictures.get(frame)
    if image is not None:
        return image, frame
    shot = session.analysis.shots[session.analysis.shot_at(frame)]
    return session.pictures.near(frame, shot.start, shot.end) or (
        session.pictures.small(telling), telling)


def awaited(session: Session, arrived: int) -> bool:
    """Whether the picture that arrived is the playhead's, or may stand for it until that is."""
    return arrived == session.frame or session.pictures.get(session.frame) is None


def paint_master(
    p: QPainter, session: Session, frame: int | None, target: QRectF, telling: int
) -> None:
    """The whole picture at ``frame``; None: a small picture of ``telling``."""
    image, _ = _picture(session, frame, telling)
    if image is None:
        p.fillRect(target, QColor(theme.RAISED))
        return
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawImage(target, image)


def letter_badge(p: QPainter, x: float, y: float, letter: str, index: int) -> None:
    """A version's letter on its colour."""
    p.drawPixmap(QPointF(round(x), round(y)), _badge(letter, index, p.device().devicePixelRatioF()))


@cache
def _badge(letter: str, index: int, scale: float) -> QPixmap:
    """Painted once: letters and round corners take long, and every picture bears some."""
    made = QPixmap(BADGE * scale)
    made.setDevicePixelRatio(scale)
    made.fill(Qt.GlobalColor.transparent)
    p = QPainter(made)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(theme.VERSION_COLOURS[index % len(theme.VERSION_COLOURS)]))
    p.drawRoundedRect(QRectF(QPointF(0, 0), BADGE.toSizeF()), 3, 3)
    p.setPen(QColor("#161616"))
    p.setFont(theme.ui_font(12, bold=True))
    p.drawText(QRectF(QPointF(0, 0), BADGE.toSizeF()), Qt.AlignmentFlag.AlignCenter, letter)
    p.end()
    return made
