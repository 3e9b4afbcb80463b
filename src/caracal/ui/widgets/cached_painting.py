"""What a widget paints again and again, painted once and kept until something it shows changes."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QWidget


class Layer:
    """One picture of a widget's size, made anew when its key differs from the last."""

    def __init__(self, widget: QWidget) -> None:
        self._widget = widget
        self._key: object = None
        self._picture = QPixmap()

    def paint(self, p: QPainter, key: object, draw: Callable[[QPainter], None]) -> None:
        """Paint the layer; ``draw`` fills it when ``key``, the size or the scale changed."""
        size, scale = self._widget.size(), self._widget.devicePixelRatioF()
        whole = (key, size.width(), size.height(), scale)
        if whole != self._key:
            self._key = whole
            self._picture = QPixmap(size * scale)
            self._picture.setDevicePixelRatio(scale)
            self._picture.fill(Qt.GlobalColor.transparent)
            with QPainter(self._picture) as inside:
                draw(inside)
        p.drawPixmap(0, 0, self._picture)

    def add(self, draw: Callable[[QPainter], None]) -> None:
        """Let ``draw`` paint over what the layer shows."""
        if not self._picture.isNull():
            with QPainter(self._picture) as inside:
                draw(inside)
