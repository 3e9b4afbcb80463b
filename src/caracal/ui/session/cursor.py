"""Where in the film the window stands: a frame, a version, and a pane of it."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from caracal.ui.session.pane_focus import PaneFocus, Shown


class Cursor(QObject):
    """The playhead and the chosen version. ``version_changed`` is emitted for another pane, too."""

    frame_changed = Signal(int)
    version_changed = Signal()

    def __init__(self, shown: Shown, parent: QObject, letter: str = "A") -> None:
        """Start at the first frame of version ``letter``; ``shown`` says what is shown there."""
        super().__init__(parent)
        self.frame, self.letter = 0, letter
        self.pane = PaneFocus(shown, self.version_changed.emit)

    def go(self, frame: int, end: int) -> None:
        """Show ``frame``, held between the first frame and the one before ``end``."""
        held = min(max(0, frame), end - 1)
        if held != self.frame:
            self.frame = held
            self.frame_changed.emit(held)

    def choose_version(self, letter: str) -> None:
        """Work on version ``letter`` from now on."""
        if letter != self.letter:
            self.letter = letter
            self.version_changed.emit()
