"""A line of words that never makes the window wider: what does not fit is in its tooltip."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QSizePolicy


class Elided(QLabel):
    """A label of one line that ends in … where it must."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def setText(self, text: str) -> None:
        self.setToolTip(text)
        super().setText(text)

    def minimumSizeHint(self) -> QSize:
        return QSize(0, super().minimumSizeHint().height())

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            shown = self.fontMetrics().elidedText(
                self.text(), Qt.TextElideMode.ElideRight, self.width())
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter, shown)
