"""The head of the Board's grid: what each column shows."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from caracal.core.base.translation import tr
from caracal.ui.board.rows import GAP, about_wide
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import letter_badge

HEAD, HEAD_GAP = 40, 8  # pixels


def paint_head(
    p: QPainter, session: Session, columns: Sequence[tuple[float, float]], whole: int
) -> None:
    """Paint it over a ``whole`` width; ``columns`` are the left and width of the master's and of
    each version's.
    """
    high = HEAD - HEAD_GAP
    p.fillRect(QRectF(0, 0, whole, high), QColor(theme.PANEL))
    p.setPen(QColor(theme.QUIET))
    p.setFont(theme.ui_font(12))
    line = Qt.AlignmentFlag.AlignVCenter
    words = p.fontMetrics().elidedText(tr("Shot, and why its window rests or moves"),
                                       Qt.TextElideMode.ElideRight, about_wide() - GAP // 2)
    p.drawText(QRectF(GAP, 0, about_wide(), high), line, words)
    left, wide = columns[0]
    p.drawText(QRectF(left, 0, wide, high), line, tr("Master"))
    for i, version in enumerate(session.project.versions):
        left, _ = columns[i + 1]
        letter_badge(p, left, 7, version.letter, i)
        p.setPen(QColor(theme.WORDS))
        p.drawText(QRectF(left + 27, 0, 90, high), line,
                   str(session.sheet(version.letter).shape))
