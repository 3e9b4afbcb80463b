"""The buttons at the film line: play, previous and next shot, next issue."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from caracal.core.base.resources import shipped
from caracal.core.base.translation import tr
from caracal.ui.session.navigation import next_issue, play_or_stop, step_shot
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

ICON = 14  # pixels


@cache
def _icon(name: str) -> QIcon:
    return QIcon(shipped("icons", f"{name}.svg").as_posix())


class Transport(QWidget):
    """Four buttons, as wide together as the column of views below them."""

    def __init__(self, session: Session, wide: int) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(wide)
        self.previous = self._button("previous-shot", tr("Previous shot"), tr("Up"),
                                     lambda: step_shot(session, -1))
        self.play = self._button("play", tr("Play"), tr("Space"), lambda: play_or_stop(session))
        self.next = self._button("next-shot", tr("Next shot"), tr("Down"),
                                 lambda: step_shot(session, 1))
        self.issue = self._button("next-issue", tr("Next issue"), "F", lambda: next_issue(session))
        self.issue.setText(tr("Next issue"))
        row = QHBoxLayout()
        row.setSpacing(4)
        for button in (self.previous, self.play, self.next):
            row.addWidget(button, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 8, 4, 8)
        column.setSpacing(6)
        column.addLayout(row)
        column.addWidget(self.issue)
        column.addStretch(1)
        session.playing.speed_changed.connect(self._show)

    @staticmethod
    def _button(icon: str, name: str, key: str, run: Callable[[], None]) -> QPushButton:
        button = QPushButton()
        button.setObjectName("slim")
        button.setIcon(_icon(icon))
        button.setIconSize(QSize(theme.scaled(ICON), theme.scaled(ICON)))
        button.setAccessibleName(name)
        button.setToolTip(tr("{name} (key {key})", name=name, key=key))
        button.clicked.connect(lambda _=False: run())
        return button

    def _show(self, speed: int) -> None:
        """Show whether the film plays."""
        self.play.setIcon(_icon("pause" if speed else "play"))
        name = tr("Stop") if speed else tr("Play")
        self.play.setAccessibleName(name)
        self.play.setToolTip(tr("{name} (key {key})", name=name, key=tr("Space")))
