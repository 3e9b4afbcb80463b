"""The finish of a shot in one version: turned by quarters, straightened, sharpened."""

from __future__ import annotations

import msgspec
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QWidget,
)

from caracal.core.base.translation import tr
from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.project.edits import MOST_PUSH, MOST_STRAIGHTEN, with_finish, with_push
from caracal.ui.aim.shot_panel import ShotPanelButton
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import number_box

MOST_CLOSER = (MOST_PUSH - 1) * 100
TURNS = (tr("upright"), tr("90° right"), "180°", tr("90° left"))


class FinishButton(ShotPanelButton):
    """Opens a small panel; says in a word what is done to the picture."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Finish"),
                         tr("Turn, straighten or sharpen the picture of this shot in this version"))
        self.turn = QPushButton()
        self.turn.setToolTip(tr("Turn the picture clockwise by a quarter"))
        self.turn.clicked.connect(self._turn)
        self.straighten = number_box(-MOST_STRAIGHTEN, MOST_STRAIGHTEN, 0.1, 1, "°",
                                     tr("Turn the picture clockwise by a few degrees: level "
                                        "horizons"))
        self.sharpen = number_box(0, 100, 10, 0, " %",
                                  tr("Make fine detail stronger where the picture is enlarged"))
        self.straighten.valueChanged.connect(lambda _: self._typed("straighten"))
        self.sharpen.valueChanged.connect(lambda _: self._typed("sharpen"))
        self.push = number_box(-MOST_CLOSER, MOST_CLOSER, 5, 0, " %",
                               tr("Come closer slowly over the shot; below 0, begin closer and go "
                                  "back"))
        self.push.valueChanged.connect(self._pushed)
        self.plain = QPushButton(tr("As it was"))
        self.plain.setToolTip(tr("Neither turned, straightened, sharpened nor pushed in"))
        self.plain.clicked.connect(self._make_plain)
        self.open_with(self._panel())

    def _panel(self) -> QWidget:
        panel = QWidget()
        panel.setObjectName("panel")
        rows = QGridLayout(panel)
        rows.setContentsMargins(16, 12, 16, 12)
        rows.setSpacing(8)
        for row, (name, control) in enumerate((
                (tr("Turn"), self.turn), (tr("Straighten"), self.straighten),
                (tr("Sharpen"), self.sharpen), (tr("Push in"), self.push))):
            rows.addWidget(QLabel(name), row, 0)
            rows.addWidget(control, row, 1)
        last = QHBoxLayout()
        last.addStretch(1)
        last.addWidget(self.plain)
        rows.addLayout(last, 4, 0, 1, 2)
        return panel

    def _now(self) -> Finish:
        session = self._session
        return session.project.choice(session.letter, session.shot).finish

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        now = self._now()
        push = self._push()
        closer = (push - 1 if push >= 1 else 1 - 1 / push) * 100
        for box, value in ((self.straighten, now.straighten), (self.sharpen, now.sharpen * 100),
                           (self.push, closer)):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self.turn.setText(TURNS[now.quarter_turns].capitalize())
        self.plain.setEnabled(now != PLAIN or push != 1)
        words = ", ".join(filter(None, ("" if now == PLAIN else _words(now), _push_words(push))))
        self.setText(tr("Finish: {words}", words=words) if words else tr("Finish"))

    def _push(self) -> float:
        session = self._session
        return session.project.choice(session.letter, session.shot).push

    def _pushed(self, percent: float) -> None:
        session, closer = self._session, 1 + abs(percent) / 100
        session.edit(with_push(session.project, session.letter, session.shot,
                               closer if percent >= 0 else 1 / closer),
                     tr("Shot {shot} in {letter}: pushed in by {percent:g} %.",
                        shot=session.shot + 1, letter=session.letter, percent=percent),
                     ("push", session.letter, session.shot))

    def _make_plain(self) -> None:
        session = self._session
        project = with_push(session.project, session.letter, session.shot, 1.0)
        session.edit(with_finish(project, session.letter, session.shot, PLAIN),
                     tr("Shot {shot} in {letter} is plain.", shot=session.shot + 1,
                        letter=session.letter))

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
                     tr("Shot {shot} in {letter}: {words}.", shot=session.shot + 1,
                        letter=session.letter, words=_words(finish)), gesture)


def _words(finish: Finish) -> str:
    words = [TURNS[finish.quarter_turns]] if finish.quarter_turns else []
    words += [f"{finish.straighten:+.1f}°"] if finish.straighten else []
    words += [tr("sharper {sharpen:.0%}", sharpen=finish.sharpen)] if finish.sharpen else []
    return ", ".join(words) or tr("plain")


def _push_words(push: float) -> str:
    if push == 1:
        return ""
    if push > 1:
        return tr("in {push:.0%}", push=push - 1)
    return tr("out {push:.0%}", push=1 / push - 1)
