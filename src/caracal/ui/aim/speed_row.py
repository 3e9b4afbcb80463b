"""The speed at which a version shows a stretch of the film: the shot, or what was set of it."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.time import FASTEST, SLOWEST, FrameRange, timecode
from caracal.core.base.translation import tr
from caracal.core.project.model import Project
from caracal.core.project.speed_edits import speed_at, with_speed
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import choice_box, headed_row, number_box, quiet, small_button

SOUNDS = (tr("Sound at its pitch"), tr("Silent"))
PICTURES = (tr("Pictures mixed"), tr("Pictures repeated"))


class SpeedRow(QWidget):
    """A number, what becomes of sound and pictures, and where the stretch begins and ends."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        row = headed_row(self, tr("Speed"))
        self._words = quiet("")
        row.addWidget(self._words, 1)
        self.percent = number_box(SLOWEST, FASTEST, 5, 0, " %",
                                  tr("How fast this stretch is shown"))
        self.percent.valueChanged.connect(
            lambda value: self._set(percent=round(value)))
        self.sound = choice_box(SOUNDS, tr("What is heard at another speed"),
                                lambda at: self._set(muted=bool(at)))
        self.pictures = choice_box(PICTURES, tr("What is seen between two pictures of the film"),
                                   lambda at: self._set(repeated=bool(at)))
        for widget in (self.percent, self.sound, self.pictures):
            row.addWidget(widget)
        self.buttons = {
            "From here": small_button(tr("From here"), tr("The stretch begins at the playhead"),
                                      lambda: self._bound(start=session.frame)),
            "To here": small_button(tr("To here"),
                                    tr("The stretch ends after the playhead's frame"),
                                    lambda: self._bound(end_exclusive=session.frame + 1))}
        for button in self.buttons.values():
            row.addWidget(button)

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
        for widget in (self.sound, self.pictures, *self.buttons.values()):
            widget.setEnabled(changed)

    def _set(self, **values: object) -> None:
        session, now = self._session, self.stretch()
        changed = msgspec.structs.replace(now, **values)
        self._edit(with_speed(session.project, session.letter, changed),
                   tr("Shown at {percent} % of its speed in {letter}.", percent=changed.percent,
                      letter=session.letter), ("speed", *values, session.letter, now.start))

    def _bound(self, **values: int) -> None:
        session, now = self._session, self.stretch()
        try:
            changed = msgspec.structs.replace(now, **values)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        bare = with_speed(session.project, session.letter, FrameRange(now.start, now.end_exclusive))
        self._edit(with_speed(bare, session.letter, changed), tr("The stretch was changed."), None)

    def _edit(self, project: Project, words: str, gesture: object | None) -> None:
        self._session.edit(project, words, gesture)
        self.sync()
