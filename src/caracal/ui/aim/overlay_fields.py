"""The numbers and choices of one overlay."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QGridLayout, QLabel, QWidget

from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.layout.entrance import Entry
from caracal.core.layout.overlay import BlendMode, Overlay
from caracal.ui.widgets.panels import number_box

PLACES = LEFT, TOP, WIDE, HIGH = tr("Left"), tr("Top"), tr("Wide"), tr("High")
MORE = OPACITY, COMES, GOES, LASTS, MIXED, CORNERS = (
    tr("Opacity"), tr("Comes"), tr("Goes"), tr("In"), tr("Mixed"), tr("Corners"))
ACROSS = 5


def told(overlay: Overlay, rate: Fraction) -> str:
    """An overlay in a line of the list: what it is, and when it is seen."""
    words = [overlay.name, tr("{start} to {end}", start=timecode(overlay.start, rate),
                              end=timecode(overlay.end_exclusive, rate))]
    words += [tr("hidden")] if overlay.hidden else []
    words += [tr("locked")] if overlay.locked else []
    return "    ".join(words)


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
            self._number(name, -200, 300, 1, 1, " %",
                         tr("{name}, in shares of the canvas", name=name),
                         lambda value, name=name: self._place(name, value / 100))
        self._number(OPACITY, 0, 100, 5, 0, " %", tr("How strongly it shows"),
                     lambda value: self.changed.emit("opacity", value / 100))
        self._number(CORNERS, 0, 50, 5, 0, " %", tr("How round its corners are"),
                     lambda value: self.changed.emit("radius", value / 100))
        self._number(LASTS, 0, 10, 0.1, 2, " s", tr("How long it takes to come, and to go"),
                     lambda value: self.changed.emit("moving", round(value * rate)))
        self.choices = {
            COMES: self._choice(Entry, "entry", tr("How it comes")),
            GOES: self._choice(Entry, "exit", tr("How it goes")),
            MIXED: self._choice(BlendMode, "blend", tr("How it is mixed with what lies behind"))}
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        for place, name in enumerate((*PLACES, *MORE)):
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
        box.addItems([tr(kind.value).capitalize() for kind in kinds])
        box.setToolTip(tip)
        box.activated.connect(lambda at: self.changed.emit(field, list(kinds)[at]))
        return box

    def show_overlay(self, overlay: Overlay) -> None:
        """Show the values of ``overlay``."""
        self._shown = overlay
        (left, right), (top, bottom) = overlay.region
        shown = dict(zip(PLACES, (left, top, right - left, bottom - top), strict=True))
        shown |= {OPACITY: overlay.opacity, CORNERS: overlay.radius}
        values = {name: share * 100 for name, share in shown.items()}
        for name, value in {**values, LASTS: overlay.moving / self._rate}.items():
            box = self.numbers[name]
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        for name, kind in ((COMES, overlay.entry), (GOES, overlay.exit), (MIXED, overlay.blend)):
            self.choices[name].setCurrentText(tr(kind.value).capitalize())

    def _place(self, name: str, share: float) -> None:
        if self._shown is None:
            return
        (left, right), (top, bottom) = self._shown.region
        self.changed.emit("region", {
            LEFT: ((share, share + right - left), (top, bottom)),
            TOP: ((left, right), (share, share + bottom - top)),
            WIDE: ((left, left + share), (top, bottom)),
            HIGH: ((left, right), (top, top + share))}[name])
