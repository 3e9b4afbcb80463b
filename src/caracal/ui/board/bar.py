"""Above the Board: how rows are sorted and filtered, and what to do with the selected cells."""

from __future__ import annotations

from collections.abc import Callable, Generator

from PySide6.QtCore import QSignalBlocker, Qt, QTimer, Signal
from PySide6.QtGui import QAction
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QSlider,
    QWidget,
)

from caracal.core.analysis.film_pass.setups import similar_shots
from caracal.core.base.translation import counted, tr
from caracal.core.framing.motion import Manner
from caracal.core.layout.kinds import KINDS
from caracal.core.project.board_order import Filter, Order
from caracal.core.project.bulk import changed_in
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
from caracal.ui.board.tile_layout import SIZES
from caracal.ui.services.slices import Slices
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme

COUNT_MS = 300  # after the last change, before issues are counted
ZOOMS = (1.0, 1.1, 1.25, 1.5, 2.0)


class BoardBar(QWidget):
    """Sorting at the left; at the right what the selection offers, only while there is one.

    Its attributes are the controls of the bar.
    """

    arranged = Signal()
    sized = Signal(int)  # the height of pictures that is wanted
    wanted = Signal(object)  # cells to select

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._cells: tuple[Cell, ...] = ()
        self._counts = Slices[int](self)
        self._counting = QTimer(self)
        self._counting.setSingleShot(True)
        self._counting.setInterval(COUNT_MS)
        self._counting.timeout.connect(self._count_needs)
        self._make_order()
        self._make_choices()
        self._make_actions()
        self._lay_out()
        session.solutions_changed.connect(self.sync)
        self.select(())

    def _make_order(self) -> None:
        """The controls of what is shown, in which order and size."""
        self.order, self.only = QComboBox(), QComboBox()
        self.order.addItems([tr(order.value).capitalize() for order in Order])
        self.only.addItems([tr(kind.value).capitalize() for kind in Filter])
        self.order.setToolTip(tr("How the shots are sorted"))
        self.only.setToolTip(tr("Which shots are shown"))
        self.needs = self._button(
            tr("Needs a look"), tr("Show only the shots with issues; again: all shots. F goes to "
                                   "the next one"), self._toggle_needs)
        self.needs.setCheckable(True)
        self.tile_size = QSlider(Qt.Orientation.Horizontal)
        self.tile_size.setRange(0, len(SIZES) - 1)
        self.tile_size.setPageStep(1)
        self.tile_size.setFixedWidth(theme.scaled(84))
        self.tile_size.setAccessibleName(tr("Size of the tiles"))
        self.tile_size.setFixedHeight(theme.scaled(22))
        self.tile_size.setToolTip(tr("Size of the tiles (+ and -, or Ctrl and the wheel)"))
        self.tile_size.valueChanged.connect(lambda at: self.sized.emit(SIZES[at]))
        for box in (self.order, self.only):
            box.currentIndexChanged.connect(lambda _: self._arrange())

    def _make_choices(self) -> None:
        """The boxes that set something for all selected pictures."""
        self._count = QLabel()
        self.manner, self.zoom = QComboBox(), QComboBox()
        self.manner.addItems([tr("Manner…"), *(tr(manner.value).capitalize() for manner in Manner
                                           if manner is not Manner.BY_HAND)])
        self.manner.setToolTip(tr("Set the manner of all selected pictures"))
        self.manner.activated.connect(self._set_manner)
        self.zoom.addItems([tr("Zoom…"), tr("Auto zoom"), *(f"{value:.2f} ×" for value in ZOOMS)])
        self.zoom.setToolTip(tr("Set the zoom of all selected pictures; auto zoom comes closer "
                                "where that shows the lead better"))
        self.zoom.activated.connect(self._set_zoom)
        self.layouts = QComboBox()
        self.layouts.addItems([tr("Layout…"), *(tr(kind.name).capitalize() for kind in KINDS)])
        self.layouts.setFixedWidth(theme.scaled(96))
        self.layouts.view().setMinimumWidth(140)
        self.layouts.setToolTip(tr("Set the layout of all selected pictures"))
        self.layouts.activated.connect(self._set_layout)

    def _make_actions(self) -> None:
        """The button that selects more, and the menu of what is rarely done."""
        self.similar = self._button(
            tr("Select similar"), tr("Select the same version in all shots of the same set-up, "
                                     "too"), self._similar)
        self.more = QPushButton(tr("More"))
        self.more.setObjectName("small")
        self.more.setToolTip(tr("Lead and framing of all selected pictures"))
        menu = QMenu(self.more)
        menu.setToolTipsVisible(True)
        self.lead, self.copy, self.reset = (self._action(menu, *each) for each in (
            (tr("Same lead in all"),
             tr("Let the person who leads the first selected shot lead in all selected shots where "
                "the person is seen"), self._lead),
            (tr("Apply first shot's framing"),
             tr("Give the manner, zoom, finish and layout of the first selected picture to all the "
                "others"), self._copy),
            (tr("Reset to automatic"),
             tr("Discard everything decided for the selected pictures"), self._reset)))
        self.more.setMenu(menu)

    @staticmethod
    def _action(menu: QMenu, name: str, tip: str, run: Callable[[], None]) -> QAction:
        action = menu.addAction(name, run)
        action.setToolTip(tip)
        return action

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
        row.addWidget(self.needs)
        row.addWidget(self.tile_size)
        self.hint = QLabel(tr("Click a picture to select it; Ctrl or Shift for more"))
        self.hint.setObjectName("quiet")
        row.addSpacing(8)
        row.addWidget(self.hint)
        row.addStretch(1)
        for box, wide in ((self.order, 92), (self.only, 96), (self.manner, 92), (self.zoom, 82)):
            box.setMinimumWidth(theme.scaled(wide))  # lists open wider than their boxes
        self._actions = (self._count, self.similar, self.manner, self.zoom, self.layouts, self.more)
        for action in self._actions:
            row.addWidget(action)

    def _arrange(self) -> None:
        self.needs.setChecked(self.how[1] is Filter.FLAGGED)
        self.arranged.emit()

    def show_size(self, size: int) -> None:
        """Let the slider show the height of pictures that is wanted."""
        with QSignalBlocker(self.tile_size):
            self.tile_size.setValue(SIZES.index(size))

    def _toggle_needs(self) -> None:
        on = self.needs.isChecked()
        self.only.setCurrentIndex(list(Filter).index(Filter.FLAGGED if on else Filter.ALL))

    def _count_needs(self) -> None:
        """Show how many shots have an issue, of those that are solved."""
        if self.isVisible():
            self._counts.run(self._shots_to_look_at, lambda count: self.needs.setText(
                tr("Needs a look ({count})", count=count)))
        else:
            self._counting.start()  # not before it is seen

    def _shots_to_look_at(self) -> Generator[None, None, int]:
        count = 0
        for shot in self._session.shots_with_issues():
            count += shot is not None
            yield
        return count

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
        if not self._counting.isActive():
            self._counting.start()
        self.needs.setChecked(self.how[1] is Filter.FLAGGED)
        for action in self._actions:
            action.setVisible(bool(self._cells))
        self.hint.setVisible(not self._cells)
        self._count.setText(counted(len(self._cells), "{count} selected", "{count} selected"))
        many = len(self._cells) > 1
        self.copy.setEnabled(many)
        self.lead.setEnabled(many and self._leading() is not None)

    def _set_manner(self, index: int) -> None:
        self.manner.setCurrentIndex(0)
        if index < 1:
            return
        manner = [manner for manner in Manner if manner is not Manner.BY_HAND][index - 1]
        project = changed_in(self._session.project, self._cells, lambda project, letter, shot: (
            with_manner(project, letter, shot, manner)))
        self._session.edit(project, tr("{where}: {manner}", manner=tr(manner.value),
                                       where=self._where()))

    def _set_zoom(self, index: int) -> None:
        self.zoom.setCurrentIndex(0)
        if index < 1:
            return
        zoom = (None, *ZOOMS)[index - 1]
        project = changed_in(self._session.project, self._cells, lambda project, letter, shot: (
            with_zoom(project, letter, shot, zoom)))
        words = tr("automatic") if zoom is None else f"{zoom:.2f}"
        self._session.edit(project,
                           tr("{where}: zoom {words}", words=words, where=self._where()))

    def _set_layout(self, index: int) -> None:
        self.layouts.setCurrentIndex(0)
        if index < 1:
            return
        kind, sheet = KINDS[index - 1], self._session.sheet
        project = changed_in(self._session.project, self._cells, lambda project, letter, shot: (
            with_layout(project, letter, shot, kind.make(sheet(letter).frame))))
        self._session.edit(project, tr("{where}: layout {name}", name=tr(kind.name),
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
        people = self._session.people
        subjects = {shot: subject for _, shot in self._cells
                    if (subject := people.subject_of(shot, person)) is not None}
        count = len(subjects)
        project = changed_in(self._session.project, (("", shot) for shot in subjects), (
            lambda project, _, shot: with_lead(project, shot, subjects[shot])))
        self._session.edit(project, tr("The same person leads in {shots}.",
                                       shots=counted(count, "{count} shot", "{count} shots")))

    def _copy(self) -> None:
        project = copied(self._session.project, self._cells[0], self._cells[1:])
        self._session.edit(project,
                           tr("Framing applied to {count} pictures", count=len(self._cells) - 1))

    def _similar(self) -> None:
        analysis = self._session.analysis
        more = [(letter, other) for letter, shot in self._cells
                for other in similar_shots(analysis, shot)]
        cells = tuple(dict.fromkeys((*self._cells, *more)))
        if len(cells) == len(self._cells):
            self._session.said.emit(tr("There are no similar shots."))
        self.wanted.emit(cells)

    def _reset(self) -> None:
        project = changed_in(self._session.project, self._cells, automatic_again)
        self._session.edit(project, tr("{where}: automatic", where=self._where()))

    def _where(self) -> str:
        return counted(len(self._cells), "{count} picture", "{count} pictures")
