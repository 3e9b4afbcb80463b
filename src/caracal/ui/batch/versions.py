"""The upper half of Batch: this film's versions, and what stands in their way."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path

import msgspec
from PySide6.QtCore import QSignalBlocker, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QWidget,
)

from caracal.core.batch.batch_list import EncodeJob
from caracal.core.batch.concerns import Concern, ConcernKind, concerns_of, places, summary
from caracal.core.batch.encode_jobs import jobs_of
from caracal.core.batch.estimate import Estimate
from caracal.core.batch.trial import TrialOrder
from caracal.core.errors import CaracalError
from caracal.core.paths import text_of
from caracal.core.project.edits import (
    changed_version,
    with_range,
    with_version,
    without_version,
)
from caracal.core.project.model import Project
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.specs.settings import estimated_mb
from caracal.core.specs.sheet import SpecSheet, base_name
from caracal.core.specs.shelf import own_folder
from caracal.core.time import FrameRange, short_time
from caracal.ui import theme
from caracal.ui.batch.duration_fit import DurationFitWorker
from caracal.ui.batch.trial_worker import Trial, TrialWorker
from caracal.ui.session import Session
from caracal.ui.sheets.differences import Differences
from caracal.ui.tables import Cell, Row, Rows, chosen_rows, table

HEADS = ("", "Version", "Name", "Spec sheet", "Length", "Expected", "Notes")
SETTLE_MS = 700  # after the last change, before trials begin


class Versions(QWidget):
    """Tick versions, change them, read what stands in the way, jump there."""

    jumped = Signal(str, int)  # a version and a shot to look at
    sheet_asked = Signal(str)  # a spec sheet to look at

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__()
        self._session, self.folder = session, folder
        self.replace = self.review = False
        self._off: set[str] = set()
        self._expected: dict[object, Estimate | str] = {}
        self.concerns: tuple[Concern, ...] = ()
        self._rows = Rows(HEADS)
        self._rows.ticked = self._ticked
        self._rows.typed = self._typed
        self.table = table(self._rows, 3)
        self.list = QListWidget()
        self._trying, self._fitting = TrialWorker(), DurationFitWorker(self)
        self._trying.answered.connect(self._tried)
        self._fitting.fitted.connect(self._fitted)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SETTLE_MS)
        self._soon.timeout.connect(self._try)
        self._build()
        session.project_changed.connect(self._sync_if_seen)
        session.solutions_changed.connect(self._sync_if_seen)
        self._fitting.failed.connect(session.said)
        self.list.itemActivated.connect(self._jump)
        self.list.itemClicked.connect(self._jump)
        self.table.selectionModel().selectionChanged.connect(self._sync_buttons)
        self.sync()

    def _build(self) -> None:
        self.add = QComboBox()
        self.add.setToolTip("One version more, by a spec sheet; your own sheets are here, too")
        self.add.activated.connect(self._add)
        self.give = QComboBox()
        self.give.setToolTip("Make the chosen version for another destination; what differs is "
                             "shown first, its framing stays")
        self.give.activated.connect(self._give)
        self.range = QPushButton("Range")
        self.range.setToolTip("Which part of the film the chosen version shows")
        menu = QMenu(self.range)
        for words, tip, do in (
            ("Take in to out", "Only what lies between I and O", self._take_range),
            ("Join in to out", "Also what lies between I and O", self._join_range),
            ("What the film line shows", "No range of its own", self._no_range),
        ):
            menu.addAction(words, do).setToolTip(tip)
        self.range.setMenu(menu)
        self.fit = QPushButton("Fit to a pause")
        self.fit.setToolTip("Too long: end the chosen version in the last pause that fits")
        self.fit.clicked.connect(self._fit)
        self.sheet = QPushButton("Spec sheet…")
        self.sheet.setToolTip("Look at the chosen version's spec sheet, or change it")
        self.sheet.clicked.connect(
            lambda: self.sheet_asked.emit(self._session.project.version(self._chosen()).sheet))
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("The chosen version and what was decided for it; undo brings it "
                               "back")
        self.remove.clicked.connect(self._remove)
        row = QHBoxLayout()
        row.setSpacing(6)
        head = QLabel("This film's versions")
        head.setObjectName("head")
        row.addWidget(head, 1)
        for one in (self.add, self.give, self.range, self.fit, self.sheet, self.remove):
            row.addWidget(one)
            one.setObjectName("small")
        self._summary = QLabel()
        self._summary.setObjectName("head")
        self.total = QLabel()
        self.total.setObjectName("quiet")
        self.total.setToolTip("The files of all ticked versions, and the time to make them once "
                              "trials have told it")
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
        self.list.setToolTip("Click to go to the shot")
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
        sheets = self._session.sheets.values()
        for box, head in ((self.add, "Add version…"), (self.give, "Give to…")):
            words = [head, *(sheet.headline for sheet in sheets)]
            if [box.itemText(i) for i in range(box.count())] != words:
                box.clear()
                box.addItems(words)
                box.setFixedWidth(118)
                box.view().setMinimumWidth(260)

    def wanted_letters(self) -> list[str]:
        """The ticked versions."""
        return [
            version.letter
            for version in self._session.project.versions
            if version.letter not in self._off
        ]

    def works(self) -> list[EncodeJob]:
        """The ticked versions as lines for the list. Raises InputError when a sheet is gone."""
        return jobs_of(self._session.film, self._session.project, self._session.sheets,
                        self.folder, self.wanted_letters(), self.replace, self.review)

    def sync(self) -> None:
        """Show the versions and their concerns."""
        self._fill_sheets()
        project = self._session.project
        self.concerns = self._all_concerns()
        self._rows.show(tuple(self._row(version.letter) for version in project.versions))
        self._summary.setText(summary(self.concerns))
        self.total.setText(self._total())
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
        if self.isVisible() and any(self._untried(version.letter) for version in project.versions):
            self._soon.start()

    def _sync_buttons(self) -> None:
        letter = self._chosen()
        self.remove.setEnabled(len(self._session.project.versions) > 1)
        limit = self._session.sheet(letter).duration.most_s
        self.fit.setEnabled(self._seconds(letter) > limit and not self._fitting.isRunning())

    def _all_concerns(self) -> tuple[Concern, ...]:
        session, needed = self._session, 0.0
        every: list[Concern] = []
        if not session.found.whole:
            every.append(Concern(ConcernKind.GOES_ON, "The film is still being looked at: versions "
                                 "can be made when all of it was.", True))
        for letter in self.wanted_letters():
            recipe = self._recipe(letter)
            flags = {shot: session.flags(letter, shot)
                     for shot in self._shots(letter)}
            base = base_name(session.project.version(letter).sheet)
            if base in session.missing:
                every.append(Concern(
                    ConcernKind.SHEET_GONE, f"The spec sheet “{base}” is gone. Give version "
                    f"{letter} to another, or put it back into {own_folder()}.", True, letter))
                continue
            every += concerns_of(session.analysis.master, letter, recipe, flags, self.folder,
                                 date.today(), self.replace)
            needed += self.expected_mb(letter)
        every += places(session.analysis.master, self.folder, needed)
        return tuple(sorted(every, key=lambda concern: not concern.stops))

    def _shots(self, letter: str) -> list[int]:
        """The shots that the version shows any of."""
        return [i for i, shot in enumerate(self._session.analysis.shots)
                if any(span.start < shot.end and shot.start < span.end_exclusive
                       for span in self._session.project.ranges_of(letter))]

    def _recipe(self, letter: str) -> Recipe:
        return recipe_of(self._session.project, letter, self._session.sheet(letter), self.review)

    def _seconds(self, letter: str) -> float:
        frames = sum(len(span) for span in self._session.project.ranges_of(letter))
        return frames / self._session.rate

    def expected_mb(self, letter: str) -> float:
        """The size of a version, as well as it is known."""
        found = self._expected.get(self._key(letter))
        if isinstance(found, Estimate):
            return found.size_mb
        return estimated_mb(self._session.sheet(letter), self._seconds(letter),
                            bool(self._session.analysis.master.sound),
                            self._session.analysis.master.rate)

    def _key(self, letter: str) -> object:
        return msgspec.structs.replace(self._recipe(letter), label="").digest

    def _row(self, letter: str) -> Row:
        session = self._session
        version, sheet = session.project.version(letter), session.sheet(letter)
        mine = [concern for concern in self.concerns if concern.letter == letter]
        stops = any(concern.stops for concern in mine)
        found = self._expected.get(self._key(letter))
        time = f", {short_time(found.seconds)}" if isinstance(found, Estimate) else ""
        how = "from a trial on its own pictures" if time else "by the spec sheet's bitrates"
        notes = "in the way" if stops else f"{len(mine)} to look at" if mine else "ready"
        return (
            Cell("", tip="Make this version", tick=letter not in self._off),
            Cell(f"{letter}   {sheet.shape}", tip=f"{sheet.canvas[0]} × {sheet.canvas[1]} pixels"),
            Cell(version.name, tip="What you call it: double-click to write", editable=True),
            Cell(sheet.title, tip=f"{sheet.video.family.title} and {sheet.sound.family.title} in "
                 f"{sheet.file.container}"),
            Cell(f"{short_time(self._seconds(letter))}{self._of_ranges(letter)}"),
            Cell(f"{self.expected_mb(letter):.0f} MB{time}", tip=f"Expected {how}"),
            Cell(notes, theme.BAD if stops else theme.QUIET if mine else theme.GOOD))

    def _total(self) -> str:
        """The size and time of all that is ticked."""
        letters = self.wanted_letters()
        found = [self._expected.get(self._key(letter)) for letter in letters]
        times = [estimate.seconds for estimate in found if isinstance(estimate, Estimate)]
        time = f", {short_time(sum(times))}" if times and len(times) == len(letters) else ""
        size = sum(map(self.expected_mb, letters))
        return f"{len(letters)} ticked: {size:.0f} MB{time}"

    def _of_ranges(self, letter: str) -> str:
        count = len(self._session.project.version(letter).ranges)
        return f" in {count}" if count > 1 else " own" if count else ""

    def _chosen(self) -> str:
        """The letter of the chosen row, else of the version chosen elsewhere."""
        rows = chosen_rows(self.table)
        versions = self._session.project.versions
        if rows and rows[0] < len(versions):
            return versions[rows[0]].letter
        return self._session.letter

    def _ticked(self, row: int, on: bool) -> None:
        letter = self._session.project.versions[row].letter
        (self._off.discard if on else self._off.add)(letter)
        self.sync()

    def _typed(self, row: int, column: int, text: str) -> None:
        letter = self._session.project.versions[row].letter
        self._edit(lambda project: changed_version(project, letter, name=text.strip()),
                   f"Version {letter} named.")

    def _add(self, index: int) -> None:
        self.add.setCurrentIndex(0)
        if index > 0:
            sheet = self._listed(index)
            self._edit(lambda project: with_version(project, sheet.name), f"{sheet.title} added.")

    def _listed(self, index: int) -> SpecSheet:
        """The sheet of a row of the two lists; one that takes any canvas gets the chosen one's."""
        sheet = list(self._session.sheets.values())[index - 1]
        return sheet.sized(self._session.sheet(self._chosen()).canvas) if sheet.as_made else sheet

    def _give(self, index: int) -> None:
        self.give.setCurrentIndex(0)
        if index > 0:
            letter, then = self._chosen(), self._listed(index)
            now = self._session.sheet(letter)
            dialog = Differences(now, then, self, f"Give version {letter} to {then.title}")
            dialog.accepted.connect(lambda: self._edit(
                lambda project: changed_version(project, letter, sheet=then.name),
                f"Version {letter} is made for {then.title} now."))
            dialog.open()

    def _remove(self) -> None:
        letter = self._chosen()
        self._edit(lambda project: without_version(project, letter), f"Version {letter} removed.")

    def _take_range(self) -> None:
        letter, span = self._chosen(), self._session.project.span
        self._edit(lambda project: changed_version(project, letter, ranges=(span,)),
                   f"Version {letter} has a range of its own.")

    def _join_range(self) -> None:
        letter, span = self._chosen(), self._session.project.span
        self._edit(lambda project: with_range(project, letter, span),
                   f"One more range for version {letter}.")

    def _no_range(self) -> None:
        letter = self._chosen()
        self._edit(lambda project: changed_version(project, letter, ranges=()),
                   f"Version {letter} shows what the film line shows.")

    def _fit(self) -> None:
        letter = self._chosen()
        self.fit.setEnabled(False)
        self._fitting.ask(letter, self._session.analysis,
                          self._session.project.ranges_of(letter),
                          self._session.sheet(letter).duration.most_s)

    def _fitted(self, letter: str, ranges: tuple[FrameRange, ...]) -> None:
        self._edit(lambda project: changed_version(project, letter, ranges=ranges),
                   f"Version {letter} ends in a pause.")

    def _edit(self, change: Callable[[Project], Project], words: str) -> None:
        try:
            project = change(self._session.project)
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return
        self._session.edit(project, words)

    def _jump(self, item: QListWidgetItem) -> None:
        one = item.data(Qt.ItemDataRole.UserRole)
        if one.shot is not None:
            self.jumped.emit(one.letter, one.shot)
        elif one.letter:
            letters = [each.letter for each in self._session.project.versions]
            self.table.selectRow(letters.index(one.letter))

    def _try(self) -> None:
        session = self._session
        if not session.film.is_file():
            return
        letters = [letter for letter in self.wanted_letters() if self._untried(letter) and not any(
            each.stops and each.letter in ("", letter) for each in self.concerns)]
        first = [letter for letter in letters if self._key(letter) not in self._expected]
        rest = [letter for letter in letters if letter not in first]  # their answers get better
        self._trying.ask([self._trial(name, False) for name in first]
                         + [self._trial(name, True) for name in rest])

    def _trial(self, letter: str, thorough: bool) -> Trial:
        return Trial(self._key(letter), TrialOrder(
            text_of(self._session.film), self._recipe(letter), thorough))

    def _untried(self, letter: str) -> bool:
        found = self._expected.get(self._key(letter))
        return found is None or (isinstance(found, Estimate) and found.rough)

    def _tried(self, key: object, answer: Estimate | str) -> None:
        self._expected[key] = answer
        self.sync()

    def pause_trials(self) -> None:
        """No trials while the encoders are at work."""
        self._trying.ask([])

    def close_down(self) -> None:
        """Stop what runs."""
        self._soon.stop()
        self._trying.close()
        self._fitting.wait()
