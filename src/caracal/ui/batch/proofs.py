"""The proof of the chosen line: every property of its files against the spec sheet."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QComboBox, QHeaderView, QLabel, QVBoxLayout, QWidget

from caracal.core.base.paths import path_of
from caracal.core.base.translation import tr
from caracal.core.batch.job import Item
from caracal.ui.widgets import theme
from caracal.ui.widgets.tables import Cell, Row, Rows, table

HEADS = ("", tr("Property"), tr("The file has"), tr("Asked"))


class Proofs(QWidget):
    """One file at a time; a line with several parts has a list of them."""

    def __init__(self) -> None:
        super().__init__()
        self._item: Item | None = None
        self.head = QLabel()
        self.head.setObjectName("head")
        self.head.setWordWrap(True)
        self.sound = QLabel()
        self.sound.setObjectName("quiet")
        self.sound.setToolTip(tr("Loudness and true peak by ITU-R BS.1770, before and after"))
        self.files = QComboBox()
        self.files.setToolTip(tr("The parts of this version"))
        self.files.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.files.setMinimumContentsLength(20)  # long names do not push the list aside
        self.files.currentIndexChanged.connect(lambda _: self._fill())
        self._rows = Rows(HEADS)
        self.table = table(self._rows, 2, 24, name=tr("Proof"))
        self.table.horizontalHeader().setSectionResizeMode(3, QHeaderView.ResizeMode.Stretch)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.head)
        column.addWidget(self.sound)
        column.addWidget(self.files)
        column.addWidget(self.table, 1)
        column.addStretch(0)
        self.setMinimumWidth(380)
        self.show_item(None)

    def show_item(self, item: Item | None) -> None:
        """Show the files of ``item``, worst first."""
        if item == self._item and item is not None:
            return
        self._item = item
        made = [] if item is None else sorted(
            item.status.made, key=lambda result: result.proof.right)
        self._made = made
        self.files.blockSignals(True)
        self.files.clear()
        self.files.addItems([Path(encode_result.file).name for encode_result in made])
        self.files.blockSignals(False)
        self.files.setVisible(len(made) > 1)
        self.table.setVisible(bool(made))
        self._fill()

    def _fill(self) -> None:
        if not self._made:
            self.head.setText(self._without())
            self.sound.setVisible(False)
            self._rows.show(())
            return
        made = self._made[max(0, self.files.currentIndex())]
        right = sum(line.right for line in made.proof.lines)
        name = path_of(made.file).name
        self.head.setText(tr("{name}: {right} of {count} lines right", name=name, right=right,
                             count=len(made.proof.lines)))
        self.sound.setText(made.sound_words())
        self.sound.setVisible(bool(made.sound_words()))
        rows: list[Row] = []
        for line in sorted(made.proof.lines, key=lambda line: line.right):
            colour = theme.GOOD if line.right else theme.BAD
            rows.append((Cell("✓" if line.right else tr("✗ wrong"), colour), Cell(tr(line.what)),
                         Cell(line.found), Cell(line.asked)))
        self._rows.show(tuple(rows))

    def _without(self) -> str:
        if self._item is None:
            return tr("The proof of a file appears here, line by line: choose a line of the list.")
        return self._item.status.problem or (
            tr("{title}: {state}. Its proof appears here.",
               title=self._item.job.recipe.sheet.title, state=tr(self._item.state)))
