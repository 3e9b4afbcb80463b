"""What is said at the bottom of the window: shown, told to screen readers, and kept for a while."""

from __future__ import annotations

import textwrap
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent, QMouseEvent
from PySide6.QtWidgets import QMenu, QPushButton, QStatusBar, QWidget

from caracal.core.base.translation import tr
from caracal.ui.session.reach import Offer
from caracal.ui.session.session import Session

MOST_KEPT = 20
SAID_MS = 8000
MOST_LETTERS = 110  # of a message in the list; its tip has all of them


@dataclass(frozen=True)
class Message:
    """What was said, when, and where in the open film: a version's letter and a frame, or None."""

    words: str
    moment: datetime
    place: tuple[str, int] | None


class Messages(QStatusBar):
    """A click opens what was said lately; a click on one of that goes where it was said."""

    def __init__(self, parent: QWidget, session: Callable[[], Session | None]) -> None:
        """``session`` gives that of the film that is open, if one is."""
        super().__init__(parent)
        self._session = session
        self.said: deque[Message] = deque(maxlen=MOST_KEPT)
        self.setToolTip(tr("Click for the message history"))
        self.setAccessibleName(tr("Last message"))
        self.offers: list[QPushButton] = []

    def offer(self, offers: Sequence[Offer]) -> None:
        """Show a button for each of ``offers`` until the next message."""
        for button in self.offers:
            self.removeWidget(button)
            button.deleteLater()
        self.offers = []
        for offer in offers:
            button = QPushButton(offer.words)
            button.setObjectName("slim")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(tr("Make the last edit with this reach instead"))
            button.clicked.connect(lambda _=False, offer=offer: offer.apply())
            self.insertPermanentWidget(len(self.offers), button)
            button.show()
            self.offers.append(button)

    def say(self, words: str, for_ms: int = SAID_MS) -> None:
        """Show ``words`` for a while, and keep them."""
        self.offer(())
        session = self._session()
        place = None if session is None else (session.letter, session.frame)
        self.said.appendleft(Message(words, datetime.now(), place))
        self.showMessage(words, for_ms)
        QAccessible.updateAccessibility(QAccessibleAnnouncementEvent(self, words))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.show_all()

    def show_all(self) -> QMenu:
        """Open what was said lately, the newest first."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.setToolTipsVisible(True)
        for message in self.said:
            words = textwrap.shorten(message.words, MOST_LETTERS, placeholder="…")
            action = menu.addAction(f"{message.moment:%H:%M:%S}  {words.replace('&', '&&')}")
            action.setToolTip(message.words)
            action.setEnabled(message.place is not None)
            action.triggered.connect(lambda _=False, at=message.place: self._go(at))
        if not self.said:
            menu.addAction(tr("No messages yet")).setEnabled(False)
        menu.popup(self.mapToGlobal(QPoint(0, -menu.sizeHint().height())))
        return menu

    def _go(self, place: tuple[str, int] | None) -> None:
        """Be where something was said, if its film and version are still open."""
        session = self._session()
        if session is None or place is None:
            return
        if place[0] in {version.letter for version in session.project.versions}:
            session.choose_version(place[0])
        session.go(place[1])
