"""Tables that take what they show from frozen rows, and repaint only what differs."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt, Signal
from PySide6.QtGui import QColor, QShowEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView

Index = QModelIndex | QPersistentModelIndex
NOWHERE = QModelIndex()


@dataclass(frozen=True)
class Cell:
    """What a cell shows; ``tick`` None has no box to tick, ``editable`` takes typed words."""

    text: str
    colour: str = ""
    tip: str = ""
    tick: bool | None = None
    editable: bool = False


Row = tuple[Cell, ...]


class Rows(QAbstractTableModel):
    """Rows of cells under ``heads``; ``grown`` tells that some cell may need more room."""

    grown = Signal()

    def __init__(self, heads: tuple[str, ...]) -> None:
        super().__init__()
        self._heads, self.rows = heads, tuple[Row, ...]()
        self._widest = [0] * len(heads)
        self.ticked: Any = None  # called with (row, on)
        self.typed: Any = None  # called with (row, column, text)

    def show(self, rows: tuple[Row, ...]) -> None:
        """Show ``rows``; cells that stay are not painted again."""
        before, self.rows = self.rows, rows
        widest = [max((len(row[i].text) for row in rows), default=0)
                  for i in range(len(self._heads))]
        wider = len(before) != len(rows) or any(
            now > then for now, then in zip(widest, self._widest, strict=True))
        self._widest = widest if wider else self._widest
        if len(before) != len(rows):
            self.rows = before
            if len(rows) > len(before):
                self.beginInsertRows(QModelIndex(), len(before), len(rows) - 1)
            else:
                self.beginRemoveRows(QModelIndex(), len(rows), len(before) - 1)
            self.rows = rows
            (self.endInsertRows if len(rows) > len(before) else self.endRemoveRows)()
        for at, (old, new) in enumerate(zip(before, rows, strict=False)):
            if old is not new and old != new:
                self.dataChanged.emit(self.index(at, 0), self.index(at, len(self._heads) - 1))
        if wider:
            self.grown.emit()

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self._heads)

    def headerData(self, section: int, way: Qt.Orientation, role: int = 0) -> Any:
        if way is Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self._heads[section]
        return None

    def data(self, index: Index, role: int = 0) -> Any:
        cell = self.rows[index.row()][index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return cell.text
        if role == Qt.ItemDataRole.ForegroundRole and cell.colour:
            return QColor(cell.colour)
        if role == Qt.ItemDataRole.ToolTipRole:
            return cell.tip or cell.text
        if role == Qt.ItemDataRole.CheckStateRole and cell.tick is not None:
            return Qt.CheckState.Checked if cell.tick else Qt.CheckState.Unchecked
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        cell = self.rows[index.row()][index.column()]
        flags = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        if cell.tick is not None:
            flags |= Qt.ItemFlag.ItemIsUserCheckable
        return flags | Qt.ItemFlag.ItemIsEditable if cell.editable else flags

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        if role == Qt.ItemDataRole.CheckStateRole and self.ticked is not None:
            self.ticked(index.row(), Qt.CheckState(value) is Qt.CheckState.Checked)
            return True
        if role == Qt.ItemDataRole.EditRole and self.typed is not None:
            self.typed(index.row(), index.column(), str(value))
            return True
        return False


class Table(QTableView):
    """A table whose columns are as wide as what they hold; one that a person made wider or narrower
    stays so.
    """

    def __init__(self, rows: Rows, wide: int) -> None:
        super().__init__()
        self.setModel(rows)
        self._held: dict[int, int] = {}  # widths of columns in pixels, by a person
        self._fitting = self._fits = False
        header = self.horizontalHeader()
        header.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
        header.setSectionResizeMode(wide, QHeaderView.ResizeMode.Stretch)
        header.sectionResized.connect(self._resized)
        rows.grown.connect(self._fit)
        self._fit()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if not self._fits:
            self._fit()

    @property
    def widths(self) -> dict[str, int]:
        """The widths in pixels that a person gave to columns, by their numbers."""
        return {str(column): width for column, width in self._held.items()}

    def set_widths(self, widths: dict[str, int]) -> None:
        """Give columns these widths again; those that are not there, or none, are left out."""
        for column, width in widths.items():
            if column.isdigit() and int(column) < self.model().columnCount() and width > 0:
                self.horizontalHeader().resizeSection(int(column), width)

    def _resized(self, column: int, _: int, width: int) -> None:
        mode = self.horizontalHeader().sectionResizeMode(column)
        if not self._fitting and mode is QHeaderView.ResizeMode.Interactive:
            self._held[column] = width

    def _fit(self) -> None:
        """Columns as wide as what they hold; not at every change, and not before they are seen:
        measuring takes long, and rows out of sight are not measured."""
        self._fits = self.isVisible()
        if not self._fits:
            return
        self._fitting = True
        header = self.horizontalHeader()
        for column in range(self.model().columnCount()):
            interactive = header.sectionResizeMode(column) is QHeaderView.ResizeMode.Interactive
            if interactive and column not in self._held:
                self.resizeColumnToContents(column)
        self._fitting = False


def table(
    rows: Rows, wide: int, row_height: int = 28, many: bool = False, name: str = ""
) -> Table:
    """A table that shows ``rows``; column ``wide`` takes the space that is left.

    ``name`` is what screen readers call it.
    """
    made = Table(rows, wide)
    made.setAccessibleName(name)
    made.verticalHeader().setVisible(False)
    made.setShowGrid(False)
    made.setTabKeyNavigation(False)  # Tab goes on to what comes after the table
    made.setWordWrap(False)
    made.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    mode = QAbstractItemView.SelectionMode
    made.setSelectionMode(mode.ExtendedSelection if many else mode.SingleSelection)
    made.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked
                         | QAbstractItemView.EditTrigger.EditKeyPressed)
    header = made.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    header.setHighlightSections(False)
    header.setResizeContentsPrecision(0)  # by the rows that are seen
    header.setMinimumSectionSize(28)
    made.verticalHeader().setDefaultSectionSize(row_height)
    made.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
    return made


def chosen_rows(view: QTableView) -> list[int]:
    """The numbers of the selected rows, in order."""
    return sorted({index.row() for index in view.selectionModel().selectedRows()})
