"""A button of Aim that opens a panel about the current shot in the chosen version."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint
from PySide6.QtWidgets import (
    QMenu,
    QPushButton,
    QWidget,
    QWidgetAction,
)

from caracal.ui.session.session import Session

PANEL_GAP = 12  # pixels between a panel and the pictures that it leaves free


class ShotPanelButton(QPushButton):
    """Shows in a word what is decided, and in its panel all of it; subclasses say what that is."""

    def __init__(self, session: Session, name: str, tip: str) -> None:
        super().__init__(name)
        self._session = session
        self._beside: QWidget | None = None
        self.setObjectName("small")
        self.setToolTip(tip)

    def open_with(self, panel: QWidget) -> None:
        """Let a click open ``panel``, and follow the session from now on."""
        session, menu = self._session, QMenu(self)
        action = QWidgetAction(menu)
        action.setDefaultWidget(panel)
        menu.addAction(action)
        menu.aboutToShow.connect(self.sync)
        self.setMenu(menu)
        menu.installEventFilter(self)
        self._seen: tuple[int, str] | None = None
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        session.cursor.frame_changed.connect(lambda _: self._follow())
        self.sync()

    def keep_free(self, pictures: QWidget) -> None:
        """Open the panel beside ``pictures``, which show what it changes."""
        self._beside = pictures

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The panel is put into its place before it is seen."""
        if event.type() == QEvent.Type.Show and watched is self.menu() and self._beside:
            left = self._beside.mapToGlobal(QPoint(0, 0)).x() - self.menu().width() - PANEL_GAP
            self.menu().move(max(0, left), self.menu().y())
        return super().eventFilter(watched, event)

    def _follow(self) -> None:
        """While a shot plays nothing that is decided for it changes."""
        now = (self._session.shot, self._session.letter)
        if now != self._seen or self.menu().isVisible():
            self._seen = now
            self.sync()

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        raise NotImplementedError
