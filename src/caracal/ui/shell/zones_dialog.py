"""How zones are drawn: which, in which colour, how strongly."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QGridLayout,
    QLabel,
    QSlider,
    QWidget,
)

from caracal.core.base.translation import tr
from caracal.ui.session.session import Session
from caracal.ui.widgets.focus_policy import apply_focus_policy

ZONES = (
    ("covers", tr("Covers"), "C", tr("Where the destination's own buttons and words lie")),
    ("clear", tr("Clear area"), "A",
     tr("Where nothing of the destination lies; on wide canvases the safe areas of EBU R 95")),
    ("thumbnail", tr("Thumbnail cut"), "T", tr("What the destination's grid shows")),
    ("trim", tr("Edge trim"), "E", tr("What taller phones cut off")),
    ("phone", tr("Phone outline"), "H", tr("A plain phone round tall canvases")),
)
COLOURS = {tr("Sand"): "#e6dac4", tr("White"): "#ffffff", tr("Sky"): "#56b4e9",
           tr("Yellow"): "#f0e442", tr("Vermilion"): "#d55e00"}


class ZonesDialog(QDialog):
    """Every change is drawn at once."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle(tr("Zones"))
        self.setObjectName("ground")
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 16, 16, 16)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(10)
        self.ticks: dict[str, QCheckBox] = {}
        for row, (name, words, key, tip) in enumerate(ZONES):
            tick = QCheckBox(f"{words} ({key})")
            tick.setToolTip(tip)
            tick.setChecked(getattr(session.zones, name))
            tick.toggled.connect(lambda on, zone=name: self._set(**{zone: on}))
            grid.addWidget(tick, row, 0, 1, 2)
            self.ticks[name] = tick
        self.colour = QComboBox()
        for words, colour in COLOURS.items():
            swatch = QPixmap(16, 16)
            swatch.fill(QColor(colour))
            self.colour.addItem(QIcon(swatch), words, colour)
        self.colour.setCurrentIndex(max(0, self.colour.findData(session.zones.colour)))
        self.colour.activated.connect(lambda i: self._set(colour=self.colour.itemData(i)))
        self.strength = QSlider(Qt.Orientation.Horizontal)
        self.strength.setRange(10, 100)
        self.strength.setMinimumWidth(200)
        self.strength.setValue(round(session.zones.strength * 100))
        self.strength.valueChanged.connect(lambda value: self._set(strength=value / 100))
        for row, (words, made) in enumerate(((tr("Colour"), self.colour),
                                             (tr("Strength"), self.strength)), len(ZONES)):
            grid.addWidget(QLabel(words), row, 0)
            grid.addWidget(made, row, 1)
        apply_focus_policy(self)

    def _set(self, **changes: object) -> None:
        self._session.show_zones(replace(self._session.zones, **changes))  # type: ignore[arg-type]
