"""How words look: font, size, colours, outline, shadow, box."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QHBoxLayout, QVBoxLayout, QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import mark, tr
from caracal.core.text.fonts import SHIPPED, SUFFIXES, file_of, refuse_unusable
from caracal.core.text.style import Align, Stroke, TextBox, TextShadow, TextStyle
from caracal.ui.widgets.panels import ColourButton, choice_box, number_box, quiet

FONT_FILE = tr("Font file…")
ALIGNS = tuple(Align)


class StyleFields(QWidget):
    """Shows a style; ``changed`` gives the style with what a person changed, and the field's name.
    """

    changed = Signal(object, str)
    said = Signal(str)

    def __init__(self, aligned: bool = False) -> None:
        """``aligned``: where lines stand in their box can be chosen."""
        super().__init__()
        self._style = TextStyle()
        self.font_box = choice_box([*SHIPPED, FONT_FILE], tr("The font: one that ships, or a file"),
                                   self._font)
        self.size_box = number_box(1, 60, 0.2, 1, " %", tr("How large letters are, in shares of "
                                                           "the canvas's shorter side"))
        self.size_box.valueChanged.connect(
            lambda value: self._change("size", size=value / 100))
        self.gap = number_box(0.7, 3, 0.05, 2, "", tr("From one line to the next, in sizes"))
        self.gap.valueChanged.connect(lambda value: self._change("gap", line_gap=value))
        self.colour = ColourButton(tr("Letters"), tr("The colour of the letters"))
        self.colour.changed.connect(lambda colour: self._change("colour", colour=colour))
        self.capitals = QCheckBox(tr("Capitals"))
        self.capitals.setToolTip(tr("All in capital letters"))
        self.capitals.toggled.connect(lambda on: self._change("capitals", capitals=on))
        self.align = choice_box([tr(align.value).capitalize() for align in ALIGNS],
                                tr("Where lines stand in their box"),
                                lambda at: self._change("align", align=ALIGNS[at]))
        self.parts: dict[str, QCheckBox] = {}
        self.amounts = {
            "outline": number_box(1, 30, 1, 0, " %", tr("How wide the outline is, in sizes")),
            "shadow": number_box(5, 100, 5, 0, " %", tr("How much light the shadow takes away")),
            "box": number_box(5, 100, 5, 0, " %", tr("How much of the picture the box hides"))}
        self.colours: dict[str, ColourButton] = {}
        self._lay_out()
        self.align.setVisible(aligned)  # not before it lies in here: it would be a window

    def _lay_out(self) -> None:
        self.font_box.setSizeAdjustPolicy(
            self.font_box.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.font_box.setMinimumContentsLength(12)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        rows = [QHBoxLayout() for _ in range(3)]
        for row in rows:
            row.setSpacing(8)
            column.addLayout(row)
        rows[0].addWidget(self.font_box, 1)
        first: tuple[QWidget, ...] = (self.size_box, self.colour, self.capitals)
        second: tuple[QWidget, ...] = (quiet(tr("Lines apart")), self.gap, self.align)
        for row, widgets in ((rows[0], first), (rows[1], second)):
            for widget in widgets:
                row.addWidget(widget)
        for row, name in ((rows[1], mark("outline")), (rows[2], mark("shadow")),
                          (rows[2], mark("box"))):
            row.addSpacing(8 if row.count() else 0)
            row.addLayout(self._part(name))
        for row in rows[1:]:
            row.addStretch(1)

    def _part(self, name: str) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        tick = QCheckBox(tr(name).capitalize())
        tick.setToolTip({"outline": tr("Whether there is an outline"),
                         "shadow": tr("Whether there is a shadow"),
                         "box": tr("Whether there is a box")}[name])
        tick.toggled.connect(lambda on: self._switch(name, on))
        self.amounts[name].valueChanged.connect(lambda value: self._amount(name, value))
        colour = ColourButton("", tr("The colour of the {name}", name=tr(name)))
        colour.changed.connect(lambda value: self._recolour(name, value))
        for widget in (tick, self.amounts[name], colour):
            row.addWidget(widget)
        self.parts[name], self.colours[name] = tick, colour
        return row

    def show_style(self, style: TextStyle) -> None:
        """Show the values of ``style``."""
        self._style = style
        names = list(SHIPPED)
        with QSignalBlocker(self.font_box):
            while self.font_box.count() > len(names) + 1:
                self.font_box.removeItem(0)
            if style.font not in SHIPPED:
                self.font_box.insertItem(0, Path(style.font).stem)
            self.font_box.setCurrentIndex(
                names.index(style.font) if style.font in SHIPPED else 0)
        amounts = {"outline": (style.outline or Stroke()).width * 100,
                   "shadow": (style.shadow or TextShadow()).strength * 100,
                   "box": (style.box or TextBox()).opacity * 100}
        for box, value in ((self.size_box, style.size * 100), (self.gap, style.line_gap),
                           *((self.amounts[name], amounts[name]) for name in amounts)):
            with QSignalBlocker(box):
                box.setValue(value)
        for name, kind in (("outline", Stroke), ("shadow", TextShadow), ("box", TextBox)):
            part = getattr(style, name)
            with QSignalBlocker(self.parts[name]):
                self.parts[name].setChecked(part is not None)
            self.amounts[name].setEnabled(part is not None)
            self.colours[name].setEnabled(part is not None)
            self.colours[name].show_colour((part or kind()).colour)
        self.colour.show_colour(style.colour)
        with QSignalBlocker(self.capitals):
            self.capitals.setChecked(style.capitals)
        self.align.setCurrentIndex(ALIGNS.index(style.align))

    def _change(self, field: str, **values: object) -> None:
        self._style = msgspec.structs.replace(self._style, **values)
        self.changed.emit(self._style, field)

    def _switch(self, name: str, on: bool) -> None:
        kinds = {"outline": Stroke, "shadow": TextShadow, "box": TextBox}
        self._change(name, **{name: kinds[name]() if on else None})

    def _amount(self, name: str, value: float) -> None:
        part = getattr(self._style, name)
        if part is not None:
            field = {"outline": "width", "shadow": "strength", "box": "opacity"}[name]
            self._change(name, **{name: msgspec.structs.replace(part, **{field: value / 100})})

    def _recolour(self, name: str, colour: str) -> None:
        part = getattr(self._style, name)
        if part is not None:
            self._change(name, **{name: msgspec.structs.replace(part, colour=colour)})

    def _font(self, _: int) -> None:
        name = self.font_box.currentText()
        if name in SHIPPED:
            self._change("font", font=name)
        elif name == FONT_FILE:
            suffixes = " ".join(f"*{suffix}" for suffix in SUFFIXES)
            chosen = QFileDialog.getOpenFileName(self, tr("Font"), "",
                                                 tr("Fonts ({suffixes})", suffixes=suffixes))[0]
            if chosen:
                self.use_font(Path(chosen))
            else:
                self.show_style(self._style)

    def use_font(self, path: Path) -> None:
        """Write in the font of a file; what is wrong with it is told."""
        try:
            refuse_unusable(file_of(str(path)))
        except CaracalError as problem:
            self.said.emit(problem.sentence())
            self.show_style(self._style)
            return
        self._change("font", font=str(path))
