"""How a version begins and ends, and what happens where its ranges meet."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QCheckBox

from caracal.core.base.translation import tr
from caracal.core.project.model import Fades
from caracal.core.project.overlay_edits import with_fades
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import NUMBER_WIDE, Form
from caracal.ui.widgets.panels import ColourButton, number_box

MOST_S = 10
LENGTHS = (  # fields with their names and tips
    ("begin", tr("Fade in"), tr("How long this version fades in from the colour")),
    ("end", tr("Fade out"), tr("How long this version fades out to the colour")),
    ("joint", tr("Joins"), tr("How long it fades where two of its ranges meet")))


class FadeFields(QObject):
    """Three lengths, a colour, and whether ranges dissolve where they meet."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.lengths = {}
        for field, name, tip in LENGTHS:
            box = number_box(0, MOST_S, 0.1, 2, " s", tip)
            box.setFixedWidth(theme.scaled(NUMBER_WIDE))
            box.valueChanged.connect(
                lambda value, field=field, name=name: self._set(
                    tr("{name} {seconds:g} s", name=name.lower(), seconds=value),
                    **{field: round(value * session.rate)}))
            self.lengths[name] = box
        self.dissolves = QCheckBox(tr("Dissolve"))
        self.dissolves.setToolTip(tr("Where two ranges meet, one dissolves into the other, with "
                                     "its sound, instead of fading to the colour"))
        self.dissolves.clicked.connect(lambda on: self._set(
            tr("joins dissolve") if on else tr("joins fade"), dissolves=on))
        self.colour = ColourButton(tr("Colour…"), tr("The colour from and to which it fades"))
        self.colour.changed.connect(
            lambda colour: self._set(tr("fade colour {colour}", colour=colour), colour=colour))

    def fill(self, form: Form) -> None:
        """Add the fields to ``form``, in a section of their own."""
        form.section(tr("Fade in and out of the version"))
        for name, box in self.lengths.items():
            if name == LENGTHS[-1][1]:
                form.row(name, box, self.dissolves)
            else:
                form.row(name, box)
        form.row(tr("Fade colour"), self.colour)

    def _now(self) -> Fades:
        return self._session.project.version(self._session.letter).fades

    def sync(self) -> None:
        """Show what is decided for the chosen version."""
        now = self._now()
        self.dissolves.setChecked(now.dissolves)
        self.colour.show_colour(now.colour)
        for box, frames in zip(self.lengths.values(), (now.begin, now.end, now.joint), strict=True):
            box.blockSignals(True)
            box.setValue(frames / self._session.rate)
            box.blockSignals(False)

    def _set(self, words: str, **changes: object) -> None:
        self._session.editing.edit(
            EditKind.FINISH, words,
            lambda project, letter, _: with_fades(project, letter, msgspec.structs.replace(
                project.version(letter).fades, **changes)),
            ("fades", *changes, self._session.letter), scope=Scope.VERSION)
