"""What the pages of Aim have in common: they show the current shot while they are seen."""

from __future__ import annotations

from PySide6.QtCore import QTimer
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from caracal.ui.session.session import Session

GAP = 8  # pixels between the parts of a page


class ShotPage(QWidget):
    """Subclasses fill :attr:`column` and show in :meth:`sync` what is decided for the shot."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._seen: tuple[int, str] | None = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(GAP)

    def follow(self) -> None:
        """Show what changes from now on."""
        session = self._session
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self._sync_if_seen)
        session.cursor.frame_changed.connect(lambda _: self._follow())
        self.sync()

    def _follow(self) -> None:
        """While a shot plays nothing that is decided for it changes."""
        if (self._session.shot, self._session.letter) != self._seen or self.by_frame:
            self._sync_if_seen()

    by_frame = False  # whether it shows what differs from frame to frame

    def _sync_if_seen(self) -> None:
        if self.isVisible():
            self._seen = (self._session.shot, self._session.letter)
            self.sync()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        QTimer.singleShot(0, self, self._sync_if_seen)

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        raise NotImplementedError
