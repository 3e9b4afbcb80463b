"""The upper half of Batch: this film's versions, and what stands in their way."""

from __future__ import annotations

from datetime import date
from pathlib import Path

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QColor, QShowEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QWidget,
)

from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.batch.concerns import (
    Concern,
    ConcernKind,
    concerns_of,
    contents_of,
    places,
    summary,
)
from caracal.core.batch.encode_jobs import jobs_of
from caracal.core.batch.job import EncodeJob
from caracal.core.project.brand_check import off_brand
from caracal.core.project.model import Project
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.render.assets.checks import is_checked
from caracal.core.specs.sheet import SpecSheet, base_name
from caracal.core.specs.sheet_store import own_folder
from caracal.ui.batch.duration_fit import DurationFitWorker
from caracal.ui.batch.expectations import Expectations
from caracal.ui.batch.version_cells import of_ranges, of_shape, of_sheet
from caracal.ui.batch.version_edits import VersionEdits
from caracal.ui.session.session import Session
from caracal.ui.sheets.differences import Differences
from caracal.ui.widgets import theme
from caracal.ui.widgets.elided import Elided
from caracal.ui.widgets.panels import choice_box
from caracal.ui.widgets.tables import Cell, Row, Rows, chosen_rows, table

HEADS = ("", tr("Version"), tr("Name"), tr("Spec sheet"), tr("Length"), tr("Expected"), tr("Notes"))


class Versions(QWidget):
    """Tick versions, change them, read what stands in the way, jump there."""

    jumped = Signal(str, int)  # a version and a shot to look at
    sheet_asked = Signal(str)  # a spec sheet to look at

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__()
        self._session, self.folder = session, folder
        self.replace = self.review = False
        self.checking = False  # pictures and clips that were not checked before
        self.off: set[str] = set()  # versions that are not ticked
        self.concerns: tuple[Concern, ...] = ()
        self._recipes: dict[str, tuple[Project, SpecSheet, bool, Recipe]] = {}
        self._rows = Rows(HEADS)
        self._rows.ticked = self._ticked
        self._rows.typed = self._typed
        self.table = table(self._rows, 3, name=tr("Versions"))
        self.list = QListWidget()
        self._edits = VersionEdits(session, self._chosen)
        self.expectations = Expectations(self, session, self._recipe)
        self.expectations.changed.connect(self.sync)
        self.expectations.due.connect(self._try)
        self._fitting = DurationFitWorker(self)
        self._fitting.fitted.connect(self._edits.end_at)
        self._build()
        session.project_changed.connect(self._sync_if_seen)
        session.solutions_changed.connect(self._sync_if_seen)
        self._fitting.failed.connect(session.said)
        self.list.itemActivated.connect(self._jump)
        self.list.itemClicked.connect(self._jump)
        self.table.selectionModel().selectionChanged.connect(self._sync_buttons)
        self.sync()

    def _build(self) -> None:
        self.add = choice_box(
            (), tr("One version more, by a spec sheet; your own sheets are here, too"), self._add)
        self.give = choice_box(
            (), tr("Make the chosen version for another destination; what differs is shown first, "
                   "its framing stays"), self._give)
        self.range = QPushButton(tr("Range"))
        self.range.setToolTip(tr("Which part of the film the chosen version shows"))
        menu = QMenu(self.range)
        for words, tip, do in (
            (tr("Take in to out"), tr("Only what lies between I and O"), self._edits.take_range),
            (tr("Join in to out"), tr("Also what lies between I and O"), self._edits.join_range),
            (tr("What the film line shows"), tr("No range of its own"), self._edits.no_range),
        ):
            menu.addAction(words, do).setToolTip(tip)
        self.range.setMenu(menu)
        self.fit = QPushButton(tr("Fit to a pause"))
        self.fit.setToolTip(tr("Too long: end the chosen version in the last pause that fits"))
        self.fit.clicked.connect(self._fit)
        self.sheet = QPushButton(tr("Spec sheet…"))
        self.sheet.setToolTip(tr("Look at the chosen version's spec sheet, or change it"))
        self.sheet.clicked.connect(
            lambda: self.sheet_asked.emit(self._session.project.version(self._chosen()).sheet))
        self.remove = QPushButton(tr("Remove"))
        self.remove.setToolTip(tr("The chosen version and what was decided for it; undo brings it "
                                  "back"))
        self.remove.clicked.connect(self._edits.remove)
        self._lay_out()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(6)
        head = Elided()
        head.setText(tr("Versions"))
        head.setObjectName("head")
        row.addWidget(head, 1)
        for button in (self.add, self.give, self.range, self.fit, self.sheet, self.remove):
            row.addWidget(button)
            button.setObjectName("small")
        self._summary = Elided()
        self._summary.setObjectName("head")
        self.total = QLabel()
        self.total.setObjectName("quiet")
        self.total.setToolTip(tr("The files of all ticked versions, and the time to make them once "
                                 "trials have told it"))
        told = QHBoxLayout()
        told.addWidget(self._summary, 1)
        told.addWidget(self.total)
        self._grid = grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(16)
        grid.setVerticalSpacing(8)
        grid.addLayout(row, 0, 0)
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

    def _fill_sheets(self) -> None:
        """The two lists of sheets, when there are others than before."""
        sheets = self._session.sheets.by_name.values()
        for box, head in ((self.add, tr("Add version…")), (self.give, tr("Give to…"))):
            words = [head, *(sheet.headline for sheet in sheets)]
            if [box.itemText(i) for i in range(box.count())] != words:
                box.clear()
                box.addItems(words)
                box.setFixedWidth(theme.scaled(118))
                box.view().setMinimumWidth(260)

    def wanted_letters(self) -> list[str]:
        """Returns the letters of the ticked versions."""
        return [version.letter for version in self._session.project.versions
                if version.letter not in self.off]

    def works(self) -> list[EncodeJob]:
        """The ticked versions as lines for the list. Raises InputError when a sheet is gone."""
        return jobs_of(self._session.film, self._session.project, self._session.sheets.by_name,
                        self.folder, self.wanted_letters(), self.replace, self.review)

    def sync(self) -> None:
        """Show the versions and their concerns."""
        self._fill_sheets()
        project = self._session.project
        self.concerns = self._all_concerns()
        self._rows.show(tuple(self._row(version.letter) for version in project.versions))
        self._summary.setText(summary(self.concerns))
        self.total.setText(self.expectations.total(self.wanted_letters()))
        with QSignalBlocker(self.list):
            self.list.clear()
            for concern in self.concerns:
                words = (
                    f"{concern.letter}   {concern.sentence}" if concern.letter else concern.sentence
                )
                item = QListWidgetItem(words)
                if concern.stops:
                    item.setForeground(QColor(theme.BAD))
                item.setData(Qt.ItemDataRole.UserRole, concern)
                self.list.addItem(item)
        self._sync_buttons()
        untried = self.expectations.untried
        if self.isVisible() and any(untried(version.letter) for version in project.versions):
            self.expectations.begin_soon()

    def _sync_buttons(self) -> None:
        letter = self._chosen()
        self.remove.setEnabled(len(self._session.project.versions) > 1)
        limit = self._session.sheet(letter).duration.most_s
        self.fit.setEnabled(self._seconds(letter) > limit and not self._fitting.isRunning())

    def _all_concerns(self) -> tuple[Concern, ...]:
        session, needed, every = self._session, 0.0, list[Concern]()
        unchecked: list[object] = []
        if not session.found.whole:
            every.append(Concern(ConcernKind.GOES_ON,
                                 tr("The film is still being looked at: versions can be made when "
                                    "all of it was."), True))
        for letter in self.wanted_letters():
            recipe = self._recipe(letter)
            shots = self._shots(letter)
            flags = {shot: session.flags(letter, shot) for shot in shots}
            base = base_name(session.project.version(letter).sheet)
            if base in session.sheets.missing:
                every.append(Concern(ConcernKind.SHEET_GONE,
                                     tr("The spec sheet “{base}” is gone. Give version {letter} to "
                                        "another, or put it back into {folder}.", base=base,
                                        letter=letter, folder=own_folder()), True, letter))
                continue
            tried = self.expectations.estimate(letter)
            every += concerns_of(session.analysis.master, letter, recipe, flags, self.folder,
                                 date.today(), self.replace, tried,
                                 off_brand(session.project, letter), check_files=False,
                                 fewer_panes=[shot for shot in shots if session.solution(
                                     letter, shot).fewer_panes])
            unchecked += [content for _, content in contents_of(recipe) if not is_checked(content)]
            needed += self.expectations.size_mb(letter)
        self.checking = bool(unchecked)
        if unchecked:
            session.assets.check(unchecked, self.sync)
        every += places(session.analysis.master, self.folder, needed)
        return tuple(sorted(every, key=lambda concern: not concern.stops))

    def _shots(self, letter: str) -> list[int]:
        """The shots that the version shows any of."""
        session = self._session
        return session.analysis.shots_in(session.project.ranges_of(letter))

    def _recipe(self, letter: str) -> Recipe:
        """What the version is made from; the same object until something changes."""
        project, sheet = self._session.project, self._session.sheet(letter)
        kept = self._recipes.get(letter)
        if kept is None or kept[0] is not project or kept[1:3] != (sheet, self.review):
            kept = project, sheet, self.review, recipe_of(project, letter, sheet, self.review)
            self._recipes[letter] = kept
        return kept[3]

    def _seconds(self, letter: str) -> float:
        frames = self._recipe(letter).frames_in(self._session.analysis.master.frames)
        return frames / self._session.rate

    def _row(self, letter: str) -> Row:
        session = self._session
        version, sheet = session.project.version(letter), session.sheet(letter)
        mine = [concern for concern in self.concerns if concern.letter == letter]
        stops = any(concern.stops for concern in mine)
        found = self.expectations.estimate(letter)
        time = f", {short_time(found.seconds)}" if found is not None else ""
        how = (tr("Expected from a trial on its own pictures") if time
               else tr("Expected by the spec sheet's bitrates"))
        notes = (tr("in the way") if stops else tr("{count} to look at", count=len(mine)) if mine
                 else tr("ready"))
        return (
            Cell("", tip=tr("Make this version"), tick=letter not in self.off),
            of_shape(letter, sheet),
            Cell(version.name, tip=tr("What you call it: double-click to write"), editable=True),
            of_sheet(sheet),
            Cell(f"{short_time(self._seconds(letter))}{of_ranges(version)}"),
            Cell(f"{self.expectations.size_mb(letter):.0f} MB{time}", tip=how),
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
        (self.off.discard if on else self.off.add)(letter)
        self.sync()

    def _typed(self, row: int, column: int, text: str) -> None:
        letter = self._session.project.versions[row].letter
        self._edits.name(letter, text.strip())

    def _add(self, index: int) -> None:
        self.add.setCurrentIndex(0)
        if index > 0:
            self._edits.add(self._listed(index))

    def _listed(self, index: int) -> SpecSheet:
        """The sheet of a row of the two lists; one that takes any canvas gets the chosen one's."""
        sheet = list(self._session.sheets.by_name.values())[index - 1]
        return sheet.sized(self._session.sheet(self._chosen()).canvas) if sheet.as_made else sheet

    def _give(self, index: int) -> None:
        self.give.setCurrentIndex(0)
        if index > 0:
            letter, then = self._chosen(), self._listed(index)
            now = self._session.sheet(letter)
            dialog = Differences(now, then, self, tr("Give version {letter} to {title}",
                                                     letter=letter, title=then.title))
            dialog.accepted.connect(lambda: self._edits.give(letter, then))
            dialog.open()

    def _fit(self) -> None:
        session, letter = self._session, self._chosen()
        self.fit.setEnabled(False)
        cards_s = self._recipe(letter).card_frames / session.rate
        self._fitting.ask(letter, session.analysis, session.project.ranges_of(letter),
                          session.sheet(letter).duration.most_s - cards_s)

    def _jump(self, item: QListWidgetItem) -> None:
        letter = item.data(Qt.ItemDataRole.UserRole)
        if letter.shot is not None:
            self.jumped.emit(letter.letter, letter.shot)
        elif letter.letter:
            letters = [each.letter for each in self._session.project.versions]
            self.table.selectRow(letters.index(letter.letter))

    def _try(self) -> None:
        if self._session.film.is_file():
            stopped = {concern.letter for concern in self.concerns if concern.stops}
            self.expectations.attempt([letter for letter in self.wanted_letters()
                                       if not {"", letter} & stopped])

    def close_down(self) -> None:
        """This stops all that runs, and waits for it."""
        self.expectations.close()
        self._fitting.close()
