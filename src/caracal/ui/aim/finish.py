"""The finish of a shot in one version: turned by quarters, straightened, sharpened."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDoubleSpinBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QWidget,
    QWidgetAction,
)

from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.project.edits import MOST_STRAIGHTEN, with_finish
from caracal.ui.session import Session

TURNS = ("upright", "90° right", "180°", "90° left")


class FinishButton(QPushButton):
    """Opens a small panel; says in a word what is done to the picture."""

    def __init__(self, session: Session) -> None:
        super().__init__("Finish")
        self._session = session
        self.setObjectName("small")
        self.setToolTip("Turn, straighten or sharpen the picture of this shot in this version")
        self.turn = QPushButton()
        self.turn.setToolTip("Turn the picture clockwise by a quarter")
        self.turn.clicked.connect(self._turn)
        self.straighten = self._spin(-MOST_STRAIGHTEN, MOST_STRAIGHTEN, 0.1, 1, "°",
                                     "Turn the picture clockwise by a few degrees: level horizons")
        self.sharpen = self._spin(0, 100, 10, 0, " %",
                                  "Make fine detail stronger where the picture is enlarged")
        self.plain = QPushButton("Plain")
        self.plain.setToolTip("Neither turned, straightened nor sharpened")
        self.plain.clicked.connect(lambda: self._set(PLAIN))
        menu = QMenu(self)
        action = QWidgetAction(menu)
        action.setDefaultWidget(self._panel())
        menu.addAction(action)
        self.setMenu(menu)
        for signal in (session.solutions_changed, session.version_changed):
            signal.connect(self.sync)
        session.frame_changed.connect(lambda _: self.sync())
        self.sync()

    def _spin(self, low: float, high: float, step: float, digits: int, unit: str,
              tip: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(low, high)
        box.setSingleStep(step)
        box.setDecimals(digits)
        box.setSuffix(unit)
        box.setKeyboardTracking(False)
        box.setAlignment(Qt.AlignmentFlag.AlignRight)
        box.setToolTip(f"{tip}: type a number, or step it with the arrow keys")
        box.valueChanged.connect(lambda _, name=tip: self._typed(name))
        return box

    def _panel(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        rows = QGridLayout(panel)
        rows.setContentsMargins(16, 12, 16, 12)
        rows.setSpacing(8)
        for row, (name, control) in enumerate((("Turn", self.turn), ("Straighten", self.straighten),
                                               ("Sharpen", self.sharpen))):
            rows.addWidget(QLabel(name), row, 0)
            rows.addWidget(control, row, 1)
        last = QHBoxLayout()
        last.addStretch(1)
        last.addWidget(self.plain)
        rows.addLayout(last, 3, 0, 1, 2)
        return panel

    def _now(self) -> Finish:
        session = self._session
        return session.project.choice(session.letter, session.shot).finish

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        now = self._now()
        for box, value in ((self.straighten, now.straighten), (self.sharpen, now.sharpen * 100)):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self.turn.setText(TURNS[now.quarter_turns].capitalize())
        self.plain.setEnabled(now != PLAIN)
        self.setText("Finish" if now == PLAIN else f"Finish: {_words(now)}")

    def _turn(self) -> None:
        now = self._now()
        self._set(msgspec.structs.replace(now, quarter_turns=(now.quarter_turns + 1) % 4))

    def _typed(self, box: str) -> None:
        self._set(Finish(self._now().quarter_turns, self.straighten.value(),
                         self.sharpen.value() / 100),
                  ("finish", self._session.letter, self._session.shot, box))

    def _set(self, finish: Finish, gesture: object | None = None) -> None:
        session = self._session
        session.edit(with_finish(session.project, session.letter, session.shot, finish),
                     f"Shot {session.shot + 1} in {session.letter}: {_words(finish)}.", gesture)


def _words(finish: Finish) -> str:
    words = [TURNS[finish.quarter_turns]] if finish.quarter_turns else []
    words += [f"{finish.straighten:+.1f}°"] if finish.straighten else []
    words += [f"sharper {finish.sharpen:.0%}"] if finish.sharpen else []
    return ", ".join(words) or "plain"
