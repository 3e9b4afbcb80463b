"""How a shot is laid out in one version, chosen from pictures of this very shot."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QObject, QSignalBlocker
from PySide6.QtGui import QColor, QKeyEvent
from PySide6.QtWidgets import (
    QColorDialog,
    QDoubleSpinBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.layout.amounts import AMOUNTS, Amount, with_overlay
from caracal.core.layout.files import SUFFIX, read_layout, write_layout
from caracal.core.layout.kinds import KINDS, Kind, kept_words, name_of
from caracal.core.layout.model import (
    BlendBackdrop,
    Canvas,
    Clip,
    Layout,
    PictureFile,
    PlainBackdrop,
    with_backdrop,
)
from caracal.core.layout.pane_contents import content_name
from caracal.core.project.edits import with_layout
from caracal.core.render.scene import Scene
from caracal.ui.aim.pane_times import PaneTimes
from caracal.ui.aim.panes_row import PanesRow
from caracal.ui.aim.picture_cards import PictureCards
from caracal.ui.aim.shot_panel import ShotPanelButton
from caracal.ui.session.layout_clipboard import copy_layout, paste_layout
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import number_box, small_button, wide_panel

ACROSS = 5  # pictures, or amounts, in a row
FILES = tr("Layouts (*{suffix})", suffix=SUFFIX)
AMOUNT_ROWS, AMOUNT_HIGH = 3, 32
PANEL_WIDE = 760  # pixels: five amounts in a row


class LayoutCards(PictureCards):
    """A picture of the shot in each kind of layout; a click takes it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Click how this shot is laid out in this version"), ACROSS)

    def names(self) -> list[str]:
        return [tr(kind.name).capitalize() for kind in KINDS]

    def taken(self) -> int | None:
        return next((number for number, kind in enumerate(KINDS) if kind.name == self._now().kind),
                    None)

    def _now(self) -> Layout:
        return self._session.project.choice(self._session.letter, self._session.shot).layout

    def scene(self, number: int, canvas: Canvas) -> Scene | None:
        session, now, kind = self._session, self._now(), KINDS[number]
        layout = now if kind.name == now.kind else kind.make(session.sheet(session.letter).frame)
        return session.scene_in(session.letter, session.frame, layout, canvas)


class LayoutButton(ShotPanelButton):
    """Opens the pictures to choose from, with the amounts of the one that is taken."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Layout"),
                         tr("The window alone, the whole picture on a backdrop, people in panes of "
                            "their own… (Y: the next one)"))
        self.cards = LayoutCards(session)
        self.cards.picked.connect(lambda number: self.take(KINDS[number]))
        self.words = QLabel()
        self.words.setObjectName("quiet")
        self.amounts: dict[str, QDoubleSpinBox] = {}
        self._labels: dict[str, QLabel] = {}
        self._placed: tuple[str, ...] = ()
        for amount in AMOUNTS:
            box = number_box(amount.low, amount.high, amount.step, 1 if amount.step < 1 else 0,
                             " %", amount.tip)
            box.valueChanged.connect(lambda value, amount=amount: self._adjust(amount, value))
            self.amounts[amount.name], self._labels[amount.name] = box, QLabel(amount.name)
        self.colours = [
            self._colour_button(tr("Colour…"), tr("The colour of the backdrop"), 0),
            self._colour_button(tr("Other colour…"), tr("A second colour, into which the first "
                                                        "blends from top to bottom"), 1)]
        self.panes = PanesRow(session, self._set)
        self.times = PaneTimes(lambda layout, words, gesture: self._set(
            layout, words, (gesture, session.letter, session.shot)))
        self.open_with(self._panel())

    def _colour_button(self, name: str, tip: str, number: int) -> QPushButton:
        return small_button(name, tip, lambda: self._ask_colour(number))

    def _panel(self) -> QWidget:
        panel, column = wide_panel(PANEL_WIDE)
        column.addWidget(self.cards)
        column.addWidget(self.words)
        adjusted = QWidget()
        adjusted.setFixedHeight(AMOUNT_ROWS * AMOUNT_HIGH)  # a menu keeps the size it opened with
        grid = QGridLayout(adjusted)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(8)
        self._grid = grid
        self._place(tuple(self.amounts))
        grid.setColumnStretch(2 * ACROSS, 1)
        grid.setRowStretch(AMOUNT_ROWS, 1)
        column.addWidget(adjusted)
        column.addWidget(self.panes)
        column.addWidget(self.times)
        row = QHBoxLayout()
        row.setSpacing(8)
        for button in self.colours:
            row.addWidget(button)
        row.addStretch(1)
        for name, tip, run in (
                (tr("Copy"),
                 tr("Copy this layout, for other shots, versions and films (Ctrl+Shift+C)"),
                 lambda: copy_layout(self._session, (self._session.letter, self._session.shot))),
                (tr("Paste"), tr("Lay this shot out as the copied one (Ctrl+Shift+V)"),
                 lambda: paste_layout(self._session, (
                     (self._session.letter, self._session.shot),))),
                (tr("Picture or clip…"),
                 tr("A picture or another film as the backdrop, or over the picture"),
                 lambda: self._session.assets.ask(self, self._add_asset)),
                (tr("Open…"), tr("Lay this shot out as a file says"), self._ask_open),
                (tr("Save as…"), tr("Keep this layout as a file, for other shots and films"),
                 self._ask_save)):
            row.addWidget(small_button(name, tip, run))
        column.addLayout(row)
        return panel

    def _place(self, names: tuple[str, ...]) -> None:
        """Let the amounts of these ``names`` stand one after the other."""
        if names == self._placed:
            return
        self._placed = names
        for place, name in enumerate(names):
            line, pair = divmod(place, ACROSS)
            for widget, column in ((self._labels[name], 2 * pair), (self.amounts[name],
                                                                    2 * pair + 1)):
                self._grid.removeWidget(widget)
                self._grid.addWidget(widget, line, column)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """While the pictures are open, their numbers choose one."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            digit = event.text()
            if digit.isdigit() and 0 < int(digit) <= len(KINDS):
                self.take(KINDS[int(digit) - 1])
                return True
        return super().eventFilter(watched, event)

    def _now(self) -> Layout:
        return self._session.project.choice(self._session.letter, self._session.shot).layout

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        now = self._now()
        backdrop = now.backdrop
        self.setText(tr("Layout") if now.kind == KINDS[0].name
                     else tr("Layout: {kind}", kind=name_of(now)))
        session = self._session
        solution = session.solution(session.letter, session.shot)
        self.words.setText(kept_words(
            now, [path.windows for path in solution.panes], session.analysis.active,
            session.sheet(session.letter).canvas))
        here = {amount.name: value for amount in AMOUNTS if (value := amount.get(now)) is not None}
        self._place(tuple(here))
        for name, box in self.amounts.items():
            box.setVisible(name in here)
            self._labels[name].setVisible(name in here)
            if name in here:
                with QSignalBlocker(box):
                    box.setValue(here[name] * 100)
        self.panes.show_layout(now)
        self.times.show_layout(now)
        for button in self.colours:
            button.setVisible(isinstance(backdrop, PlainBackdrop | BlendBackdrop))
        self.cards.setFixedSize(self.cards.sizeHint())
        self.cards.update()

    def take(self, kind: Kind) -> None:
        """Lay this shot out so in this version."""
        if kind.name != self._now().kind:
            self._set(kind.make(self._session.sheet(self._session.letter).frame), kind.words)

    def next_kind(self) -> None:
        """Take the kind after the one that is taken."""
        names = [kind.name for kind in KINDS]
        now = self._now().kind
        self.take(KINDS[(names.index(now) + 1) % len(KINDS) if now in names else 0])

    def _adjust(self, amount: Amount, percent: float) -> None:
        session = self._session
        self._set(amount.set_to(self._now(), percent / 100), f"{amount.name} {percent:g} %.",
                  ("amount", amount.name, session.letter, session.shot))

    def _ask_colour(self, number: int) -> None:
        colour = QColorDialog.getColor(QColor(self._colours()[number]), self,
                                       tr("Colour of the backdrop"))
        if colour.isValid():
            self.set_colour(colour.name(), number)

    def _colours(self) -> tuple[str, str]:
        backdrop = self._now().backdrop
        if isinstance(backdrop, BlendBackdrop):
            return backdrop.colour, backdrop.other
        plain = backdrop if isinstance(backdrop, PlainBackdrop) else PlainBackdrop()
        return plain.colour, plain.colour

    def set_colour(self, colour: str, number: int = 0) -> None:
        """Give the backdrop a colour, as #rrggbb: its only one, or (1) that into which it blends.
        """
        now = self._now().backdrop
        if number == 0 and not isinstance(now, BlendBackdrop):
            made: PlainBackdrop | BlendBackdrop = PlainBackdrop(colour)
        else:
            first, other = self._colours()
            turned = now.degrees if isinstance(now, BlendBackdrop) else 90.0
            made = (BlendBackdrop(first, colour, turned) if number
                    else BlendBackdrop(colour, other, turned))
        self._set(with_backdrop(self._now(), made), tr("Backdrop {colour}.", colour=colour))

    def add_file(self, path: Path) -> None:
        """Make the file at ``path`` the backdrop; where there is none, lay it over the picture."""
        self._session.assets.take_file(path, self._add_asset)

    def _add_asset(self, content: PictureFile | Clip, ratio: float) -> None:
        session, now, name = self._session, self._now(), content_name(content)
        if now.backdrop is not None:
            self._set(with_backdrop(now, content), tr("Backdrop {name}.", name=name))
            return
        canvas = session.sheet(session.letter).canvas
        self._set(with_overlay(now, content, ratio, canvas),
                  tr("{name} lies over the picture.", name=name))

    def _ask_open(self) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Layout"), "", FILES)[0]
        if chosen:
            self.open_file(Path(chosen))

    def open_file(self, path: Path) -> None:
        """Lay this shot out as the file at ``path`` says; what is wrong with it is told."""
        try:
            self._set(read_layout(path), tr("laid out as {stem}.", stem=path.stem))
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())

    def _ask_save(self) -> None:
        chosen = QFileDialog.getSaveFileName(self, tr("Layout"), f"{self._now().kind}{SUFFIX}",
                                             FILES)[0]
        if chosen:
            self.save_file(Path(chosen))

    def save_file(self, path: Path) -> None:
        """Keep this layout, as it lies in this shot, at ``path``."""
        try:
            write_layout(path.with_suffix(SUFFIX), self._now())
            self._session.said.emit(tr("Layout kept as {name}.",
                                       name=path.with_suffix(SUFFIX).name))
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())

    def _set(self, layout: Layout, words: str, gesture: object | None = None) -> None:
        session = self._session
        session.edit(with_layout(session.project, session.letter, session.shot, layout),
                     tr("Shot {shot} in {letter}: {words}", shot=session.shot + 1,
                        letter=session.letter, words=words), gesture)


