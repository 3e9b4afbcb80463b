"""How a version begins and ends, and what happens where its ranges meet."""

from __future__ import annotations

import msgspec
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QCheckBox, QColorDialog, QLabel, QWidget

from caracal.core.base.translation import tr
from caracal.core.project.model import Fades
from caracal.core.project.overlay_edits import with_fades
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import headed_row, number_box, small_button

MOST_S = 10
TIPS = {tr("Begins in"): tr("How long this version fades in from the colour"),
        tr("Ends in"): tr("How long it fades out to the colour"),
        tr("Joints"): tr("How long it fades where two of its ranges meet")}


class FadesRow(QWidget):
    """Three lengths, a colour, and whether ranges dissolve where they meet."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        row = headed_row(self, tr("Fades of the version"))
        row.addStretch(1)
        self.lengths = {}
        for field, tip in TIPS.items():
            box = number_box(0, MOST_S, 0.1, 2, " s", tip)
            box.valueChanged.connect(lambda _: self._fade())
            self.lengths[field] = box
            label = QLabel(field)
            label.setObjectName("quiet")
            row.addWidget(label)
            row.addWidget(box)
        self.dissolves = QCheckBox(tr("Dissolve"))
        self.dissolves.setToolTip(tr("Where two ranges meet, one dissolves into the other, with "
                                     "its sound, instead of fading to the colour"))
        self.dissolves.clicked.connect(
            lambda on: self._set(msgspec.structs.replace(self._now(), dissolves=on)))
        row.addWidget(self.dissolves)
        row.addWidget(small_button(tr("Colour…"), tr("The colour from and to which it fades"),
                                   self._ask_colour))

    def _now(self) -> Fades:
        return self._session.project.version(self._session.letter).fades

    def sync(self) -> None:
        """Show what is decided for the chosen version."""
        now = self._now()
        self.dissolves.setChecked(now.dissolves)
        for box, frames in zip(self.lengths.values(), (now.begin, now.end, now.joint), strict=True):
            box.blockSignals(True)
            box.setValue(frames / self._session.rate)
            box.blockSignals(False)

    def _fade(self) -> None:
        begin, end, joint = (round(box.value() * self._session.rate)
                             for box in self.lengths.values())
        self._set(msgspec.structs.replace(self._now(), begin=begin, end=end, joint=joint))

    def _ask_colour(self) -> None:
        found = QColorDialog.getColor(QColor(self._now().colour), self, tr("Colour of the fades"))
        if found.isValid():
            self._set(msgspec.structs.replace(self._now(), colour=found.name()))

    def _set(self, fades: Fades) -> None:
        session = self._session
        session.edit(with_fades(session.project, session.letter, fades),
                     tr("Fades of {letter} changed.", letter=session.letter),
                     ("fades", session.letter))
