"""Pages that scroll where a small window has no room for all their rows."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QStackedWidget

LEAST_HIGH = 110  # pixels: three rows
BAR_WIDE = 14  # pixels, of the bar that scrolls them


class TallPages(QScrollArea):
    """Shows the pages of a stack as high as they are, if there is room."""

    def __init__(self, pages: QStackedWidget) -> None:
        super().__init__()
        self._pages = pages
        self.setWidget(pages)
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        pages.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """When rows come or go the room for them is given anew."""
        if event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return super().eventFilter(watched, event)

    def sizeHint(self) -> QSize:
        return self._pages.sizeHint()

    def minimumSizeHint(self) -> QSize:
        return QSize(self._pages.minimumSizeHint().width() + BAR_WIDE, LEAST_HIGH)
