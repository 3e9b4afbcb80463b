"""The zone that is chosen in a sheet's drawing, by name and by numbers."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QHBoxLayout, QLabel, QWidget

from caracal.core.base.translation import mark, tr
from caracal.core.specs.sheet import SpecSheet, Zone
from caracal.ui.sheets.drawing import LEAST, zones_in

SIDES = {mark("left"): tr("From the left edge of the canvas"),
         mark("top"): tr("From its upper edge"),
         mark("width"): tr("How wide it is"), mark("height"): tr("How high it is")}
Place = tuple[str, int]  # a field of the sheet, and which of several in it


class ZoneNumbers(QWidget):
    """A list of all zones, and the place of the chosen one in percent of the canvas."""

    chosen = Signal(object)  # a place in the sheet
    moved = Signal(object)  # the chosen zone as it is to be

    def __init__(self) -> None:
        super().__init__()
        self._zone: Zone | None = None
        self.which = QComboBox()
        self.which.setAccessibleName(tr("Zone"))
        self.which.setToolTip(tr("The zone that the numbers are of"))
        self.which.activated.connect(lambda at: self.chosen.emit(self.which.itemData(at)))
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.which, 1)
        self.boxes = {side: self._box(side, tip) for side, tip in SIDES.items()}
        for side, box in self.boxes.items():
            label = QLabel(tr(side).capitalize())
            label.setObjectName("quiet")
            label.setBuddy(box)
            row.addWidget(label)
            row.addWidget(box)

    def _box(self, side: str, tip: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setRange(0.0, 100.0)
        box.setSingleStep(0.5)
        box.setDecimals(1)
        box.setSuffix(" %")
        box.setAlignment(Qt.AlignmentFlag.AlignRight)
        box.setToolTip(tip)
        box.setAccessibleName(tr("{side} of the zone", side=tr(side).capitalize()))
        box.setKeyboardTracking(False)
        box.valueChanged.connect(self._changed)
        return box

    def show_zone(self, sheet: SpecSheet, place: Place | None) -> None:
        """Show the zones of ``sheet``, and the numbers of that at ``place``."""
        zones = zones_in(sheet)
        self._zone = dict(zones).get(place) if place is not None else None
        blockers = [QSignalBlocker(box) for box in (self.which, *self.boxes.values())]
        self.which.clear()
        for at, zone in zones:
            self.which.addItem(tr(zone.what).capitalize(), at)
        self.which.setCurrentIndex(next(
            (i for i, (at, _) in enumerate(zones) if at == place), -1))
        self.which.setPlaceholderText(tr("Choose a zone") if zones else tr("No zones"))
        for side, box in self.boxes.items():
            box.setEnabled(self._zone is not None)
            box.setValue(100 * getattr(self._zone, side) if self._zone is not None else 0.0)
        del blockers

    def _changed(self) -> None:
        if self._zone is None:
            return
        left, top, width, height = (box.value() / 100 for box in self.boxes.values())
        left, top = min(left, 1 - LEAST), min(top, 1 - LEAST)
        width, height = min(max(width, LEAST), 1 - left), min(max(height, LEAST), 1 - top)
        self.moved.emit(Zone(self._zone.what, *(
            round(share, 4) for share in (left, top, width, height))))
