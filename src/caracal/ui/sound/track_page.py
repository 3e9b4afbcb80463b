"""The sounds that are added to a version, and the selected one's values."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QDoubleSpinBox,
    QListWidget,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.time import timecode
from caracal.core.base.translation import mark, tr
from caracal.core.layout.added_sound import (
    FILTERS_HZ,
    LEAST_GAIN_DB,
    MOST_DELAY_S,
    MOST_DUCK_DB,
    MOST_FADE_S,
    MOST_GAIN_DB,
    UNDER_VOICE_DB,
    UNDER_VOICE_HZ,
    AddedSound,
    Anchor,
    SoundFile,
    SoundTrack,
    first_bed,
    first_effect,
    first_voice,
)
from caracal.core.layout.model import file_name
from caracal.core.layout.shipped_assets import EFFECTS, effect
from caracal.core.project.model import Project
from caracal.core.project.sound_edits import sound_like, with_sounds
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import CHOICE_WIDE, NUMBER_WIDE, Fold, Form, Row, button_row
from caracal.ui.widgets.panels import choice_box, number_box, quiet, small_button

LIST_HIGH = 92
TRACKS, ANCHORS = tuple(SoundTrack), tuple(Anchor)
USUAL = AddedSound(SoundFile(""))
Change = Callable[[tuple[AddedSound, ...], int | None], tuple[AddedSound, ...]]
NUMBERS = (  # field, name, least, most, step, digits, unit, tip
    ("delay_s", mark("Delay"), 0.0, MOST_DELAY_S, 0.1, 2, " s",
     mark("How long after that it begins, or before the end it ends")),
    ("gain_db", mark("Gain"), LEAST_GAIN_DB, MOST_GAIN_DB, 1.0, 1, " dB",
     mark("How much louder it is than its file")),
    ("fade_in_s", mark("Fade in"), 0.0, MOST_FADE_S, 0.1, 2, " s", mark("How long it fades in")),
    ("fade_out_s", mark("Fade out"), 0.0, MOST_FADE_S, 0.1, 2, " s",
     mark("How long it fades out")),
    ("duck_db", mark("Duck"), -MOST_DUCK_DB, 0.0, 1.0, 1, " dB",
     mark("How far it goes down while somebody speaks; 0 never lowers it")),
    ("low_pass_hz", mark("Low-pass"), 0.0, FILTERS_HZ[1], 100.0, 0, " Hz",
     mark("Takes out what is above this frequency; 0 for none")),
    ("high_pass_hz", mark("High-pass"), 0.0, FILTERS_HZ[1], 10.0, 0, " Hz",
     mark("Takes out what is below this frequency; 0 for none")),
)


class TrackPage(QWidget):
    """A list of the version's sounds with buttons to add some, and fields for the selected one."""

    changed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.list = QListWidget()
        self.list.setFixedHeight(LIST_HIGH)
        self.list.setToolTip(tr("Sounds of this version, in the order in which they were added"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(lambda _: self._show_chosen())
        self.buttons: dict[str, QPushButton] = {}
        self.boxes: dict[str, QDoubleSpinBox] = {}
        self.track = choice_box([tr(each.value).capitalize() for each in TRACKS],
                                tr("Which track it is on"),
                                lambda at: self._change("track", TRACKS[at]))
        self.anchor = choice_box([tr(each.value).capitalize() for each in ANCHORS],
                                 tr("What it begins with, or ends with"), self._set_anchor)
        self.fills = QCheckBox(tr("Repeat to the end"))
        self.fills.setToolTip(tr("It is repeated at a whole bar, or cut off, where the version "
                                 "ends"))
        self.fills.clicked.connect(lambda on: self._change("fills", on))
        self.muted = QCheckBox(tr("Mute"))
        self.muted.setToolTip(tr("It is not heard, and keeps its values"))
        self.muted.clicked.connect(lambda on: self._change("muted", on))
        self.starts = number_box(0.0, MOST_DELAY_S, 0.1, 2, " s", tr("Where in the file it starts"))
        self.ends = number_box(0.0, MOST_DELAY_S, 0.1, 2, " s", tr("Where in the file it ends; 0 "
                                                                   "for the end of the file"))
        self.starts.valueChanged.connect(lambda value: self._trim("start_s", value))
        self.ends.valueChanged.connect(lambda value: self._trim("end_s", value or None))
        self.hint = quiet(tr("Add a sound with these buttons, or drop its file on the window. It "
                             "plays together with the film, and is in the file."))
        self.hint.setWordWrap(True)
        self._rows: dict[str, Row] = {}
        self.form = Form()
        self._lay_out()
        for signal in (session.project_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self.sync()

    def _button(self, name: str, tip: str, run: Callable[[], object]) -> QPushButton:
        self.buttons[name] = small_button(name, tip, run)
        return self.buttons[name]

    def _effect_button(self) -> QPushButton:
        """A button with the sounds that ship, and a file of one's own."""
        button = self._button(tr("Effect"), tr("Add a short sound at the playhead"), lambda: None)
        menu = QMenu(button)
        for name in EFFECTS:
            menu.addAction(tr(name)).triggered.connect(
                lambda _=False, name=name: self.add_effect(effect(name)))
        menu.addSeparator()
        menu.addAction(tr("From a file…")).triggered.connect(
            lambda _=False: self._session.assets.ask_sound(self, self.add_effect))
        button.setMenu(menu)
        return button

    def _lay_out(self) -> None:
        session = self._session
        adding = button_row(
            quiet(tr("Add")),
            self._button(tr("Bed…"), tr("Add music or other sound under the whole version"),
                         lambda: session.assets.ask_sound(self, self.add_bed)),
            self._effect_button(),
            self._button(tr("Voice-over…"), tr("Add a spoken sound at the playhead"),
                         lambda: session.assets.ask_sound(self, self.add_voice)),
            self._button(tr("Delete"), tr("Delete the selected sound"), self.delete))
        form = self.form
        for choice in (self.track, self.anchor):
            choice.setFixedWidth(theme.scaled(CHOICE_WIDE))
        form.row(tr("Track"), self.track, self.muted)
        form.row(tr("Begins at"), self.anchor, self._button(
            tr("Playhead"), tr("It begins at the frame of the playhead"), self._to_playhead))
        self._number(form, "delay_s")
        form.row(tr("Length"), self.fills)
        for field in ("gain_db", "fade_in_s", "fade_out_s"):
            self._number(form, field)
        form.section(tr("While somebody speaks"))
        self._number(form, "duck_db")
        form.row("", self._button(
            tr("Bed under voice"), tr("10 dB lower while somebody speaks, and without sound above "
                                      "1 kHz"), self._under_voice))
        more = Form()
        for box in (self.starts, self.ends):
            box.setFixedWidth(theme.scaled(NUMBER_WIDE))
        more.row(tr("Part of the file"), self.starts, quiet(tr("to")), self.ends)
        for field in ("low_pass_hz", "high_pass_hz"):
            self._number(more, field)
        self.more = Fold(tr("Part and filters"), more)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(adding)
        column.addWidget(self.list)
        column.addWidget(self.hint)
        column.addWidget(form)
        column.addWidget(self.more)

    def _number(self, form: Form, field: str) -> None:
        name, least, most, step, digits, unit, tip = next(
            each[1:] for each in NUMBERS if each[0] == field)
        box = number_box(least, most, step, digits, unit, tr(tip))
        box.setFixedWidth(theme.scaled(NUMBER_WIDE))
        box.valueChanged.connect(lambda value: self._change(field, value))
        self.boxes[field] = box
        self._rows[field] = form.row(
            tr(name), box, reset=lambda: self._change(field, getattr(USUAL, field)))

    @property
    def _sounds(self) -> tuple[AddedSound, ...]:
        return self._session.project.version(self._session.letter).sounds

    @property
    def number(self) -> int | None:
        """The number of the selected sound; None: none is."""
        row = self.list.currentRow()
        return row if 0 <= row < len(self._sounds) else None

    @property
    def chosen(self) -> AddedSound | None:
        """Returns the selected sound; None: none is."""
        return None if self.number is None else self._sounds[self.number]

    def choose(self, number: int) -> None:
        """Select sound ``number``."""
        self.list.setCurrentRow(number)

    def sync(self) -> None:
        """Show the sounds of the chosen version."""
        rows = [self._row_words(sound) for sound in self._sounds]
        if rows != [self.list.item(at).text() for at in range(self.list.count())]:
            row = self.list.currentRow()
            with QSignalBlocker(self.list):
                self.list.clear()
                self.list.addItems(rows)
                self.list.setCurrentRow(min(max(row, 0), len(rows) - 1))
        self._show_chosen()

    def _row_words(self, sound: AddedSound) -> str:
        rate = self._session.analysis.master.rate
        where = {Anchor.START: tr("from the start"), Anchor.END: tr("at the end"),
                 Anchor.FRAME: timecode(sound.frame, rate)}[sound.anchor]
        words = f"{tr(sound.track.value).capitalize()}  {file_name(sound.content)}  {where}"
        return tr("{words}, muted", words=words) if sound.muted else words

    def _show_chosen(self) -> None:
        sound = self.chosen
        for widget in (self.form, self.more):  # nothing that cannot be used
            widget.setVisible(sound is not None)
        self.hint.setVisible(sound is None)
        self.buttons[tr("Delete")].setEnabled(sound is not None)
        if sound is not None:
            self.track.setCurrentIndex(TRACKS.index(sound.track))
            self.anchor.setCurrentIndex(ANCHORS.index(sound.anchor))
            self.fills.setChecked(sound.fills)
            self.fills.setEnabled(sound.anchor is not Anchor.END)
            self.muted.setChecked(sound.muted)
            values = {field: getattr(sound, field) for field in self.boxes}
            boxes = {**self.boxes, "start": self.starts, "end": self.ends}
            values |= {"start": sound.content.start_s, "end": sound.content.end_s or 0.0}
            for field, box in boxes.items():
                with QSignalBlocker(box):
                    box.setValue(values[field])
            for field, row in self._rows.items():
                row.set_changed(values[field] != getattr(USUAL, field))
        self.changed.emit()

    def add_file(self, path: Path) -> None:
        """Add the sound at ``path`` as a bed."""
        self._session.assets.take_sound(path, self.add_bed)

    def add_bed(self, content: SoundFile) -> None:
        """Add ``content`` under the whole version."""
        self._add(first_bed(content))

    def add_effect(self, content: SoundFile) -> None:
        """Add ``content`` at the playhead."""
        self._add(first_effect(content, self._session.frame))

    def add_voice(self, content: SoundFile) -> None:
        """Add ``content``, which is spoken, at the playhead."""
        self._add(first_voice(content, self._session.frame))

    def _add(self, sound: AddedSound) -> None:
        count = len(self._sounds)
        if self._edit(tr("add {name}", name=file_name(sound.content)),
                      lambda sounds, _: (*sounds, sound)):
            self.choose(count)

    def delete(self) -> None:
        """Delete the selected sound; undo brings it back."""
        if self.chosen is not None:
            self._edit(tr("delete {name}", name=file_name(self.chosen.content)),
                       lambda sounds, at: sounds if at is None else sounds[:at] + sounds[at + 1 :])

    def _to_playhead(self) -> None:
        self._replace(tr("move sound to the playhead"), None, anchor=Anchor.FRAME,
                      frame=self._session.frame)

    def _set_anchor(self, at: int) -> None:
        values: dict[str, object] = {"anchor": ANCHORS[at]}
        if ANCHORS[at] is Anchor.FRAME:
            values["frame"] = self._session.frame
        if ANCHORS[at] is Anchor.END:
            values["fills"] = False
        self._replace(tr("move sound"), None, **values)

    def _under_voice(self) -> None:
        self._replace(tr("bed under voice"), None, duck_db=UNDER_VOICE_DB,
                      low_pass_hz=UNDER_VOICE_HZ)

    def _trim(self, field: str, value: float | None) -> None:
        if self.chosen is not None:
            self._replace(tr("part of the sound"), ("sound part", field, self.number),
                          content=msgspec.structs.replace(self.chosen.content, **{field: value}))

    def _change(self, field: str, value: object) -> None:
        self._replace(tr("edit sound"), ("sound", field, self.number), **{field: value})

    def _replace(self, what: str, gesture: object | None, **values: object) -> None:
        if self.number is not None:
            self._edit(what, lambda sounds, at: sounds if at is None else (
                *sounds[:at], msgspec.structs.replace(sounds[at], **values), *sounds[at + 1 :]),
                gesture)

    def _edit(self, what: str, change: Change, gesture: object | None = None) -> bool:
        """Change the sounds here and, where edits of sounds reach them, in other versions.

        ``change`` is given a version's sounds and the number of the selected one, or of one like
        it. Returns whether it was made; what cannot be is said.
        """
        chosen, number, here = self.chosen, self.number, self._session.letter

        def changed(project: Project, letter: str, _: int) -> Project:
            at = number if letter == here or chosen is None else sound_like(
                project, letter, chosen)
            return with_sounds(project, letter, change(project.version(letter).sounds, at))

        made = self._session.editing.edit(EditKind.SOUNDS, what, changed, gesture,
                                          scope=Scope.VERSION)
        if not made:
            self.sync()
        return made
