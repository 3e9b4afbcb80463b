"""A view in a window that is smaller than it needs: what has no room is scrolled to."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

LEAST = QSize(320, 200)  # pixels: smaller, there is nothing left to work on


class Fitting(QScrollArea):
    """Shows ``view`` as large as there is room, and never smaller than it can be."""

    def __init__(self, view: QWidget) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidgetResizable(True)
        self.setWidget(view)

    def minimumSizeHint(self) -> QSize:
        return LEAST
