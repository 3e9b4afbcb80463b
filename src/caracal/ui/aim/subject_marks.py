"""How a subject is marked in the master's picture: its corners, and what it is."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from caracal.core.framing.lead import Subject
from caracal.core.translation import tr
from caracal.ui import theme
from caracal.ui.session import Session


def paint_subject(
    p: QPainter, session: Session, subject: Subject, rect: QRectF, over: bool
) -> None:
    """Draw the corners of ``rect``, where ``subject`` is, and its part in the shot if it has one.

    With ``over``, the pointer is on it: then it is told what it is, whatever its part.
    """
    leads = subject.id == session.path(session.letter, session.shot).lead_at(session.frame)
    tint = QColor(theme.ACCENT) if leads else QColor(theme.WORDS)
    tint.setAlpha(255 if leads or over else 110)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.setPen(QPen(tint, 2.2 if leads else 1.2))
    corner = min(18.0, rect.width() / 3, rect.height() / 3)
    for x, dx in ((rect.left(), corner), (rect.right(), -corner)):
        for y, dy in ((rect.top(), corner), (rect.bottom(), -corner)):
            p.drawLine(QPointF(x, y), QPointF(x + dx, y))
            p.drawLine(QPointF(x, y), QPointF(x, y + dy))
    word = _word(session, subject, leads)
    if word != subject.kind or over:
        p.setFont(theme.ui_font(12, bold=leads))
        wide = p.fontMetrics().horizontalAdvance(word) + 10
        high = theme.scaled(18)
        label = QRectF(rect.left(), max(0.0, rect.top() - high - 1), wide, high)
        p.fillRect(label, QColor(20, 20, 20, 200))
        p.setPen(tint)
        p.drawText(label, Qt.AlignmentFlag.AlignCenter, word)


def _word(session: Session, subject: Subject, leads: bool) -> str:
    cast, kind = session.project.cast(session.shot), tr(subject.kind)
    if leads:
        return tr("{kind}, leads", kind=kind)
    if subject.id == cast.second:
        return tr("{kind}, second", kind=kind)
    return tr("{kind}, ignored", kind=kind) if subject.id in cast.ignored else kind
