"""Above the Board: how rows are sorted and filtered, and what to do with the selected cells."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QPushButton, QWidget

from caracal.core.analysis.film_pass.setups import similar_shots
from caracal.core.base.translation import counted, tr
from caracal.core.framing.motion import Manner
from caracal.core.layout.kinds import KINDS
from caracal.core.project.board_order import Filter, Order
from caracal.core.project.edits import (
    automatic_again,
    copied,
    with_layout,
    with_lead,
    with_manner,
)
from caracal.core.project.keyframe_edits import (
    with_zoom,
)
from caracal.ui.board.cell_cursor import Cell
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

ZOOMS = (1.0, 1.1, 1.25, 1.5, 2.0)


class BoardBar(QWidget):
    """Sorting at the left; at the right what the selection offers, only while there is one."""

    arranged = Signal()
    wanted = Signal(object)  # cells to select

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._cells: tuple[Cell, ...] = ()
        self.order, self.only = QComboBox(), QComboBox()
        self.order.addItems([tr(order.value).capitalize() for order in Order])
        self.only.addItems([tr(kind.value).capitalize() for kind in Filter])
        self.order.setToolTip(tr("How the rows are sorted"))
        self.only.setToolTip(tr("Which rows are shown"))
        for box in (self.order, self.only):
            box.currentIndexChanged.connect(lambda _: self.arranged.emit())
        self._count = QLabel()
        self.manner, self.zoom = QComboBox(), QComboBox()
        self.manner.addItems([tr("Manner…"), *(tr(manner.value).capitalize() for manner in Manner
                                           if manner is not Manner.BY_HAND)])
        self.manner.setToolTip(tr("Set the manner of all selected cells"))
        self.manner.activated.connect(self._set_manner)
        self.zoom.addItems([tr("Zoom…"), tr("Auto zoom"), *(f"{value:.2f} ×" for value in ZOOMS)])
        self.zoom.setToolTip(tr("Set the zoom of all selected cells; auto zoom: the window may "
                                "come closer by itself"))
        self.zoom.activated.connect(self._set_zoom)
        self.layouts = QComboBox()
        self.layouts.addItems([tr("Layout…"), *(tr(kind.name).capitalize() for kind in KINDS)])
        self.layouts.setFixedWidth(theme.scaled(88))
        self.layouts.view().setMinimumWidth(140)
        self.layouts.setToolTip(tr("Lay all selected cells out so"))
        self.layouts.activated.connect(self._set_layout)
        self.lead = self._button(tr("Same lead"),
                                 tr("Let the person who leads the first selected shot lead in all "
                                    "selected shots where the person is seen"), self._lead)
        self.similar = self._button(tr("Similar too"), tr("Select the same version in all shots of "
                                                          "the same set-up, too"), self._similar)
        self.copy = self._button(tr("Copy framing"),
                                 tr("Give the manner, zoom, finish and layout of the first "
                                    "selected cell to all the others"), self._copy)
        self.reset = self._button(tr("Back to automatic"),
                                  tr("Forget everything decided for the selected cells"),
                                  self._reset)
        self._lay_out()
        session.solutions_changed.connect(self.sync)
        self.select(())

    @staticmethod
    def _button(name: str, tip: str, run: object) -> QPushButton:
        button = QPushButton(name)
        button.setObjectName("small")
        button.setToolTip(tip)
        button.clicked.connect(lambda _=False: run())  # type: ignore[operator]
        return button

    def _lay_out(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 8, 16, 0)
        row.setSpacing(8)
        row.addWidget(self.order)
        row.addWidget(self.only)
        self.hint = QLabel(tr("Click a cell; Ctrl or Shift for more. Ctrl and wheel: larger."))
        self.hint.setObjectName("quiet")
        row.addSpacing(8)
        row.addWidget(self.hint)
        row.addStretch(1)
        for box, wide in ((self.order, 60), (self.only, 60), (self.manner, 70), (self.zoom, 70)):
            box.setMinimumWidth(theme.scaled(wide))  # lists open wider than their boxes
        self._actions = (self._count, self.similar, self.manner, self.zoom, self.layouts, self.lead,
                         self.copy, self.reset)
        for action in self._actions:
            row.addWidget(action)

    @property
    def how(self) -> tuple[Order, Filter]:
        """The chosen order and filter."""
        return list(Order)[self.order.currentIndex()], list(Filter)[self.only.currentIndex()]

    def select(self, cells: tuple[Cell, ...]) -> None:
        """Offer what can be done with ``cells``, the first chosen one first."""
        self._cells = cells
        self.sync()

    def sync(self) -> None:
        """Show what fits the selection; cells of versions and shots that are gone belong to it no
        more."""
        letters = {version.letter for version in self._session.project.versions}
        shots = len(self._session.analysis.shots)
        self._cells = tuple((letter, shot) for letter, shot in self._cells
                            if letter in letters and shot < shots)
        for action in self._actions:
            action.setVisible(bool(self._cells))
        self.hint.setVisible(not self._cells)
        self._count.setText(counted(len(self._cells), "{count} cell", "{count} cells"))
        many = len(self._cells) > 1
        self.copy.setEnabled(many)
        self.lead.setEnabled(many and self._leading() is not None)

    def _set_manner(self, index: int) -> None:
        self.manner.setCurrentIndex(0)
        if index < 1:
            return
        manner = [manner for manner in Manner if manner is not Manner.BY_HAND][index - 1]
        project = self._session.project
        for letter, shot in self._cells:
            project = with_manner(project, letter, shot, manner)
        self._session.edit(project, tr("{manner} in {where}.", manner=tr(manner.value).capitalize(),
                                       where=self._where()))

    def _set_zoom(self, index: int) -> None:
        self.zoom.setCurrentIndex(0)
        if index < 1:
            return
        project, zoom = self._session.project, (None, *ZOOMS)[index - 1]
        for letter, shot in self._cells:
            project = with_zoom(project, letter, shot, zoom)
        words = tr("free") if zoom is None else f"{zoom:.2f}"
        self._session.edit(project,
                           tr("Zoom {words} in {where}.", words=words, where=self._where()))

    def _set_layout(self, index: int) -> None:
        self.layouts.setCurrentIndex(0)
        if index < 1:
            return
        project, kind = self._session.project, KINDS[index - 1]
        for letter, shot in self._cells:
            layout = kind.make(self._session.sheet(letter).frame)
            project = with_layout(project, letter, shot, layout)
        self._session.edit(project, tr("{name} in {where}.", name=tr(kind.name).capitalize(),
                                       where=self._where()))

    def _leading(self) -> int | None:
        """The person of the film who leads the first selected cell."""
        if not self._cells:
            return None
        letter, shot = self._cells[0]
        lead = self._session.path(letter, shot).lead
        return self._session.people.person_of(shot, lead)

    def _lead(self) -> None:
        person = self._leading()
        if person is None:
            return
        project, count = self._session.project, 0
        for shot in dict.fromkeys(shot for _, shot in self._cells):
            subject = self._session.people.subject_of(shot, person)
            if subject is not None:
                project = with_lead(project, shot, subject)
                count += 1
        self._session.edit(project, tr("The same person leads in {shots}.",
                                       shots=counted(count, "{count} shot", "{count} shots")))

    def _copy(self) -> None:
        project = copied(self._session.project, self._cells[0], self._cells[1:])
        self._session.edit(project,
                           tr("Framing copied to {count} cells.", count=len(self._cells) - 1))

    def _similar(self) -> None:
        analysis = self._session.analysis
        more = [(letter, other) for letter, shot in self._cells
                for other in similar_shots(analysis, shot)]
        cells = tuple(dict.fromkeys((*self._cells, *more)))
        if len(cells) == len(self._cells):
            self._session.said.emit(tr("No other shot has this set-up."))
        self.wanted.emit(cells)

    def _reset(self) -> None:
        project = self._session.project
        for letter, shot in self._cells:
            project = automatic_again(project, letter, shot)
        self._session.edit(project, tr("Automatic again in {where}.", where=self._where()))

    def _where(self) -> str:
        return counted(len(self._cells), "{count} cell", "{count} cells")
