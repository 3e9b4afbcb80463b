"""How the captions of the chosen version look, and whether they are in its picture."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import QSignalBlocker
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QVBoxLayout, QWidget

from caracal.core.errors import CaracalError
from caracal.core.project.caption_edits import with_burnt, with_look, with_look_everywhere
from caracal.core.project.model import Project
from caracal.core.render.legibility import Legibility, too_small
from caracal.core.specs.sheet import Captions
from caracal.core.text.captions import CaptionLook, CaptionManner, CaptionPlace
from caracal.core.text.fonts import file_of, vertical
from caracal.core.text.style import TextBox, TextStyle
from caracal.ui.panels import ColourButton, choice_box, number_box, quiet, small_button
from caracal.ui.session import Session
from caracal.ui.words.legibility_check import LegibilityCheck
from caracal.ui.words.style_fields import StyleFields

MANNERS, PLACES = tuple(CaptionManner), tuple(CaptionPlace)
BURNT = (None, True, False)


class CaptionPanel(QWidget):
    """Style once; every shape breaks its own lines."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.burnt = choice_box(["As the sheet says", "In the picture", "Not in it"],
                                "Whether captions are in the picture of this version",
                                lambda at: self._edit(lambda: with_burnt(
                                    session.project, session.letter, BURNT[at])))
        self.manner = choice_box([manner.value.capitalize() for manner in MANNERS],
                                 "Whole lines; word by word, in another colour as they are said; "
                                 "short groups; or typed letter by letter",
                                 lambda at: self._change("manner", manner=MANNERS[at]))
        self.place = choice_box([place.value.capitalize() for place in PLACES],
                                "Where in the clear area they stand",
                                lambda at: self._change("place", place=PLACES[at]))
        self.avoid = QCheckBox("Off faces")
        self.avoid.setToolTip("In shots where they would lie on a face, or on words in the "
                              "picture, they stand elsewhere")
        self.avoid.toggled.connect(lambda on: self._change("avoid", avoid=on))
        self.lines = number_box(1, 4, 1, 0, "", "How many lines there are at the most")
        self.lines.valueChanged.connect(
            lambda value: self._change("lines", most_lines=int(value)))
        self.group = number_box(1, 12, 1, 0, "", "How many words a group has at the most")
        self.group.valueChanged.connect(
            lambda value: self._change("group", group_words=int(value)))
        self.said = ColourButton("Said", "The colour of words once they are said")
        self.said.changed.connect(lambda colour: self._change("said", said=colour))
        self.fields = StyleFields()
        self.fields.changed.connect(self._restyle)
        self.fields.said.connect(session.said)
        self._about = quiet("")
        self.contrast = quiet("")
        self.contrast.setToolTip("At the worst moment of the caption that is seen now (WCAG 2.2)")
        self.help = small_button("Add a box", "A box behind the lines: they stand out everywhere",
                                 self._add_box)
        self.check = LegibilityCheck(session, self)
        self.check.found.connect(self._show_contrast)
        session.frame_changed.connect(lambda _: self._ask())
        self._lay_out()
        for signal in (session.project_changed, session.version_changed):
            signal.connect(self.sync)
        self.sync()

    def _lay_out(self) -> None:
        first, second = QHBoxLayout(), QHBoxLayout()
        for row, widgets in (
                (first, (quiet("Come as"), self.manner, self.said, quiet("Lines"), self.lines,
                         quiet("Words a group"), self.group)),
                (second, (quiet("Stand"), self.place, self.avoid, quiet("Shown"), self.burnt))):
            row.setSpacing(8)
            for widget in widgets:
                row.addWidget(widget)
            row.addStretch(1)
        third, fourth = QHBoxLayout(), QHBoxLayout()
        for row in (third, fourth):
            row.setSpacing(8)
        fourth.addWidget(self.contrast)
        fourth.addWidget(self.help)
        fourth.addStretch(1)
        third.addWidget(self._about, 1)
        third.addWidget(small_button("To all versions", "Captions of every version look like "
                                     "these", self.to_all))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(10)
        column.addLayout(first)
        column.addLayout(second)
        column.addWidget(self.fields)
        column.addLayout(fourth)
        column.addLayout(third)
        column.addStretch(1)

    @property
    def look(self) -> CaptionLook:
        """That of the chosen version."""
        return self._session.project.version(self._session.letter).look

    def sync(self) -> None:
        """Show what is decided for the chosen version."""
        session, look = self._session, self.look
        version, sheet = session.project.version(session.letter), session.sheet(session.letter)
        self.burnt.setCurrentIndex(BURNT.index(version.burnt))
        self.manner.setCurrentIndex(MANNERS.index(look.manner))
        self.place.setCurrentIndex(PLACES.index(look.place))
        for box, value in ((self.lines, look.most_lines), (self.group, look.group_words)):
            with QSignalBlocker(box):
                box.setValue(value)
        self.lines.setEnabled(look.manner is not CaptionManner.GROUPS)
        self.group.setEnabled(look.manner is CaptionManner.GROUPS)
        self.said.setEnabled(look.manner is CaptionManner.WORDS)
        self.said.show_colour(look.said)
        with QSignalBlocker(self.avoid):
            self.avoid.setChecked(look.avoid)
        self.fields.show_style(look.style)
        wants = {Captions.BURN_IN: "in the picture", Captions.SIDECAR: "in a file beside it",
                 Captions.BOTH: "in the picture and in a file beside it"}[sheet.captions]
        small = " Letters are small for a phone." if self._small() else ""
        self._about.setText(session.captions.problem or
                            f"{sheet.title} wants captions {wants}.{small}")
        self.help.hide()
        self._ask()

    def _small(self) -> bool:
        """Whether capitals are smaller than a phone shows well."""
        style, canvas = self.look.style, self._session.sheet(self._session.letter).canvas
        try:
            return too_small(style, vertical(file_of(style.font)).cap, canvas)
        except CaracalError:
            return False  # a font that is gone is told elsewhere

    def _ask(self) -> None:
        if self.isVisible():
            self.check.ask()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._ask()

    def _show_contrast(self, found: Legibility | None) -> None:
        self.help.setVisible(found is not None and not found.right and self.look.style.box is None)
        if found is None:
            self.contrast.clear()
            return
        word = "enough" if found.right else f"too little: {found.least:g} is asked"
        self.contrast.setText(f"Contrast {found.ratio:.1f}, {word}.")

    def _add_box(self) -> None:
        self._restyle(msgspec.structs.replace(self.look.style, box=TextBox()), "box")

    def _change(self, field: str, **values: object) -> None:
        session = self._session
        look = msgspec.structs.replace(self.look, **values)
        self._edit(lambda: with_look(session.project, session.letter, look),
                   ("caption look", field, session.letter))

    def _restyle(self, style: TextStyle, field: str) -> None:
        self._change(field, style=style)

    def to_all(self) -> None:
        """Captions of every version look like those of the chosen one."""
        session = self._session
        session.edit(with_look_everywhere(session.project, session.letter),
                     f"Captions of every version look like those of {session.letter}.")

    def _edit(self, change: Callable[[], Project], gesture: object | None = None) -> None:
        session = self._session
        try:
            session.edit(change(), f"Captions of {session.letter} changed.", gesture)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.sync()
