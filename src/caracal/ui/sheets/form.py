"""The form of a spec sheet: every field with its words, unit and choices, declared as data."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QLabel,
    QLineEdit,
    QWidget,
)

from caracal.core.base.errors import CaracalError, InputError
from caracal.core.base.translation import tr
from caracal.core.specs.codecs import MUXERS, SOUND, VIDEO
from caracal.core.specs.fields import value_of, with_value
from caracal.core.specs.sheet import Beyond, CaptionFormat, Captions, Index, RateChange, SpecSheet

Choices = Callable[[SpecSheet], tuple[str, ...]]


@dataclass(frozen=True)
class Field:
    """A field: its name in the sheet, its words, what it means, and how it is written."""

    name: str
    words: str
    tip: str
    kind: str = "text"  # text, whole, number, maybe whole, maybe number, numbers, tick, choice
    unit: str = ""
    choices: Choices | None = None


def _of(*words: str) -> Choices:
    return lambda _: words


GROUPS: dict[str, tuple[Field, ...]] = {
    tr("Sheet"): (
        Field("name", tr("Name"), tr("What commands and names of files call it")),
        Field("title", tr("Title"), tr("What the window calls it")),
        Field("source", tr("Source"), tr("Where the rules were read")),
        Field("checked", tr("Checked"),
              tr("The day they were verified, YYYY-MM-DD; after 180 days there is a reminder")),
    ),
    tr("Canvas and time"): (
        Field("canvas", tr("Canvas"), tr("Width and height, such as 1080 1920"), "numbers",
              tr("pixels")),
        Field("as_made", tr("Any canvas"), tr("It accepts versions of any canvas"),
              "tick"),
        Field("duration.least_s", tr("At least"), tr("Shorter versions are refused"), "number",
              "s"),
        Field("duration.most_s", tr("At most"), tr("Longer versions: see below"), "number", "s"),
        Field("duration.beyond", tr("If longer"),
              tr("Refuse it, trim it at a pause, or cut it into parts in pauses"), "choice",
              choices=_of(*Beyond)),
        Field("rates.least", tr("Slowest rate"), tr("Frames a second"), "number", "fps"),
        Field("rates.most", tr("Quickest rate"), tr("Frames a second"), "number", "fps"),
        Field("rates.only", tr("Only these"),
              tr("Single rates, such as 25 30; empty: all in between"), "numbers", "fps"),
        Field("rates.change", tr("Other rates"),
              tr("Refuse the film, drop and double pictures, or mix them"), "choice",
              choices=_of(*RateChange)),
    ),
    tr("Picture"): (
        Field("video.codec", tr("Codec"), tr("How pictures are encoded"), "choice",
              choices=_of(*VIDEO)),
        Field("video.profile", tr("Profile"), tr("What a player must know"), "choice",
              choices=lambda sheet: tuple(sheet.video.family.profiles)),
        Field("video.pixel_format", tr("Pixels"), tr("Bits and colour samples"), "choice",
              choices=lambda sheet: sheet.video.family.pixel_formats),
        Field("video.bitrate_kbps", tr("Bitrate"), tr("To aim at"), "maybe whole", "kb/s"),
        Field("video.quick_kbps", tr("Above 30 fps"),
              tr("The target bitrate above 30 fps; empty: the same"), "maybe whole", "kb/s"),
        Field("video.largest_kbps", tr("Largest"), tr("Never more, given the buffer"),
              "maybe whole", "kb/s"),
        Field("video.buffer_kb", tr("Buffer"), tr("What a player holds"), "maybe whole", "kb"),
        Field("video.quality", tr("Quality"),
              tr("Constant quality on the encoder's scale, lower is better, in place of the "
                 "bitrate; none: the bitrate"), "maybe number"),
        Field("video.passes", tr("Passes"), tr("1, or 2: bits are spread over the whole file"),
              "whole"),
        Field("video.gop_s", "GOP", tr("At most, between pictures that stand alone"), "number",
              "s"),
    ),
    tr("Sound"): (
        Field("sound.codec", tr("Codec"), tr("How sound is encoded"), "choice",
              choices=_of(*SOUND)),
        Field("sound.bitrate_kbps", tr("Bitrate"), tr("Of the sound"), "whole", "kb/s"),
        Field("sound.rate_hz", tr("Rate"), tr("Samples a second"), "whole", "Hz"),
        Field("sound.channels", tr("Channels"), tr("1 is mono, 2 stereo"), "whole"),
        Field("sound.loudness_lufs", tr("Loudness"), tr("ITU-R BS.1770; none: as it is"),
              "maybe number", "LUFS"),
        Field("sound.true_peak_dbtp", tr("True peak"), tr("At most"), "number", "dBTP"),
        Field("sound.silent_track", tr("Silent track"), tr("For a film without sound"), "tick"),
    ),
    tr("File"): (
        Field("file.container", tr("Container"), tr("The kind of file"), "choice",
              choices=_of(*MUXERS)),
        Field("file.index", tr("Index"), tr("In front, so that it plays while it loads"), "choice",
              choices=_of(*Index)),
        Field("file.most_mb", tr("Size at most"), tr("In 10^6 bytes"), "number", "MB"),
        Field("captions", tr("Captions"), tr("In the picture, in a file beside it, or both"),
              "choice", choices=_of(*Captions)),
        Field("captions_as", tr("As"), tr("What captions in a file beside it are written as"),
              "choice", choices=_of(*CaptionFormat)),
        Field("file.names", tr("Names"),
              tr("Of {film} {version} {shape} {sheet} {part} {date} {time} {resolution}")),
    ),
}


class Form(QWidget):
    """Shows a sheet; what a person writes is emitted as the changed sheet."""

    changed = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.sheet: SpecSheet | None = None
        self.inputs: dict[str, QWidget] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setHorizontalSpacing(12)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        row = 0
        for title, fields in GROUPS.items():
            head = QLabel(title)
            head.setObjectName("head")
            head.setContentsMargins(0, 8 if row else 0, 0, 2)
            grid.addWidget(head, row, 0, 1, 3)
            row += 1
            for field in fields:
                self._add(grid, row, field)
                row += 1

    def _add(self, grid: QGridLayout, row: int, field: Field) -> None:
        words, made = QLabel(field.words), self._input(field)
        for widget in (words, made):
            widget.setToolTip(field.tip)
        words.setBuddy(made)
        unit = QLabel(field.unit)
        unit.setObjectName("quiet")
        grid.addWidget(words, row, 0)
        grid.addWidget(made, row, 1)
        grid.addWidget(unit, row, 2)
        self.inputs[field.name] = made

    def _input(self, field: Field) -> QWidget:
        if field.kind == "tick":
            tick = QCheckBox()
            tick.toggled.connect(lambda on: self._take(field, on))
            return tick
        if field.kind == "choice":
            box = QComboBox()
            box.activated.connect(lambda at: self._take(field, box.itemData(at)))
            return box
        line = QLineEdit()
        line.editingFinished.connect(lambda: self._written(field, line))
        return line

    def show_sheet(self, sheet: SpecSheet) -> None:
        """Show ``sheet``."""
        self.sheet = sheet
        for fields in GROUPS.values():
            for field in fields:
                self._show(field, value_of(sheet, field.name))

    def _show(self, field: Field, value: Any) -> None:
        made = self.inputs[field.name]
        with QSignalBlocker(made):
            if isinstance(made, QCheckBox):
                made.setChecked(bool(value))
            elif isinstance(made, QComboBox):
                assert field.choices is not None and self.sheet is not None
                made.clear()
                for choice in map(str, field.choices(self.sheet)):
                    made.addItem(tr(choice), choice)
                made.setCurrentIndex(made.findData(str(value)))
            elif isinstance(made, QLineEdit):
                made.setText(_written(value))
                made.setCursorPosition(0)

    def _written(self, field: Field, line: QLineEdit) -> None:
        if self.sheet is None or line.text() == _written(value_of(self.sheet, field.name)):
            return
        try:
            value = _read(field, line.text().strip())
        except ValueError:
            self.refused.emit(tr("{words}: “{text}” is not a number.", words=field.words,
                                 text=line.text()))
            self._show(field, value_of(self.sheet, field.name))
            return
        self._take(field, value)

    def _take(self, field: Field, value: Any) -> None:
        assert self.sheet is not None
        try:
            made = _consistent(with_value(self.sheet, field.name, value), field.name)
        except CaracalError as problem:
            self.refused.emit(problem.sentence())
            self._show(field, value_of(self.sheet, field.name))
            return
        self.changed.emit(made)


def _written(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, tuple):
        return " ".join(f"{number:g}" for number in value)
    return f"{value:g}" if isinstance(value, float) else str(value)


def _read(field: Field, text: str) -> Any:
    """What was written as a value. Raises ValueError when it is no number where one is wanted."""
    if field.kind.startswith("maybe") and not text:
        return None
    if field.kind.endswith("whole"):
        return int(text)
    if field.kind.endswith("number"):
        return float(text)
    if field.kind == "numbers":
        made = tuple(float(name) for name in text.replace("×", " ").replace(",", " ").split())
        if field.name == "canvas":
            if len(made) != 2:
                raise InputError(tr("A canvas has a width and a height."),
                                 remedy=tr("Write two numbers."))
            return tuple(int(value) for value in made)
        return made
    return text


def _consistent(sheet: SpecSheet, field: str) -> SpecSheet:
    """Another codec brings its own first profile and pixel format."""
    if field != "video.codec":
        return sheet
    family = sheet.video.family
    sheet = with_value(sheet, "video.profile", next(iter(family.profiles)))
    return with_value(sheet, "video.pixel_format", family.pixel_formats[0])
