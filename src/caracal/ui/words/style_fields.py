"""How words look: font, size, colours, outline, shadow, box."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtCore import QObject, QSignalBlocker, Signal
from PySide6.QtWidgets import QCheckBox, QFileDialog, QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import mark, tr
from caracal.core.text.fonts import SHIPPED, SUFFIXES, file_of, refuse_unusable
from caracal.core.text.style import Align, Stroke, TextBox, TextShadow, TextStyle
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import CHOICE_WIDE, NUMBER_WIDE, Form
from caracal.ui.widgets.panels import ColourButton, choice_box, number_box

FONT_FILE = tr("Font file…")
ALIGNS = tuple(Align)


class StyleFields(QObject):
    """Shows a style; ``changed`` gives the style with what a person changed, and the field's name.

    Its attributes are the fields.
    """

    changed = Signal(object, str)
    said = Signal(str)

    def __init__(self, parent: QWidget, aligned: bool = False) -> None:
        """``aligned``: the alignment of lines in their box can be chosen."""
        super().__init__(parent)
        self._parent = parent
        self._style = TextStyle()
        self.font_box = choice_box([*SHIPPED, FONT_FILE], tr("The font: one that ships, or a file"),
                                   self._font)
        self.size_box = number_box(1, 60, 0.2, 1, " %", tr("Size of the letters, in shares of the "
                                                           "canvas's shorter side"))
        self.size_box.valueChanged.connect(
            lambda value: self._change("size", size=value / 100))
        self.gap = number_box(0.7, 3, 0.05, 2, "",
                              tr("Distance from line to line, in letter sizes"))
        self.gap.valueChanged.connect(lambda value: self._change("gap", line_gap=value))
        self.colour = ColourButton(tr("Colour…"), tr("The colour of the letters"))
        self.colour.changed.connect(lambda colour: self._change("colour", colour=colour))
        self.capitals = QCheckBox(tr("All capitals"))
        self.capitals.setToolTip(tr("Write everything in capital letters"))
        self.capitals.toggled.connect(lambda on: self._change("capitals", capitals=on))
        self.align = choice_box([tr(align.value).capitalize() for align in ALIGNS],
                                tr("Alignment of the lines in their box"),
                                lambda at: self._change("align", align=ALIGNS[at]))
        self.parts: dict[str, QCheckBox] = {}
        self.amounts = {
            "outline": number_box(1, 30, 1, 0, " %", tr("Width of the outline, in letter sizes")),
            "shadow": number_box(5, 100, 5, 0, " %", tr("Strength of the shadow")),
            "box": number_box(5, 100, 5, 0, " %", tr("Opacity of the box"))}
        self.colours: dict[str, ColourButton] = {}
        self._aligned = aligned
        self.font_box.setFixedWidth(theme.scaled(CHOICE_WIDE))
        for box in (self.size_box, self.gap, *self.amounts.values()):
            box.setFixedWidth(theme.scaled(NUMBER_WIDE))
        for name in (mark("outline"), mark("shadow"), mark("box")):
            self._make_part(name)

    def fill(self, form: Form) -> None:
        """Add the fields to ``form``."""
        rows = [form.row(tr("Font"), self.font_box),
                form.row(tr("Text size"), self.size_box, self.capitals),
                form.row(tr("Text colour"), self.colour),
                form.row(tr("Line spacing"), self.gap)]
        if self._aligned:
            rows.append(form.row(tr("Alignment"), self.align))
        rows += [form.row(tr(name).capitalize(), self.parts[name], self.amounts[name],
                          self.colours[name]) for name in self.parts]
        self.rows = tuple(rows)

    def set_enabled(self, on: bool) -> None:
        """Whether the style can be changed."""
        for row in self.rows:
            row.set_enabled(on)

    def _make_part(self, name: str) -> None:
        tick = QCheckBox(tr("On"))
        tick.setAccessibleName(tr(name).capitalize())
        tick.setToolTip({"outline": tr("Draw an outline"), "shadow": tr("Draw a shadow"),
                         "box": tr("Draw a box behind the lines")}[name])
        tick.toggled.connect(lambda on: self._switch(name, on))
        self.amounts[name].valueChanged.connect(lambda value: self._amount(name, value))
        colour = ColourButton(tr("Colour…"), tr("The colour of the {name}", name=tr(name)))
        colour.changed.connect(lambda value: self._recolour(name, value))
        self.parts[name], self.colours[name] = tick, colour

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
            chosen = QFileDialog.getOpenFileName(self._parent, tr("Font"), "",
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
