"""How the captions of the chosen version look, and whether they are in its picture."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
from PySide6.QtCore import QSignalBlocker
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.project.bulk import Change
from caracal.core.project.caption_edits import (
    with_burnt,
    with_look,
    with_look_apart,
    with_look_everywhere,
    with_look_shared,
)
from caracal.core.project.model import Project
from caracal.core.render.captions.legibility import Legibility, too_small
from caracal.core.specs.sheet import Captions
from caracal.core.text.caption_look import CaptionLook, CaptionManner, CaptionPlace, stretch_at
from caracal.core.text.cues import frames_of
from caracal.core.text.fonts import file_of, vertical
from caracal.core.text.style import TextBox, TextStyle
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import CHOICE_WIDE, NUMBER_WIDE, Form, button_row
from caracal.ui.widgets.panels import ColourButton, choice_box, number_box, quiet, small_button
from caracal.ui.words.legibility_check import (
    LegibilityCheck,
    caption_judge,
    contrast_words,
    without_captions,
)
from caracal.ui.words.style_fields import StyleFields

MANNERS, PLACES = tuple(CaptionManner), tuple(CaptionPlace)
BURNT = (None, True, False)


class CaptionPanel(QWidget):
    """Style once; every shape breaks its own lines. Its attributes are the fields of the page."""

    def __init__(self, session: Session, chosen: Callable[[], list[int]]) -> None:
        """``chosen`` gives the numbers of the captions that are chosen in the list."""
        super().__init__()
        self._session, self._chosen = session, chosen
        self._synced: int | None = None
        self.whose = quiet("")
        self._make_apart()
        self.burnt = choice_box(
            [tr("As in the spec sheet"), tr("Burnt in"), tr("Not burnt in")],
            tr("Whether captions are burnt into the picture"),
            lambda at: self._reached(lambda project, letter, _: with_burnt(
                project, letter, BURNT[at])))
        self.manner = choice_box([tr(manner.value).capitalize() for manner in MANNERS],
                                 tr("Full lines; word by word in another colour as they are "
                                    "spoken; short groups; or typed letter by letter"),
                                 lambda at: self._change("manner", manner=MANNERS[at]))
        self.place = choice_box([tr(place.value).capitalize() for place in PLACES],
                                tr("Position in the clear area"),
                                lambda at: self._change("place", place=PLACES[at]))
        self.avoid = QCheckBox(tr("Avoid faces"))
        self.avoid.setToolTip(tr("Move captions elsewhere in shots where they would cover a face "
                                 "or words in the picture"))
        self.avoid.toggled.connect(lambda on: self._change("avoid", avoid=on))
        self.lines = number_box(1, 4, 1, 0, "", tr("Most lines of a caption"))
        self.lines.valueChanged.connect(
            lambda value: self._change("lines", most_lines=int(value)))
        self.group = number_box(1, 12, 1, 0, "", tr("Most words of a group"))
        self.group.valueChanged.connect(
            lambda value: self._change("group", group_words=int(value)))
        self.said = ColourButton(tr("Colour…"), tr("The colour of words once they are spoken"))
        self.said.changed.connect(lambda colour: self._change("said", said=colour))
        self.fields = StyleFields(self)
        self.fields.changed.connect(self._restyle)
        self.fields.said.connect(session.said)
        self._about = quiet("")
        self.contrast = quiet("")
        self.contrast.setToolTip(tr("At the worst moment of the caption that is seen now (WCAG "
                                    "2.2)"))
        self.help = small_button(tr("Add a box"),
                                 tr("A box behind the lines: they stand out everywhere"),
                                 self._add_box)
        self.check = LegibilityCheck(session, self, caption_judge(session),
                                     without_captions(session))
        self.check.found.connect(self._show_contrast)
        session.cursor.frame_changed.connect(self._follow)
        self._lay_out()
        for signal in (session.project_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self.sync()

    def _make_apart(self) -> None:
        """What gives captions a look of their own, and takes it away."""
        self.apart = small_button(tr("Different style for selected captions"),
                                  tr("Give the captions selected in the list a style of their own"),
                                  self.style_apart)
        self.shared = small_button(tr("Same style as the others"),
                                   tr("Remove the style of these captions"), self.share)
        self.shown = QCheckBox(tr("Show"))
        self.shown.setToolTip(tr("Off: these captions are not in the picture, to leave room for "
                                 "what else is shown there"))
        self.shown.toggled.connect(self._show)

    def _lay_out(self) -> None:
        form = Form()
        for box in (self.burnt, self.manner, self.place):
            box.setFixedWidth(theme.scaled(CHOICE_WIDE))
        for number in (self.lines, self.group):
            number.setFixedWidth(theme.scaled(NUMBER_WIDE))
        form.wide(button_row(self.whose, self.shown))
        form.row(tr("Delivery"), self.burnt)
        form.row(tr("Display"), self.manner)
        self._said_row = form.row(tr("Spoken-word colour"), self.said)
        self._lines_row = form.row(tr("Maximum lines"), self.lines)
        self._group_row = form.row(tr("Words per group"), self.group)
        form.row(tr("Position"), self.place, self.avoid)
        self.fields.fill(form)
        form.row(tr("Contrast"), self.contrast, self.help)
        form.wide(button_row(self.apart, self.shared))
        form.wide(button_row(small_button(
            tr("Apply to all versions"), tr("Give the captions of every version this style"),
            self.to_all)))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self._about.setWordWrap(True)
        column.addWidget(self._about)
        column.addWidget(form)

    @property
    def whole(self) -> CaptionLook:
        """That of the chosen version."""
        return self._session.project.version(self._session.letter).look

    @property
    def stretch(self) -> int | None:
        """The stretch at the playhead whose captions look otherwise; None: there is none."""
        return stretch_at(self.whole, self._session.frame)

    @property
    def look(self) -> CaptionLook:
        """That of the captions at the playhead: what is changed here."""
        number = self.stretch
        return (None if number is None else self.whole.stretches[number].look) or self.whole

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
        self._lines_row.set_visible(look.manner is not CaptionManner.GROUPS)
        self._group_row.set_visible(look.manner is CaptionManner.GROUPS)
        self._said_row.set_visible(look.manner is CaptionManner.WORDS)
        self.said.show_colour(look.said)
        with QSignalBlocker(self.avoid):
            self.avoid.setChecked(look.avoid)
        self.fields.show_style(look.style)
        self._show_whose()
        wants = {Captions.BURN_IN: tr("in the picture"),
                 Captions.SIDECAR: tr("in a separate file"),
                 Captions.BOTH: tr("in the picture and in a separate file")}[sheet.captions]
        small = tr(" The letters are small for a phone.") if self._small() else ""
        self._about.setText(session.captions.problem or
                            tr("{title} asks for captions {wants}.{small}", title=sheet.title,
                               wants=wants, small=small))
        self.help.hide()
        self._ask()

    def _show_whose(self) -> None:
        number = self._synced = self.stretch
        self.shared.setVisible(number is not None)
        self.shown.setVisible(number is not None)
        shown = number is None or self.whole.stretches[number].look is not None
        with QSignalBlocker(self.shown):
            self.shown.setChecked(shown)
        self.fields.set_enabled(shown)
        if number is None:
            self.whose.setText(tr("Style of all captions"))
            return
        stretch, rate = self.whole.stretches[number], self._session.analysis.master.rate
        self.whose.setText(tr("Style of captions from {start} to {end}",
                              start=timecode(stretch.start, rate),
                              end=timecode(stretch.end_exclusive, rate)))

    def _follow(self) -> None:
        if self.isVisible() and self.stretch != self._synced:
            self.sync()
        self._ask()

    def style_apart(self) -> None:
        """Captions that are chosen in the list, or the one at the playhead, get their own look."""
        session = self._session
        cues = [session.project.captions[number] for number in self._chosen()]
        if not cues:
            session.said.emit(tr("Select captions in the list first."))
            return
        rate = session.analysis.master.rate
        spans = [frames_of(cue.start_s, cue.end_s, rate) for cue in cues]
        span = (min(start for start, _ in spans), max(end for _, end in spans))
        self._edit(lambda: with_look_apart(session.project, session.letter, span, self.look))
        if not span[0] <= session.frame < span[1]:
            session.go(span[0])
        self.sync()

    def share(self) -> None:
        """Captions at the playhead look like the others again."""
        session, number = self._session, self.stretch
        if number is not None:
            self._edit(lambda: with_look_shared(session.project, session.letter, number))

    def _show(self, on: bool) -> None:
        session, number = self._session, self.stretch
        if number is not None:
            stretch = self.whole.stretches[number]
            self._edit(lambda: with_look_apart(
                session.project, session.letter, (stretch.start, stretch.end_exclusive),
                self.whole if on else None))

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
        self.contrast.setText("" if found is None else contrast_words(found))

    def _add_box(self) -> None:
        self._restyle(msgspec.structs.replace(self.look.style, box=TextBox()), "box")

    def _change(self, field: str, **values: object) -> None:
        session = self._session
        number = self.stretch
        gesture = ("caption look", field, session.letter, number)
        if number is None:
            self._reached(lambda project, letter, _: with_look(
                project, letter, msgspec.structs.replace(
                    project.version(letter).look, **values)), gesture)
            return
        look, stretch = msgspec.structs.replace(self.look, **values), self.whole.stretches[number]
        self._edit(lambda: with_look_apart(
            session.project, session.letter, (stretch.start, stretch.end_exclusive), look), gesture)

    def _restyle(self, style: TextStyle, field: str) -> None:
        self._change(field, style=style)

    def to_all(self) -> None:
        """Give the captions of every version the style of the chosen one's."""
        session = self._session
        session.edit(with_look_everywhere(session.project, session.letter),
                     tr("All versions: caption style of {letter}", letter=session.letter))

    def _reached(self, change: Change, gesture: object | None = None) -> None:
        self._session.editing.edit(EditKind.CAPTIONS, tr("caption style"), change, gesture,
                                   scope=Scope.VERSION)
        self.sync()

    def _edit(self, change: Callable[[], Project], gesture: object | None = None) -> None:
        session = self._session
        try:
            session.edit(change(), tr("Version {letter}: caption style", letter=session.letter),
                         gesture)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.sync()
