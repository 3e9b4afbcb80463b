"""A view in a window that is smaller than it needs: what has no room is scrolled to."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

LEAST = QSize(320, 200)  # pixels: smaller, there is nothing left to work on


class Fitting(QScrollArea):
    """Shows the view that it holds as large as there is room, and never smaller than it can be.

    A resizable scroll area of Qt's would give a view the height that it prefers for its width.
    """

    def __init__(self) -> None:
        super().__init__()
        self._view: QWidget | None = None
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def hold(self, view: QWidget) -> None:
        """Show ``view`` from now on."""
        self._view = view
        self.setWidget(view)
        view.installEventFilter(self)

    def minimumSizeHint(self) -> QSize:
        return LEAST

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._view and event.type() is QEvent.Type.LayoutRequest:
            self._fit()
        return super().eventFilter(watched, event)

    def _fit(self) -> None:
        if self._view is None:
            return
        least = self._view.minimumSizeHint().expandedTo(self._view.minimumSize())
        self._view.resize(self.viewport().size().expandedTo(least))
