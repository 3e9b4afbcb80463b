"""The numbers and choices of one overlay."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox

from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.layout.entrance import Entry
from caracal.core.layout.overlay import BlendMode, Overlay
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import CHOICE_WIDE, NUMBER_WIDE, Form
from caracal.ui.widgets.panels import number_box

PLACES = LEFT, TOP, WIDTH, HEIGHT = tr("Left"), tr("Top"), tr("Width"), tr("Height")
MORE = OPACITY, APPEAR, DISAPPEAR, TRANSITION, BLEND, CORNERS = (
    tr("Opacity"), tr("Appear"), tr("Disappear"), tr("Transition time"), tr("Blend mode"),
    tr("Corner radius"))


def summary(overlay: Overlay, rate: Fraction) -> str:
    """An overlay in a line of the list: what it is, and when it is seen."""
    words = [overlay.name, tr("{start} to {end}", start=timecode(overlay.start, rate),
                              end=timecode(overlay.end_exclusive, rate))]
    words += [tr("hidden")] if overlay.hidden else []
    words += [tr("locked")] if overlay.locked else []
    return "    ".join(words)


class OverlayFields(QObject):
    """Shows an overlay; ``changed`` says which field a person gave which value."""

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
        self._number(TRANSITION, 0, 10, 0.1, 2, " s",
                     tr("How long it takes to appear, and to disappear"),
                     lambda value: self.changed.emit("moving", round(value * rate)))
        self.choices = {
            APPEAR: self._choice(Entry, "entry", tr("How it appears")),
            DISAPPEAR: self._choice(Entry, "exit", tr("How it disappears")),
            BLEND: self._choice(BlendMode, "blend", tr("How it blends with the picture behind"))}

    def fill(self, form: Form, more: Form) -> None:
        """Add what is often needed to ``form``, the rest to ``more``."""
        for pair, left, right in ((tr("Position X, Y"), LEFT, TOP),
                                  (tr("Width, height"), WIDTH, HEIGHT)):
            form.row(pair, self.numbers[left], self.numbers[right])
        form.row(OPACITY, self.numbers[OPACITY])
        form.row(APPEAR, self.choices[APPEAR])
        form.row(DISAPPEAR, self.choices[DISAPPEAR])
        more.row(TRANSITION, self.numbers[TRANSITION])
        more.row(BLEND, self.choices[BLEND])
        more.row(CORNERS, self.numbers[CORNERS])

    def _number(self, name: str, low: float, high: float, step: float, digits: int, unit: str,
                tip: str, run: Callable[[float], None]) -> None:
        box = number_box(low, high, step, digits, unit, tip)
        box.setFixedWidth(theme.scaled(NUMBER_WIDE))
        box.setAccessibleName(name)
        box.valueChanged.connect(run)
        self.numbers[name] = box

    def _choice(self, kinds: type[Entry] | type[BlendMode], field: str, tip: str) -> QComboBox:
        box = QComboBox()
        box.addItems([tr(kind.value).capitalize() for kind in kinds])
        box.setToolTip(tip)
        box.setFixedWidth(theme.scaled(CHOICE_WIDE))
        box.activated.connect(lambda at: self.changed.emit(field, list(kinds)[at]))
        return box

    def show_overlay(self, overlay: Overlay) -> None:
        """Show the values of ``overlay``."""
        self._shown = overlay
        (left, right), (top, bottom) = overlay.region
        shown = dict(zip(PLACES, (left, top, right - left, bottom - top), strict=True))
        shown |= {OPACITY: overlay.opacity, CORNERS: overlay.radius}
        values = {name: share * 100 for name, share in shown.items()}
        for name, value in {**values, TRANSITION: overlay.moving / self._rate}.items():
            box = self.numbers[name]
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        for name, kind in ((APPEAR, overlay.entry), (DISAPPEAR, overlay.exit),
                           (BLEND, overlay.blend)):
            self.choices[name].setCurrentText(tr(kind.value).capitalize())

    def _place(self, name: str, share: float) -> None:
        if self._shown is None:
            return
        (left, right), (top, bottom) = self._shown.region
        self.changed.emit("region", {
            LEFT: ((share, share + right - left), (top, bottom)),
            TOP: ((left, right), (share, share + bottom - top)),
            WIDTH: ((left, left + share), (top, bottom)),
            HEIGHT: ((left, right), (top, top + share))}[name])
