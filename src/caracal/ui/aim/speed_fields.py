"""The speed at which a version shows a stretch of the film: the shot, or what was set of it."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QObject, QSignalBlocker

from caracal.core.base.errors import CaracalError
from caracal.core.base.time import FASTEST, SLOWEST, FrameRange, timecode
from caracal.core.base.translation import tr
from caracal.core.project.speed_edits import speed_at, with_speed
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import NUMBER_WIDE, Form
from caracal.ui.widgets.panels import choice_box, number_box, quiet, small_button

SOUNDS = (tr("Keep pitch"), tr("Mute"))
PICTURES = (tr("Blend pictures"), tr("Repeat pictures"))


class SpeedFields(QObject):
    """Speed of the shot or of a part of it, with its sound and the pictures between."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._words = quiet("")
        self.percent = number_box(SLOWEST, FASTEST, 5, 0, " %",
                                  tr("How fast this stretch is shown"))
        self.percent.setFixedWidth(theme.scaled(NUMBER_WIDE))
        self.percent.valueChanged.connect(lambda value: self._set(percent=round(value)))
        self.sound = choice_box(SOUNDS, tr("The sound at another speed"),
                                lambda at: self._set(muted=bool(at)))
        self.pictures = choice_box(PICTURES, tr("Pictures between two pictures of the film"),
                                   lambda at: self._set(repeated=bool(at)))
        self.buttons = {
            "From playhead": small_button(tr("From playhead"),
                                          tr("The stretch begins at the playhead"),
                                          lambda: self._bound(start=session.frame)),
            "To playhead": small_button(tr("To playhead"),
                                        tr("The stretch ends after the playhead's frame"),
                                        lambda: self._bound(end_exclusive=session.frame + 1))}

    def fill(self, form: Form) -> None:
        """Add the fields to ``form``, in a section of their own."""
        form.section(tr("Speed"))
        self._row = form.row(tr("Speed"), self.percent, self._words,
                             reset=lambda: self._set(percent=100))
        self._rows = (form.row(tr("Stretch"), *self.buttons.values()),
                      form.row(tr("Sound"), self.sound), form.row(tr("In between"), self.pictures))

    def stretch(self) -> FrameRange:
        """What is shown at one speed at the playhead: what was set, or the rest of the shot."""
        session = self._session
        held = speed_at(session.project, session.letter, session.frame)
        if held is not None:
            return held
        shot = session.analysis.shots[session.shot]
        speeds = session.project.version(session.letter).speeds
        start = max([shot.start, *(speed.end_exclusive for speed in speeds
                                   if speed.end_exclusive <= session.frame)])
        end = min([shot.end, *(speed.start for speed in speeds if speed.start > session.frame)])
        return FrameRange(start, end)

    def sync(self) -> None:
        """Show what is decided at the playhead."""
        now, rate = self.stretch(), self._session.analysis.master.rate
        changed = now.percent != 100
        self._words.setText(tr("{start} to {end}", start=timecode(now.start, rate),
                               end=timecode(now.end_exclusive, rate))
                            if changed else tr("of shot {shot}", shot=self._session.shot + 1))
        with QSignalBlocker(self.percent):
            self.percent.setValue(now.percent)
        self.sound.setCurrentIndex(now.muted)
        self.pictures.setCurrentIndex(now.repeated)
        self._row.set_changed(changed)
        for row in self._rows:
            row.set_visible(changed)

    def _set(self, **values: object) -> None:
        session, now = self._session, self.stretch()
        changed = msgspec.structs.replace(now, **values)
        self._edit(changed, tr("speed {percent} %", percent=changed.percent),
                   ("speed", *values, session.letter, now.start))

    def _bound(self, **values: int) -> None:
        session, now = self._session, self.stretch()
        try:
            changed = msgspec.structs.replace(now, **values)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        self._edit(changed, tr("change the stretch of a speed"), None)

    def _edit(self, changed: FrameRange, words: str, gesture: object | None) -> None:
        now = self.stretch()
        bare = FrameRange(now.start, now.end_exclusive)  # as fast as the film
        self._session.editing.edit(
            EditKind.FINISH, words,
            lambda project, letter, _: with_speed(
                with_speed(project, letter, bare), letter, changed), gesture,
            scope=Scope.ONE_SHOT)
        self.sync()
