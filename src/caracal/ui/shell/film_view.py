"""An open film: the film line on top, the slim column of views, and the views themselves."""

from __future__ import annotations

from pathlib import Path
from typing import Any, cast

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import tr
from caracal.ui.aim.registration import AIM
from caracal.ui.aim.view import Aim
from caracal.ui.batch.registration import BATCH
from caracal.ui.batch.view import Batch
from caracal.ui.board.registration import BOARD
from caracal.ui.board.view import Board
from caracal.ui.services.batch_controller import BatchController
from caracal.ui.session.project_file import ProjectFiles
from caracal.ui.session.session import Session
from caracal.ui.session.view import Place, View
from caracal.ui.sheets.window import SheetWindow
from caracal.ui.shell.analysis_bar import AnalysisBar
from caracal.ui.shell.idle_gc import IdleGc
from caracal.ui.shell.views import CLOSE_UP, VIEWS, view_called
from caracal.ui.sound.registration import SOUND
from caracal.ui.sound.view import SoundView
from caracal.ui.widgets import theme
from caracal.ui.widgets.film_line import FilmLine
from caracal.ui.widgets.fitting import Fitting
from caracal.ui.widgets.focus_policy import apply_focus_policy
from caracal.ui.widgets.named_pages import NamedPages
from caracal.ui.widgets.transport import Transport
from caracal.ui.words.registration import WORDS
from caracal.ui.words.view import Words

VIEWS_WIDE = 92  # pixels of the column of views, as drawn


class FilmView(QWidget):
    """Everything that belongs to one open film; each view is made when it is first looked at."""

    shown = Signal(str)  # the name of the view
    made = Signal(str)  # the name of a view that was made just now

    def __init__(self, session: Session, folder: Path, working: BatchController) -> None:
        super().__init__()
        self.session = session
        self.files = ProjectFiles(session, self)
        self.line, self.growing = FilmLine(session), AnalysisBar()
        self.transport = Transport(session, theme.scaled(VIEWS_WIDE))
        self._place = Place(session, folder, working)
        self.views: dict[str, QWidget] = {}  # those that were made
        self.stack = NamedPages(view.name for view in VIEWS)
        self.buttons: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        column = QVBoxLayout()
        column.setContentsMargins(0, 8, 0, 8)
        column.setSpacing(2)
        for view in VIEWS:
            button = QPushButton(f"{view.key}  {tr(view.name)}")
            button.setObjectName("view")
            button.setCheckable(True)
            button.setToolTip(tr("{name} (key {key})", name=tr(view.name), key=view.key))
            button.clicked.connect(lambda _=False, name=view.name: self.show_view(name))
            group.addButton(button)
            column.addWidget(button)
            self.buttons[view.name] = button
        column.addStretch(1)
        side = QWidget()
        side.setObjectName("panel")
        side.setLayout(column)
        side.setFixedWidth(theme.scaled(VIEWS_WIDE))
        lower = QHBoxLayout()
        lower.setSpacing(0)
        lower.addWidget(side)
        lower.addWidget(self.stack, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        top = QHBoxLayout()
        top.setSpacing(0)
        top.addWidget(self.transport)
        top.addWidget(self.line, 1)
        whole.addLayout(top)
        whole.addWidget(self.growing)
        whole.addLayout(lower, 1)
        apply_focus_policy(self)
        self._collector = IdleGc(self)
        for signal in (session.cursor.frame_changed, session.solutions_changed,
                       session.preview.arrived):
            signal.connect(self._collector.happened)
        for view in VIEWS:
            if view.at_once and working.running:
                self.widget(view)  # it tells how the work goes
        self._collector.leave_out()

    def widget(self, view: View) -> Any:
        """The widget of ``view``, made when it is first shown."""
        if view.name not in self.views:
            made = self.views[view.name] = view.make(self._place)
            fitting = Fitting()
            self.stack.put(view.name, fitting)  # empty: a view that moves is styled a second time
            fitting.hold(made)
            apply_focus_policy(made)
            view.connect(made, self)
            self.made.emit(view.name)
        return self.views[view.name]

    @property
    def board(self) -> Board:
        """The view of all shots."""
        return cast(Board, self.widget(BOARD))

    @property
    def aim(self) -> Aim:
        """The view of one shot."""
        return cast(Aim, self.widget(AIM))

    @property
    def sound(self) -> SoundView:
        """Returns the Sound view."""
        return cast(SoundView, self.widget(SOUND))

    @property
    def words(self) -> Words:
        """The view of captions, titles and cards."""
        return cast(Words, self.widget(WORDS))

    @property
    def batch(self) -> Batch:
        """The view of what is made."""
        return cast(Batch, self.widget(BATCH))

    def activity(self) -> None:
        """Somebody works here: what can wait does."""
        self._collector.happened()

    @property
    def folder(self) -> Path:
        """Returns the folder into which files are made."""
        return self.batch.folder if BATCH.name in self.views else self._place.folder

    @property
    def view(self) -> str:
        """The name of the view that shows."""
        return self.stack.shown

    @property
    def chosen_cells(self) -> tuple[tuple[str, int], ...]:
        """The cells (letter, shot) that are chosen on the Board, while it shows."""
        return self.board.grid.cells if self.view == BOARD.name else ()

    def showEvent(self, event: QShowEvent) -> None:
        """The film has the keyboard first, not the first button there is."""
        super().showEvent(event)
        self.setFocus()

    def show_view(self, name: str) -> None:
        """Show the view called ``name``."""
        self.widget(view_called(name))
        self.stack.show_page(name)
        self.buttons[name].setChecked(True)
        self.shown.emit(name)

    def open_sheets(self, name: str | None = None) -> SheetWindow:
        """The spec sheet window, on the chosen version's sheet if none is named."""
        window = SheetWindow(name or self.session.project.version(self.session.letter).sheet, self)
        window.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        window.saved.connect(self.session.renew_sheets)
        window.show()
        return window

    def show_close_up(self, letter: str | None = None, shot: int | None = None) -> None:
        """Show a shot of a version alone; the chosen one if none is named."""
        if letter is not None and shot is not None:
            self.session.choose_version(letter)
            self.session.go(self.session.analysis.shots[shot].poster_frame)
        self.show_view(CLOSE_UP.name)

    def escape(self) -> None:
        """End what the views have under way."""
        for name, widget in self.views.items():
            view_called(name).escape(widget)

    def may_leave(self) -> bool:
        """Ask what becomes of changed sheets that were not saved; whether to go on."""
        return all(sheets.may_leave() for sheets in self.findChildren(SheetWindow)
                   if sheets.isVisible())

    def close_down(self) -> None:
        """Stop everything that runs, and close what belongs to this film."""
        for sheets in self.findChildren(SheetWindow):
            sheets.leave()
        for dialog in self.findChildren(QDialog):
            dialog.close()
        self.files.close()
        for view in VIEWS:
            if view.name in self.views:
                view.close(self.views[view.name])
        self.session.close()
        self._collector.close()
