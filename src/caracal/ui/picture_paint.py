"""Painting a version's picture: the window's part of a proxy frame onto a rectangle."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from caracal.core.analysis.model import Box
from caracal.ui import theme
from caracal.ui.session import Session


def scaled(box: Box, factor: float) -> QRectF:
    """A box in master pixels as a rectangle ``factor`` times as large."""
    return QRectF(*(value * factor for value in box))


def paint_version(
    p: QPainter, session: Session, letter: str, frame: int, target: QRectF, fallback: int
) -> None:
    """Version ``letter`` at ``frame`` (or, while that is fetched, ``fallback``'s picture)."""
    image = session.pictures.get(frame)
    at = frame
    if image is None:
        image, at = session.pictures.get(fallback), fallback
    if image is None:
        p.fillRect(target, QColor(theme.RAISED))
        return
    factor = image.width() / session.analysis.master.width
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawImage(target, image, scaled(session.window(letter, at), factor))


def paint_master(p: QPainter, session: Session, frame: int, target: QRectF, fallback: int) -> None:
    """The whole picture at ``frame``."""
    image = session.pictures.get(frame) or session.pictures.get(fallback)
    if image is None:
        p.fillRect(target, QColor(theme.RAISED))
        return
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawImage(target, image)


def letter_badge(p: QPainter, x: float, y: float, letter: str, index: int) -> None:
    """A version's letter on its colour."""
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(QColor(theme.VERSION_COLOURS[index % len(theme.VERSION_COLOURS)]))
    p.drawRoundedRect(QRectF(x, y, 20, 18), 3, 3)
    p.setPen(QColor("#161616"))
    p.setFont(theme.ui_font(12, bold=True))
    p.drawText(QRectF(x, y, 20, 18), Qt.AlignmentFlag.AlignCenter, letter)
