"""The numbers and choices of one overlay."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QLabel, QWidget

from caracal.core.layout.entrance import Entry
from caracal.core.layout.overlay import BlendMode, Overlay
from caracal.ui.panels import number_box

PLACES = ("Left", "Top", "Wide", "High")
ORDER = (*PLACES, "Opacity", "Comes", "Goes", "In", "Mixed", "Corners")
ACROSS = 5


class OverlayFields(QWidget):
    """Shows an overlay; ``changed`` tells which field a person gave which value."""

    changed = Signal(str, object)

    def __init__(self, rate: float) -> None:
        """``rate``: frames a second of the film."""
        super().__init__()
        self._rate = rate
        self._shown: Overlay | None = None
        self.numbers: dict[str, QDoubleSpinBox] = {}
        for name in PLACES:
            self._number(name, -200, 300, 1, 1, " %", f"{name}, in shares of the canvas",
                         lambda value, name=name: self._place(name, value / 100))
        self._number("Opacity", 0, 100, 5, 0, " %", "How strongly it shows",
                     lambda value: self.changed.emit("opacity", value / 100))
        self._number("Corners", 0, 50, 5, 0, " %", "How round its corners are",
                     lambda value: self.changed.emit("radius", value / 100))
        self._number("In", 0, 10, 0.1, 2, " s", "How long it takes to come, and to go",
                     lambda value: self.changed.emit("moving", round(value * rate)))
        self.choices = {
            "Comes": self._choice(Entry, "entry", "How it comes"),
            "Goes": self._choice(Entry, "exit", "How it goes"),
            "Mixed": self._choice(BlendMode, "blend", "How it is mixed with what lies behind")}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        for place, name in enumerate(ORDER):
            line, pair = divmod(place, ACROSS)
            label = QLabel(name)
            label.setObjectName("quiet")
            grid.addWidget(label, line, 2 * pair)
            grid.addWidget(self.numbers.get(name) or self.choices[name], line, 2 * pair + 1)
            grid.setColumnStretch(2 * pair + 1, 1)

    def _number(self, name: str, low: float, high: float, step: float, digits: int, unit: str,
                tip: str, run: Callable[[float], None]) -> None:
        box = number_box(low, high, step, digits, unit, tip)
        box.valueChanged.connect(run)
        self.numbers[name] = box

    def _choice(self, kinds: type[Entry] | type[BlendMode], field: str, tip: str) -> QComboBox:
        box = QComboBox()
        box.addItems([kind.value.capitalize() for kind in kinds])
        box.setToolTip(tip)
        box.activated.connect(lambda at: self.changed.emit(field, list(kinds)[at]))
        return box

    def show_overlay(self, overlay: Overlay) -> None:
        """Show the values of ``overlay``."""
        self._shown = overlay
        (left, right), (top, bottom) = overlay.region
        shown = dict(zip(PLACES, (left, top, right - left, bottom - top), strict=True))
        shown |= {"Opacity": overlay.opacity, "Corners": overlay.radius}
        values = {name: share * 100 for name, share in shown.items()}
        for name, value in {**values, "In": overlay.moving / self._rate}.items():
            box = self.numbers[name]
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        for name, kind in (("Comes", overlay.entry), ("Goes", overlay.exit),
                           ("Mixed", overlay.blend)):
            self.choices[name].setCurrentText(kind.value.capitalize())

    def _place(self, name: str, share: float) -> None:
        if self._shown is None:
            return
        (left, right), (top, bottom) = self._shown.region
        self.changed.emit("region", {
            "Left": ((share, share + right - left), (top, bottom)),
            "Top": ((left, right), (share, share + bottom - top)),
            "Wide": ((left, left + share), (top, bottom)),
            "High": ((left, right), (top, top + share))}[name])
