"""How a subject is marked in the master's picture: its corners, and what it is."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from caracal.core.base.geometry import Box
from caracal.core.base.translation import tr
from caracal.core.framing.lead import Subject
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme


def subjects_seen(
    session: Session, place_of: Callable[[Box], QRectF], over: int | None
) -> list[tuple[Subject, QRectF, bool]]:
    """Who is seen in the frame that shows, where it is, and whether it is the one that the pointer
    is ``over``, by number."""
    return [(subject, place_of(box), subject.id == over)
            for subject in session.people.subjects(session.shot)
            if (box := subject.box_at(session.frame)) is not None]


def paint_corners(
    p: QPainter, session: Session, subject: Subject, rect: QRectF, over: bool
) -> None:
    """Draw the corners of ``rect``, where ``subject`` is; clearer with the pointer ``over`` it."""
    leads = _leads(session, subject)
    tint = _tint(leads)
    tint.setAlpha(255 if leads or over else 110)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(tint, 2.2 if leads else 1.2))
    corner = min(18.0, rect.width() / 3, rect.height() / 3)
    for x, dx in ((rect.left(), corner), (rect.right(), -corner)):
        for y, dy in ((rect.top(), corner), (rect.bottom(), -corner)):
            p.drawLine(QPointF(x, y), QPointF(x + dx, y))
            p.drawLine(QPointF(x, y), QPointF(x, y + dy))


def paint_part(
    p: QPainter, session: Session, subject: Subject, rect: QRectF, over: bool, area: QRectF
) -> None:
    """Write the part of ``subject`` in the shot over ``rect``, where it is, if it has one.

    The word stays between the sides of ``area``, the picture. With the pointer ``over`` the subject
    it is told what it is, whatever its part.
    """
    leads = _leads(session, subject)
    word = _part(session, subject, leads) or (tr(subject.kind) if over else "")
    if not word:
        return
    p.setFont(theme.ui_font(12, bold=leads))
    wide, high = p.fontMetrics().horizontalAdvance(word) + 10, theme.scaled(18)
    label = QRectF(max(area.left(), min(rect.left(), area.right() - wide)),
                   max(0.0, rect.top() - high - 1), wide, high)
    p.fillRect(label, QColor(20, 20, 20, 225))  # lines of windows go on below it
    p.setPen(_tint(leads))
    p.drawText(label, Qt.AlignmentFlag.AlignCenter, word)


def _leads(session: Session, subject: Subject) -> bool:
    return subject.id == session.path(session.letter, session.shot).lead_at(session.frame)


def _tint(leads: bool) -> QColor:
    return QColor(theme.ACCENT) if leads else QColor(theme.WORDS)


def _part(session: Session, subject: Subject, leads: bool) -> str:
    cast, kind = session.project.cast(session.shot, session.letter), tr(subject.kind)
    if leads:
        return tr("{kind}, leads", kind=kind)
    if subject.id == cast.second:
        return tr("{kind}, second", kind=kind)
    return tr("{kind}, ignored", kind=kind) if subject.id in cast.ignored else ""
