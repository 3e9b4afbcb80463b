"""Fields of a page: labels on one left edge, controls on another, in sections with headings."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import tr
from caracal.ui.widgets import theme

LABEL_WIDE = 116  # pixels: the controls of all forms begin at one edge
GAP, GROUP_GAP = 8, 16  # pixels within a group, and before a section
NUMBER_WIDE, CHOICE_WIDE = 104, 168  # pixels of boxes
DOT_WIDE = 20


class ResetDot(QPushButton):
    """Shows that a field differs from its default; a click takes that back."""

    def __init__(self, name: str, run: Callable[[], object]) -> None:
        super().__init__("●")
        self.setObjectName("dot")
        self.setToolTip(tr("Reset {name} to its default", name=name))
        self.setAccessibleName(self.toolTip())
        self.setFixedWidth(theme.scaled(DOT_WIDE))
        policy = self.sizePolicy()
        policy.setRetainSizeWhenHidden(True)
        self.setSizePolicy(policy)
        self.clicked.connect(lambda _=False: run())
        self.hide()


class Form(QWidget):
    """A grid of rows: a label and its controls. Rows are added from top to bottom."""

    def __init__(self) -> None:
        super().__init__()
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setHorizontalSpacing(GAP)
        self._grid.setVerticalSpacing(GAP)
        self._grid.setColumnMinimumWidth(0, theme.scaled(LABEL_WIDE))
        self._grid.setColumnStretch(1, 1)
        self._count = 0

    def section(self, heading: str) -> QLabel:
        """Begin a section with its ``heading``."""
        label = QLabel(heading)
        label.setObjectName("head")
        if self._count:
            label.setContentsMargins(0, GROUP_GAP - GAP, 0, 0)
        self._grid.addWidget(label, self._count, 0, 1, 2)
        self._count += 1
        return label

    def row(self, name: str, *controls: QWidget, reset: Callable[[], object] | None = None) -> Row:
        """Add ``controls`` with a label in front; with ``reset`` the row can show a dot that runs
        it."""
        label = QLabel(name)
        label.setObjectName("quiet")
        if controls:
            label.setBuddy(controls[0])
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(GAP)
        for control in controls:
            row.addWidget(control)
        dot = None
        if reset is not None:
            dot = ResetDot(name, reset)
            row.addWidget(dot)
        row.addStretch(1)
        holder = QWidget()
        holder.setLayout(row)
        self._grid.addWidget(label, self._count, 0, Qt.AlignmentFlag.AlignVCenter)
        self._grid.addWidget(holder, self._count, 1)
        self._count += 1
        return Row(label, holder, dot)

    def wide(self, widget: QWidget) -> None:
        """Add ``widget`` across both columns."""
        self._grid.addWidget(widget, self._count, 0, 1, 2)
        self._count += 1


class Row:
    """One row of a form."""

    def __init__(self, label: QLabel, holder: QWidget, dot: ResetDot | None) -> None:
        self.label, self._holder, self.dot = label, holder, dot

    def set_visible(self, on: bool) -> None:
        """Show or hide the label and its controls."""
        self.label.setVisible(on)
        self._holder.setVisible(on)

    def set_enabled(self, on: bool) -> None:
        """Enable or disable the label and its controls."""
        self.label.setEnabled(on)
        self._holder.setEnabled(on)

    def set_changed(self, on: bool) -> None:
        """Show the dot of a field that differs from its default, or none."""
        if self.dot is not None:
            self.dot.setVisible(on)


class Fold(QWidget):
    """What is rarely needed: a button that opens and closes it."""

    def __init__(self, name: str, inside: QWidget, open_: bool = False) -> None:
        super().__init__()
        self._name, self.inside = name, inside
        self.button = QPushButton()
        self.button.setObjectName("fold")
        self.button.setCheckable(True)
        self.button.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
        self.button.toggled.connect(self._toggle)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(GAP)
        column.addWidget(self.button)
        column.addWidget(inside)
        self.button.setToolTip(tr("Show or hide: {name}", name=name))
        self.button.setChecked(open_)
        self._toggle(open_)

    def _toggle(self, on: bool) -> None:
        self.inside.setVisible(on)
        self.button.setText(f"{self._name} {'▾' if on else '▸'}")


def button_row(*widgets: QWidget) -> QWidget:
    """Widgets side by side, left-aligned."""
    holder = QWidget()
    row = QHBoxLayout(holder)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(GAP)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch(1)
    return holder
