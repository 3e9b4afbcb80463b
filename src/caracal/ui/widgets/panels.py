"""What panels are made of: rows with a head, small buttons, boxes for numbers."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QColorDialog,
    QComboBox,
    QDoubleSpinBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import tr

SWATCH = 14  # pixels
LEAST_BOX = 64  # pixels: a box of names is as narrow in a small window
EDGE = "#8a8378"  # round a swatch: a dark colour is seen on a dark button


def wide_panel(wide: int) -> tuple[QWidget, QVBoxLayout]:
    """A panel at least so many pixels wide, and the column of what stands in it."""
    panel = QWidget()
    panel.setObjectName("panel")
    panel.setMinimumWidth(wide)
    column = QVBoxLayout(panel)
    column.setContentsMargins(16, 14, 16, 12)
    column.setSpacing(10)
    return panel, column


def headed_row(row: QWidget, name: str) -> QHBoxLayout:
    """The layout of ``row``, which begins with its name."""
    inside = QHBoxLayout(row)
    inside.setContentsMargins(0, 0, 0, 0)
    inside.setSpacing(8)
    head = QLabel(name)
    head.setObjectName("head")
    inside.addWidget(head)
    return inside


def small_button(name: str, tip: str, run: Callable[[], object]) -> QPushButton:
    """A small button of a panel; a click runs ``run``."""
    button = QPushButton(name)
    button.setObjectName("small")
    button.setToolTip(tip)
    button.clicked.connect(lambda _=False: run())
    return button


def number_box(
    low: float, high: float, step: float, digits: int, unit: str, tip: str
) -> QDoubleSpinBox:
    """A box for a number that counts once it is typed."""
    box = QDoubleSpinBox()
    box.setRange(low, high)
    box.setSingleStep(step)
    box.setDecimals(digits)
    box.setSuffix(unit)
    box.setKeyboardTracking(False)
    box.setAlignment(Qt.AlignmentFlag.AlignRight)
    box.setToolTip(tr("{tip}: type a number, or step it with the arrow keys", tip=tip))
    return box


def swatch(colour: str) -> QPixmap:
    """A small picture of a ``colour``, as #rrggbb."""
    picture = QPixmap(SWATCH, SWATCH)
    picture.fill(QColor(EDGE))
    with QPainter(picture) as p:
        p.fillRect(1, 1, SWATCH - 2, SWATCH - 2, QColor(colour))
    return picture


class ColourButton(QPushButton):
    """Shows a colour, and asks for another; ``changed`` tells it as #rrggbb."""

    changed = Signal(str)

    def __init__(self, name: str, tip: str) -> None:
        super().__init__(name)
        self.setObjectName("small")
        self.setToolTip(tip)
        self._colour = "#000000"
        self.clicked.connect(lambda _=False: self._ask())

    def show_colour(self, colour: str) -> None:
        """Show ``colour``, as #rrggbb."""
        self._colour = colour
        self.setIcon(QIcon(swatch(colour)))

    def _ask(self) -> None:
        found = QColorDialog.getColor(QColor(self._colour), self, self.text())
        if found.isValid():
            self.changed.emit(found.name())


def choice_box(names: Sequence[str], tip: str, run: Callable[[int], object]) -> QComboBox:
    """A box of names; choosing one runs ``run`` with its number."""
    box = QComboBox()
    box.setMinimumWidth(LEAST_BOX)
    box.addItems(list(names))
    box.setToolTip(tip)
    box.activated.connect(run)
    return box


def quiet(words: str) -> QLabel:
    """A label in the colour of what is said beside something."""
    label = QLabel(words)
    label.setObjectName("quiet")
    return label
