"""How a shot is laid out in one version, chosen from pictures of this very shot."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSignalBlocker
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QColorDialog,
    QDoubleSpinBox,
    QFileDialog,
    QLabel,
    QPushButton,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.layout.amounts import AMOUNTS, Amount, with_overlay
from caracal.core.layout.files import SUFFIX, read_layout, write_layout
from caracal.core.layout.kinds import KINDS, Kind, kept_words
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
from caracal.core.project.model import Project
from caracal.core.render.scene import Scene
from caracal.ui.aim.pane_contents import PaneContents
from caracal.ui.aim.pane_times import PaneTimes
from caracal.ui.aim.picture_cards import PictureCards
from caracal.ui.aim.shot_page import ShotPage
from caracal.ui.session.layout_clipboard import copy_layout, paste_layout
from caracal.ui.session.reach import EditKind
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import NUMBER_WIDE, Fold, Form, Row, button_row
from caracal.ui.widgets.panels import number_box, small_button

ACROSS = 5  # pictures, or amounts, in a row
FILES = tr("Layouts (*{suffix})", suffix=SUFFIX)
SAME_SHARE = 0.0005  # of a canvas: nobody sees less


class LayoutCards(PictureCards):
    """A picture of the shot in each kind of layout; a click takes it."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Layouts of this shot"),
                         tr("Click the layout that this shot gets"), ACROSS)

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


class LayoutPage(ShotPage):
    """Pictures of this shot in each layout, with the amounts of the one that is taken."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.cards = LayoutCards(session)
        self.cards.picked.connect(lambda number: self.take(KINDS[number]))
        self.words = QLabel()
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        form = Form()
        self.amounts: dict[str, QDoubleSpinBox] = {}
        self._rows: dict[str, Row] = {}
        for amount in AMOUNTS:
            box = number_box(amount.low, amount.high, amount.step, 1 if amount.step < 1 else 0,
                             " %", amount.tip)
            box.setFixedWidth(theme.scaled(NUMBER_WIDE))
            box.valueChanged.connect(lambda value, amount=amount: self._adjust(amount, value))
            self.amounts[amount.name] = box
            self._rows[amount.name] = form.row(
                amount.name, box, reset=lambda amount=amount: self._reset(amount))
        self.colours = [
            self._colour_button(tr("Colour…"), tr("The colour of the backdrop"), 0),
            self._colour_button(tr("Gradient to…"), tr("A second colour, into which the first "
                                                       "blends from top to bottom"), 1)]
        self.panes = PaneContents(session, self._set)
        self.panes.fill(form, *self.colours)
        more = Form()
        self.times = PaneTimes(lambda layout, words, gesture: self._set(
            layout, words, (gesture, session.letter, session.shot)))
        self.times.fill(more)
        more.wide(button_row(*(small_button(name, tip, run) for name, tip, run in (
            (tr("Add picture or clip…"),
             tr("A picture or another film as the backdrop, or over the picture"),
             lambda: session.assets.ask(self, self._add_asset)),
            (tr("Load…"), tr("Use the layout of a file"), self._ask_open),
            (tr("Save as…"), tr("Save this layout to a file, for other shots and films"),
             self._ask_save)))))
        copy = button_row(
            small_button(tr("Copy"), tr("Copy this layout, for other shots, versions and films "
                                        "(Ctrl+Shift+C)"),
                         lambda: copy_layout(session, (session.letter, session.shot))),
            small_button(tr("Paste"), tr("Use the copied layout in this shot (Ctrl+Shift+V)"),
                         lambda: paste_layout(session, ((session.letter, session.shot),))))
        for widget in (self.cards, self.words, form, copy, Fold(tr("More"), more)):
            self.column.addWidget(widget)
        self.follow()

    def _colour_button(self, name: str, tip: str, number: int) -> QPushButton:
        return small_button(name, tip, lambda: self._ask_colour(number))

    def _now(self) -> Layout:
        return self._session.project.choice(self._session.letter, self._session.shot).layout

    def sync(self) -> None:
        """Show what is decided for the current shot."""
        now, session = self._now(), self._session
        backdrop = now.backdrop
        solution = session.solution(session.letter, session.shot)
        self.words.setText(kept_words(
            now, [path.windows for path in solution.panes], session.analysis.active,
            session.sheet(session.letter).canvas))
        usual = self._usual(now)
        for amount in AMOUNTS:
            value = amount.get(now)
            self._rows[amount.name].set_visible(value is not None)
            if value is not None:
                with QSignalBlocker(self.amounts[amount.name]):
                    self.amounts[amount.name].setValue(value * 100)
                default = None if usual is None else amount.get(usual)
                self._rows[amount.name].set_changed(
                    default is not None and abs(default - value) > SAME_SHARE)
        self.panes.show_layout(now)
        self.times.show_layout(now)
        for button in self.colours:
            button.setVisible(isinstance(backdrop, PlainBackdrop | BlendBackdrop))
        self.cards.setFixedHeight(self.cards.sizeHint().height())
        self.cards.update()

    def _usual(self, now: Layout) -> Layout | None:
        """The layout of the kind of ``now`` as it begins; None for one that somebody made."""
        kind = next((kind for kind in KINDS if kind.name == now.kind), None)
        return None if kind is None else kind.make(self._session.sheet(self._session.letter).frame)

    def _reset(self, amount: Amount) -> None:
        usual = self._usual(self._now())
        default = None if usual is None else amount.get(usual)
        if default is not None:
            self._adjust(amount, default * 100)

    def take(self, kind: Kind) -> None:
        """Use this kind of layout as far as layouts reach; each version gets it in its shape."""
        session = self._session
        if kind.name != self._now().kind:
            session.editing.edit(
                EditKind.LAYOUT, tr("layout {name}", name=tr(kind.name)),
                lambda project, letter, shot: with_layout(
                    project, letter, shot, kind.make(session.sheet(letter).frame)))

    def next_kind(self) -> None:
        """Take the kind after the one that is taken."""
        names = [kind.name for kind in KINDS]
        now = self._now().kind
        self.take(KINDS[(names.index(now) + 1) % len(KINDS) if now in names else 0])

    def _adjust(self, amount: Amount, percent: float) -> None:
        session, kind = self._session, self._now().kind

        def change(project: Project, letter: str, shot: int) -> Project:
            now = project.choice(letter, shot).layout
            return project if now.kind != kind else with_layout(
                project, letter, shot, amount.set_to(now, percent / 100))

        session.editing.edit(EditKind.LAYOUT, f"{amount.name} {percent:g} %", change,
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
        self._set(with_backdrop(self._now(), made), tr("backdrop {colour}", colour=colour))

    def add_file(self, path: Path) -> None:
        """Make the file at ``path`` the backdrop; where there is none, lay it over the picture."""
        self._session.assets.take_file(path, self._add_asset)

    def _add_asset(self, content: PictureFile | Clip, ratio: float) -> None:
        session, now, name = self._session, self._now(), content_name(content)
        if now.backdrop is not None:
            self._set(with_backdrop(now, content), tr("backdrop {name}", name=name))
            return
        canvas = session.sheet(session.letter).canvas
        self._set(with_overlay(now, content, ratio, canvas),
                  tr("{name} over the picture", name=name))

    def _ask_open(self) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Layout"), "", FILES)[0]
        if chosen:
            self.open_file(Path(chosen))

    def open_file(self, path: Path) -> None:
        """Lay this shot out as the file at ``path`` says; what is wrong with it is told."""
        try:
            self._set(read_layout(path), tr("layout {stem}", stem=path.stem), replaces=True)
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
            self._session.said.emit(tr("Layout saved as {name}.",
                                       name=path.with_suffix(SUFFIX).name))
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())

    def _set(
        self, layout: Layout, words: str, gesture: object | None = None, replaces: bool = False
    ) -> None:
        """Use ``layout`` as far as layouts reach, where shots have one of its kind now; or, where
        it ``replaces`` whatever they have, in all of them. In other shapes it keeps its shares."""
        kind = self._now().kind

        def change(project: Project, letter: str, shot: int) -> Project:
            other = project.choice(letter, shot).layout.kind != kind
            return project if other and not replaces else with_layout(
                project, letter, shot, layout)

        self._session.editing.edit(EditKind.LAYOUT, words, change, gesture)
