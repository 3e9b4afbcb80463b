"""The page Finish: rotation, straightening, sharpening, a slow push-in, speed and fades."""

from __future__ import annotations

import msgspec

from caracal.core.base.translation import tr
from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.project.edits import MOST_PUSH, MOST_STRAIGHTEN, with_finish, with_push
from caracal.ui.aim.fade_fields import FadeFields
from caracal.ui.aim.shot_page import ShotPage
from caracal.ui.aim.speed_fields import SpeedFields
from caracal.ui.session.reach import EditKind
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import NUMBER_WIDE, Form
from caracal.ui.widgets.panels import number_box, small_button

MOST_CLOSER = (MOST_PUSH - 1) * 100
TURNS = (tr("None"), tr("90° right"), "180°", tr("90° left"))


class FinishPage(ShotPage):
    """What is done to the picture of the crop, to its speed, and where a version fades."""

    by_frame = True  # speeds belong to stretches

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.turn = small_button("", tr("Rotate the picture clockwise by a quarter turn"),
                                 self._turn)
        self.straighten = number_box(-MOST_STRAIGHTEN, MOST_STRAIGHTEN, 0.1, 1, "°",
                                     tr("Rotate clockwise by a few degrees, to level a horizon"))
        self.sharpen = number_box(0, 100, 10, 0, " %",
                                  tr("Strengthen fine detail where the picture is enlarged"))
        self.straighten.valueChanged.connect(lambda _: self._typed("straighten"))
        self.sharpen.valueChanged.connect(lambda _: self._typed("sharpen"))
        self.push = number_box(-MOST_CLOSER, MOST_CLOSER, 5, 0, " %",
                               tr("Come closer slowly over the shot; below 0, start closer and "
                                  "pull back"))
        self.push.valueChanged.connect(self._pushed)
        self.fades, self.speed = FadeFields(session), SpeedFields(session)
        form = Form()
        form.section(tr("Picture"))
        self._rows = (
            form.row(tr("Rotation"), self.turn,
                     reset=lambda: self._change(tr("no rotation"), quarter_turns=0)),
            form.row(tr("Straighten"), self.straighten,
                     reset=lambda: self._change(tr("not straightened"), straighten=0.0)),
            form.row(tr("Sharpen"), self.sharpen,
                     reset=lambda: self._change(tr("not sharpened"), sharpen=0.0)),
            form.row(tr("Push in"), self.push, reset=lambda: self._pushed(0.0)))
        self.turn.setMinimumWidth(theme.scaled(NUMBER_WIDE))
        for box in (self.straighten, self.sharpen, self.push):
            box.setFixedWidth(theme.scaled(NUMBER_WIDE))
        self.speed.fill(form)
        self.fades.fill(form)
        self.column.addWidget(form)
        self.follow()

    def _now(self) -> Finish:
        session = self._session
        return session.project.choice(session.letter, session.shot).finish

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        now = self._now()
        push = self._session.project.choice(self._session.letter, self._session.shot).push
        closer = (push - 1 if push >= 1 else 1 - 1 / push) * 100
        for box, value in ((self.straighten, now.straighten), (self.sharpen, now.sharpen * 100),
                           (self.push, closer)):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self.turn.setText(TURNS[now.quarter_turns])
        changed = (now.quarter_turns != PLAIN.quarter_turns, now.straighten != PLAIN.straighten,
                   now.sharpen != PLAIN.sharpen, push != 1)
        for row, differs in zip(self._rows, changed, strict=True):
            row.set_changed(differs)
        self.speed.sync()
        self.fades.sync()

    def _pushed(self, percent: float) -> None:
        closer = 1 + abs(percent) / 100
        push = closer if percent >= 0 else 1 / closer
        self._session.editing.edit(
            EditKind.FINISH, tr("push in {percent:g} %", percent=percent),
            lambda project, letter, shot: with_push(project, letter, shot, push),
            ("push", self._session.letter, self._session.shot))

    def _turn(self) -> None:
        turns = (self._now().quarter_turns + 1) % 4
        self._change(tr("rotation {turn}", turn=TURNS[turns].lower()), quarter_turns=turns)

    def _typed(self, field: str) -> None:
        value = self.straighten.value() if field == "straighten" else self.sharpen.value() / 100
        words = (tr("straighten {degrees:+.1f}°", degrees=value) if field == "straighten"
                 else tr("sharpen {share:.0%}", share=value))
        self._change(words, ("finish", self._session.letter, self._session.shot, field),
                     **{field: value})

    def _change(self, words: str, gesture: object | None = None, **changes: float) -> None:
        self._session.editing.edit(
            EditKind.FINISH, words,
            lambda project, letter, shot: with_finish(
                project, letter, shot, msgspec.structs.replace(
                    project.choice(letter, shot).finish, **changes)), gesture)
