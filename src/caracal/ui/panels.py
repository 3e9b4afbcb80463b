"""What panels are made of: rows with a head, small buttons, boxes for numbers."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDoubleSpinBox, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from caracal.core.errors import CaracalError
from caracal.core.render.assets import open_picture
from caracal.ui.session import Session


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


def picture_at(path: Path, session: Session) -> Image.Image | None:
    """The picture at ``path``; None, and a sentence is said, when it cannot be used."""
    try:
        return open_picture(path)
    except CaracalError as problem:
        session.said.emit(problem.sentence())
        return None


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
    box.setToolTip(f"{tip}: type a number, or step it with the arrow keys")
    return box
