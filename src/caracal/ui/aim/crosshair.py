"""Placing by keys what is else placed by a pointer: a mark that arrows move, and a box from it."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen

from caracal.ui.widgets import theme

STEP, FINE = 8.0, 1.0  # pixels of the screen, and with Shift
ARM = 12.0  # pixels: each arm of the mark
WAYS = {Qt.Key.Key_Left: QPointF(-1, 0), Qt.Key.Key_Right: QPointF(1, 0),
        Qt.Key.Key_Up: QPointF(0, -1), Qt.Key.Key_Down: QPointF(0, 1)}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class Crosshair:
    """A mark inside ``area``. Return sets it down; a box is drawn from there to where it is then.

    ``boxes`` says that a box is wanted: the first Return begins it, the second ends it. Without,
    the first one already is the answer.
    """

    def __init__(self, area: QRectF, at: QPointF, boxes: bool) -> None:
        self._area, self._boxes = area, boxes
        self.at = at if area.contains(at) else area.center()
        self._corner: QPointF | None = None

    @property
    def box(self) -> QRectF | None:
        """The box so far; None: none was begun."""
        return None if self._corner is None else QRectF(self._corner, self.at).normalized()

    @staticmethod
    def knows(event: QKeyEvent) -> bool:
        """Whether a key is one of its own."""
        bare = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() in ENTER:
            return bare == Qt.KeyboardModifier.NoModifier
        return event.key() in WAYS and bare in (Qt.KeyboardModifier.NoModifier,
                                                Qt.KeyboardModifier.ShiftModifier)

    def press(self, event: QKeyEvent) -> bool:
        """Do what a key says. Returns whether that was the last one: the place is chosen."""
        if event.key() in ENTER:
            if not self._boxes or self._corner is not None:
                return True
            self._corner = QPointF(self.at)
            return False
        step = FINE if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else STEP
        moved = self.at + WAYS[Qt.Key(event.key())] * step
        self.at = QPointF(min(max(moved.x(), self._area.left()), self._area.right()),
                          min(max(moved.y(), self._area.top()), self._area.bottom()))
        return False

    def paint(self, p: QPainter) -> None:
        """Draw the mark on a dark edge, so that it is seen on anything."""
        for colour, wide in ((theme.GROUND, 4), (theme.ACCENT, 2)):
            p.setPen(QPen(QColor(colour), wide))
            p.drawLine(self.at - QPointF(ARM, 0), self.at + QPointF(ARM, 0))
            p.drawLine(self.at - QPointF(0, ARM), self.at + QPointF(0, ARM))
