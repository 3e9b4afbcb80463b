"""The buttons above the table of versions: add one, or change the chosen one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from caracal.core.base.translation import tr
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.batch.duration_fit import DurationFitWorker
from caracal.ui.batch.version_edits import VersionEdits
from caracal.ui.batch.version_plan import VersionPlan
from caracal.ui.session.session import Session
from caracal.ui.sheets.differences import Differences
from caracal.ui.widgets import theme
from caracal.ui.widgets.elided import Elided
from caracal.ui.widgets.panels import choice_box


class VersionBar(QWidget):
    """Add a version; give the chosen one another sheet or range, fit it, or remove it."""

    sheet_asked = Signal(str)  # a spec sheet to look at

    def __init__(
        self, session: Session, plan: VersionPlan, chosen: Callable[[], str], parent: QObject
    ) -> None:
        """``chosen`` gives the letter of the version that the buttons change."""
        super().__init__()
        self._session, self._plan, self._chosen = session, plan, chosen
        self.edits = VersionEdits(session, chosen)
        self._fitting = DurationFitWorker(parent)
        self._fitting.fitted.connect(self.edits.end_at)
        self._fitting.failed.connect(session.said)
        self.add = choice_box(
            (), tr("Add a version for a spec sheet, of ours or of your own"), self._add)
        self.give = choice_box(
            (),
            tr("Change the spec sheet of the selected version; the differences are shown first, "
               "the framing stays"), self._give)
        self.range = self._range_button()
        self.fit = QPushButton(tr("Fit to a pause"))
        self.fit.setToolTip(tr("End the selected version in the last pause that fits its limit"))
        self.fit.clicked.connect(self._fit)
        self.sheet = QPushButton(tr("Spec sheet…"))
        self.sheet.setToolTip(tr("Show or edit the spec sheet of the selected version"))
        self.sheet.clicked.connect(
            lambda: self.sheet_asked.emit(self._session.project.version(self._chosen()).sheet))
        self.remove = QPushButton(tr("Remove"))
        self.remove.setToolTip(tr("Remove the selected version and its decisions; undo brings it "
                                  "back"))
        self.remove.clicked.connect(self.edits.remove)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        head = Elided()
        head.setText(tr("Versions"))
        head.setObjectName("head")
        row.addWidget(head, 1)
        for button in (self.add, self.give, self.range, self.fit, self.sheet, self.remove):
            row.addWidget(button)
            button.setObjectName("small")

    def _range_button(self) -> QPushButton:
        button = QPushButton(tr("Range"))
        button.setToolTip(tr("The part of the film that the selected version shows"))
        menu = QMenu(button)
        for words, tip, do in (
            (tr("Use in–out range"), tr("Show only the range from in to out"),
             self.edits.take_range),
            (tr("Add in–out range"), tr("Show the range from in to out, too"),
             self.edits.join_range),
            (tr("Same range as the film"), tr("Remove the version's own range"),
             self.edits.no_range),
        ):
            menu.addAction(words, do).setToolTip(tip)
        button.setMenu(menu)
        return button

    def fill_sheets(self) -> None:
        """Renew the two lists of sheets, when there are others than before."""
        sheets = self._session.sheets.by_name.values()
        for box, head in ((self.add, tr("Add version…")), (self.give, tr("Change sheet…"))):
            words = [head, *(sheet.headline for sheet in sheets)]
            if [box.itemText(i) for i in range(box.count())] != words:
                box.clear()
                box.addItems(words)
                box.setFixedWidth(theme.scaled(118))
                box.view().setMinimumWidth(260)

    def sync(self) -> None:
        """Enable what applies to the chosen version."""
        letter = self._chosen()
        self.remove.setEnabled(len(self._session.project.versions) > 1)
        limit = self._session.sheet(letter).duration.most_s
        self.fit.setEnabled(self._plan.seconds(letter) > limit and not self._fitting.isRunning())

    def _add(self, index: int) -> None:
        self.add.setCurrentIndex(0)
        if index > 0:
            self.edits.add(self._listed(index))

    def _listed(self, index: int) -> SpecSheet:
        """The sheet of a row of the two lists; one that takes any canvas gets the chosen one's."""
        sheet = list(self._session.sheets.by_name.values())[index - 1]
        return sheet.sized(self._session.sheet(self._chosen()).canvas) if sheet.as_made else sheet

    def _give(self, index: int) -> None:
        self.give.setCurrentIndex(0)
        if index > 0:
            letter, then = self._chosen(), self._listed(index)
            now = self._session.sheet(letter)
            dialog = Differences(now, then, self, tr("Change version {letter} to {title}",
                                                     letter=letter, title=then.title))
            dialog.accepted.connect(lambda: self.edits.give(letter, then))
            dialog.open()

    def _fit(self) -> None:
        session, letter = self._session, self._chosen()
        self.fit.setEnabled(False)
        cards_s = self._plan.recipe(letter).card_frames / session.rate
        self._fitting.ask(letter, session.analysis, session.project.ranges_of(letter),
                          session.sheet(letter).duration.most_s - cards_s)

    def close_down(self) -> None:
        """Stop the search for a pause, and wait for it."""
        self._fitting.close()
