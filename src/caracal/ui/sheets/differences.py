"""What differs between two spec sheets, side by side."""

from __future__ import annotations

from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QHeaderView,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import tr
from caracal.core.specs.fields import differences
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.widgets.tables import Cell, Rows, table


class Differences(QDialog):
    """Accepted when the person goes on; ``action`` None only shows."""

    def __init__(self, sheet: SpecSheet, other: SpecSheet, parent: QWidget,
                 action: str | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Compare spec sheets"))
        self.setObjectName("ground")
        found = differences(sheet, other)
        head = QLabel(tr("{count} differences between {title} and {other}.", count=len(found),
                         title=sheet.title, other=other.title)
                      if found else tr("{title} and {other} are the same.", title=sheet.title,
                                       other=other.title))
        head.setObjectName("head")
        rows = Rows(("", sheet.title, other.title))
        rows.show(tuple((Cell(field.replace("_", " ").replace(".", ", ")), Cell(mine),
                         Cell(theirs)) for field, mine, theirs in found))
        shown = table(rows, 2, 26, name=tr("Differences"))
        shown.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self._rows = rows
        buttons = QDialogButtonBox()
        if action:
            go = buttons.addButton(action, QDialogButtonBox.ButtonRole.AcceptRole)
            go.setObjectName("main")
        buttons.addButton(tr("Close"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 16)
        column.setSpacing(12)
        column.addWidget(head)
        column.addWidget(shown, 1)
        column.addWidget(buttons)
        self.resize(760, min(640, 170 + 26 * max(2, len(found))))
