"""The upper half of Batch: this film's versions, and what stands in their way."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QColor, QShowEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QWidget,
)

from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.batch.concerns import summary
from caracal.ui.batch.version_bar import VersionBar
from caracal.ui.batch.version_cells import of_ranges, of_shape, of_sheet
from caracal.ui.batch.version_plan import VersionPlan
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.elided import Elided
from caracal.ui.widgets.tables import Cell, Row, Rows, chosen_rows, table

HEADS = ("", tr("Version"), tr("Name"), tr("Spec sheet"), tr("Length"), tr("Estimated size"),
         tr("Notes"))


class Versions(QWidget):
    """Tick versions, change them, read what stands in the way, jump there."""

    jumped = Signal(str, int)  # a version and a shot to look at

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__()
        self._session = session
        self.plan = VersionPlan(session, folder, self)
        self.bar = VersionBar(session, self.plan, self._chosen, self)
        self._rows = Rows(HEADS)
        self._rows.ticked = self._ticked
        self._rows.typed = self._typed
        self.table = table(self._rows, 3, name=tr("Versions"))
        self.list = QListWidget()
        self.plan.expectations.changed.connect(self.sync)
        self.plan.expectations.due.connect(self._try)
        self._lay_out()
        session.project_changed.connect(self._sync_if_seen)
        session.solutions_changed.connect(self._sync_if_seen)
        self.list.itemActivated.connect(self._jump)
        self.list.itemClicked.connect(self._jump)
        self.table.selectionModel().selectionChanged.connect(self.bar.sync)
        self.sync()

    def _lay_out(self) -> None:
        self._summary = Elided()
        self._summary.setObjectName("head")
        self.total = QLabel()
        self.total.setObjectName("quiet")
        self.total.setToolTip(tr("Size of all ticked versions, and the time to encode them once "
                                 "trials have estimated it"))
        told = QHBoxLayout()
        told.addWidget(self._summary, 1)
        told.addWidget(self.total)
        self._grid = grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(8)
        grid.addWidget(self.bar, 0, 0)
        grid.addWidget(self.table, 1, 0)
        grid.addLayout(told, 0, 1)
        grid.addWidget(self.list, 1, 1)
        grid.setColumnStretch(0, 5)
        grid.setColumnStretch(1, 3)
        self.list.setWordWrap(True)
        self.list.setToolTip(tr("Click to go to the shot"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def set_columns(self, left: int, right: int) -> None:
        """Share the width as these two numbers of pixels do."""
        self._grid.setColumnStretch(0, left)
        self._grid.setColumnStretch(1, right)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.sync()

    def _sync_if_seen(self) -> None:
        if self.isVisible():
            self.sync()

    def sync(self) -> None:
        """Show the versions, and their concerns as soon as they are known."""
        self.bar.fill_sheets()
        self.plan.renew(checked=self.sync, then=self._show)
        if self.plan.is_working:
            self._show()  # versions at once: what is clicked must be what is there

    def _show(self) -> None:
        plan, project = self.plan, self._session.project
        self._rows.show(tuple(self._row(version.letter) for version in project.versions))
        self._summary.setText(summary(plan.concerns))
        self.total.setText(plan.expectations.total(plan.wanted_letters()))
        with QSignalBlocker(self.list):
            self.list.clear()
            for concern in plan.concerns:
                words = (
                    f"{concern.letter}   {concern.sentence}" if concern.letter else concern.sentence
                )
                item = QListWidgetItem(words)
                if concern.stops:
                    item.setForeground(QColor(theme.BAD))
                item.setData(Qt.ItemDataRole.UserRole, concern)
                self.list.addItem(item)
        self.bar.sync()
        untried = plan.expectations.untried
        if self.isVisible() and any(untried(version.letter) for version in project.versions):
            plan.expectations.begin_soon()

    def _row(self, letter: str) -> Row:
        session = self._session
        version, sheet = session.project.version(letter), session.sheet(letter)
        mine = [concern for concern in self.plan.concerns if concern.letter == letter]
        stops = any(concern.stops for concern in mine)
        found = self.plan.expectations.estimate(letter)
        time = f", {short_time(found.seconds)}" if found is not None else ""
        how = (tr("Estimated by encoding samples of its pictures") if time
               else tr("Estimated from the spec sheet's bitrates"))
        notes = (tr("blocked") if stops else tr("{count} issues", count=len(mine)) if mine
                 else tr("ready"))
        return (
            Cell("", tip=tr("Encode this version"), tick=letter not in self.plan.off),
            of_shape(letter, sheet),
            Cell(version.name, tip=tr("Name of the version. Double-click to edit"), editable=True),
            of_sheet(sheet),
            Cell(f"{short_time(self.plan.seconds(letter))}{of_ranges(version)}"),
            Cell(f"{self.plan.expectations.size_mb(letter):.0f} MB{time}", tip=how),
            Cell(notes, theme.BAD if stops else theme.QUIET if mine else theme.GOOD))

    def _chosen(self) -> str:
        """The letter of the chosen row, else of the version chosen elsewhere."""
        rows = chosen_rows(self.table)
        versions = self._session.project.versions
        if rows and rows[0] < len(versions):
            return versions[rows[0]].letter
        return self._session.letter

    def _ticked(self, row: int, on: bool) -> None:
        letter = self._session.project.versions[row].letter
        (self.plan.off.discard if on else self.plan.off.add)(letter)
        self.sync()

    def _typed(self, row: int, column: int, text: str) -> None:
        letter = self._session.project.versions[row].letter
        self.bar.edits.name(letter, text.strip())

    def _jump(self, item: QListWidgetItem) -> None:
        letter = item.data(Qt.ItemDataRole.UserRole)
        if letter.shot is not None:
            self.jumped.emit(letter.letter, letter.shot)
        elif letter.letter:
            letters = [each.letter for each in self._session.project.versions]
            self.table.selectRow(letters.index(letter.letter))

    def _try(self) -> None:
        if self._session.film.is_file():
            stopped = {concern.letter for concern in self.plan.concerns if concern.stops}
            self.plan.expectations.attempt([letter for letter in self.plan.wanted_letters()
                                       if not {"", letter} & stopped])

    def close_down(self) -> None:
        """This stops all that runs, and waits for it."""
        self.plan.expectations.close()
        self.bar.close_down()
