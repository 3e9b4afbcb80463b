"""A painted widget whose keys a cursor takes once it was reached by Tab."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent
from PySide6.QtWidgets import QWidget

BY_TAB = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)


class KeyCursor(Protocol):
    """What acts on a widget by keys."""

    def knows(self, event: QKeyEvent) -> bool:
        """Whether a key does something here, now."""
        ...

    def press(self, event: QKeyEvent) -> None:
        """Do what a key that it knows says."""
        ...


class KeyedWidget(QWidget):
    """``key_cursor`` is set by whatever derives from it; ``by_keys`` says whether the widget was
    reached by Tab: after a click arrows stay the film's."""

    key_cursor: KeyCursor
    by_keys = False

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.by_keys = event.reason() in BY_TAB
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.by_keys = False
        super().focusOutEvent(event)
        self.update()

    def own_keys(self, event: QKeyEvent) -> bool:
        """Keys of the cursor; all others are the film's."""
        return self.key_cursor.knows(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not self.key_cursor.knows(event):
            super().keyPressEvent(event)
            return
        self.key_cursor.press(event)
        self.update()
