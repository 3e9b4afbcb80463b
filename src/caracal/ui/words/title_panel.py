"""Titles: their text, style and times; and pictures beside them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QListWidget,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.geometry import Region
from caracal.core.base.time import timecode
from caracal.core.base.translation import mark, tr
from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import Canvas, Clip, PictureFile
from caracal.core.layout.overlay import Overlay, first_region
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import overlay_like, with_overlays
from caracal.core.render.captions.legibility import Legibility, PictureAt, title_legibility
from caracal.core.render.captions.placement import caption_area
from caracal.core.render.scene import Scene
from caracal.core.text.style import Align, TextBox, TextShadow, TextStyle, Title
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets.form import Form, button_row
from caracal.ui.widgets.panels import choice_box, quiet, small_button
from caracal.ui.words.laid import Ground
from caracal.ui.words.legibility_check import LegibilityCheck, contrast_words
from caracal.ui.words.style_fields import StyleFields

LIST_HIGH = 64
ListChange = Callable[[str, tuple[Overlay, ...], int | None], tuple[Overlay, ...]]
ENTRIES = tuple(Entry)
HEADLINE = TextStyle(size=0.13, shadow=TextShadow())
LOWER_THIRD = TextStyle(size=0.06, box=TextBox(), align=Align.LEFT)
KINDS: dict[str, tuple[str, TextStyle, Region]] = {  # places are shares of the clear area
    mark("Headline"): (tr("Headline"), HEADLINE, ((0.0, 1.0), (0.0, 0.26))),
    mark("Lower third"): (tr("Name\nwhat they do"), LOWER_THIRD, ((0.0, 0.75), (0.82, 1.0))),
    mark("Label"): (tr("Label"), msgspec.structs.replace(LOWER_THIRD, capitals=True, size=0.045),
              ((0.0, 0.5), (0.0, 0.08))),
}


class TitlePanel(QWidget):
    """A list of titles and pictures on a ground, in front first, and the chosen one's values."""

    changed = Signal()

    def __init__(
        self, session: Session, ground: Ground, pictures: bool = False, reached: bool = False
    ) -> None:
        """``pictures``: pictures are added here, too, and shown in the list. ``reached``: titles
        are those of versions, and edits reach as far as edits of titles do."""
        super().__init__()
        self._session, self._ground, self._pictures = session, ground, pictures
        self._is_reached = reached
        self.list = QListWidget()
        self.list.setFixedHeight(LIST_HIGH)
        self.list.setToolTip(tr("The front one comes first, with its first frame"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(lambda _: self._show_chosen())
        self.text = QPlainTextEdit()
        self.text.setTabChangesFocus(True)
        self.text.setToolTip(tr("The text fits its box: drag the box or its corner on the canvas. "
                                "A line break here breaks the line"))
        self.text.textChanged.connect(self._write)
        self.fields = StyleFields(self, aligned=True)
        self.fields.changed.connect(self._restyle)
        self.fields.said.connect(session.said)
        names = [tr(entry.value).capitalize() for entry in ENTRIES]
        self.comes = choice_box(names, tr("How it appears"),
                                lambda at: self._change("entry", ENTRIES[at]))
        self.goes = choice_box(names, tr("How it disappears"),
                               lambda at: self._change("exit", ENTRIES[at]))
        self.buttons: dict[str, QPushButton] = {}
        self.contrast = quiet("")
        self.contrast.setToolTip(tr("At the worst moment of this title (WCAG 2.2)"))
        self.help = small_button(tr("Add a box"),
                                 tr("A box behind the lines: they stand out everywhere"),
                                 self._add_box)
        self.check = LegibilityCheck(session, self, self._judged, self._without)
        self.check.found.connect(self._show_contrast)
        self._lay_out()
        for signal in (session.project_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self.sync()

    def _button(self, name: str, tip: str, run: Callable[[], object]) -> QPushButton:
        self.buttons[name] = small_button(name, tip, run)
        return self.buttons[name]

    def _lay_out(self) -> None:
        adding = [self._button(tr(name), tr("Add a {name}", name=tr(name).lower()),
                               lambda name=name: self.add(name)) for name in KINDS]
        if self._pictures:
            adding.append(self._button(
                tr("Picture…"), tr("Add a logo, another picture, or a clip"),
                lambda: self._session.assets.ask(self, self._add_asset)))
        delete = self._button(tr("Delete"), tr("Delete the selected title"), self.delete)
        self.text.setFixedHeight(LIST_HIGH)
        both = QHBoxLayout()
        both.setSpacing(8)
        both.addWidget(self.list, 1)
        both.addWidget(self.text, 1)
        form = Form()
        form.row(tr("Time"),
                 self._button(tr("From playhead"), tr("It appears at the playhead"),
                              lambda: self._change("start", self._ground.here())),
                 self._button(tr("To playhead"), tr("It disappears after the playhead's frame"),
                              lambda: self._change("end_exclusive", self._ground.here() + 1)),
                 self._button(tr("Whole version"), tr("From the first to the last frame"),
                              self._through))
        form.row(tr("Appear"), self.comes, quiet(tr("Disappear")), self.goes)
        self.fields.fill(form)
        form.row(tr("Contrast"), self.contrast, self.help)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(button_row(quiet(tr("Add")), *adding, delete))
        column.addLayout(both)
        column.addWidget(form)

    def _shown(self) -> list[int]:
        """The numbers of those in the list, in front first."""
        held = self._ground.overlays()
        return [i for i in reversed(range(len(held)))
                if self._pictures or isinstance(held[i].content, Title)]

    @property
    def number(self) -> int | None:
        """The chosen one's number among all that lies there; None: none is."""
        shown, row = self._shown(), self.list.currentRow()
        return shown[row] if 0 <= row < len(shown) else None

    @property
    def chosen(self) -> Overlay | None:
        """Returns the overlay that is chosen; None: none is."""
        return None if self.number is None else self._ground.overlays()[self.number]

    def choose(self, number: int) -> None:
        """Choose what has this number, if it is in the list."""
        self.sync()
        shown = self._shown()
        if number in shown:
            self.list.setCurrentRow(shown.index(number))

    def sync(self) -> None:
        """Show what lies on the ground."""
        held, rate = self._ground.overlays(), self._session.analysis.master.rate
        rows = [f"{timecode(held[i].start, rate)}  {held[i].name}" for i in self._shown()]
        if rows != [self.list.item(i).text() for i in range(self.list.count())]:
            row = self.list.currentRow()
            with QSignalBlocker(self.list):
                self.list.clear()
                self.list.addItems(rows)
                self.list.setCurrentRow(min(max(row, 0), len(rows) - 1))
        self._show_chosen()

    def _show_chosen(self) -> None:
        overlay = self.chosen
        title = overlay.content if overlay and isinstance(overlay.content, Title) else None
        for widget in (self.comes, self.goes, *(self.buttons[name] for name in (
                tr("From playhead"), tr("To playhead"), tr("Whole version"), tr("Delete")))):
            widget.setEnabled(overlay is not None)
        self.text.setEnabled(title is not None)
        self.fields.set_enabled(title is not None)
        with QSignalBlocker(self.text):
            words = title.text if title else ""
            if words != self.text.toPlainText() and not (
                    title and self.text.hasFocus() and not self.text.toPlainText().strip()):
                self.text.setPlainText(words)
        if title is not None:
            self.fields.show_style(title.style)
        if overlay is not None:
            self.comes.setCurrentIndex(ENTRIES.index(overlay.entry))
            self.goes.setCurrentIndex(ENTRIES.index(overlay.exit))
        self._ask()
        self.changed.emit()

    def _ask(self) -> None:
        title = self.chosen is not None and isinstance(self.chosen.content, Title)
        if not title:
            self._show_contrast(None)
        elif self.isVisible():
            self.check.ask()

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._ask()

    def _judged(self, picture_at: PictureAt) -> Legibility | None:
        overlay = self.chosen
        try:
            return None if overlay is None else title_legibility(
                overlay, self._session.sheet(self._session.letter).canvas, picture_at)
        except CaracalError:
            return None  # a missing font has a message of its own

    def _without(self, frame: int, size: Canvas) -> Scene | None:
        return None if self.chosen is None else self._ground.scene(frame, size, self.chosen)

    def _show_contrast(self, found: Legibility | None) -> None:
        self.contrast.setText("" if found is None else contrast_words(found))
        title = self.chosen.content if self.chosen is not None else None
        self.help.setVisible(found is not None and not found.right and isinstance(title, Title)
                             and title.style.box is None)

    def _add_box(self) -> None:
        title = self.chosen.content if self.chosen is not None else None
        if isinstance(title, Title):
            self._restyle(msgspec.structs.replace(title.style, box=TextBox()), "box")

    def add(self, kind: str) -> None:
        """Add a title of a kind: it has its place in the clear area of each version."""
        words, style, part = KINDS[kind]
        entry = Entry.SLIDE if kind == "Lower third" else Entry.FADE
        stretch = self._ground.stretch()

        def made(letter: str) -> Overlay:
            (left, right), (top, bottom) = caption_area(self._session.sheet(letter))
            (a, b), (c, d) = part
            region = ((left + (right - left) * a, left + (right - left) * b),
                      (top + (bottom - top) * c, top + (bottom - top) * d))
            return Overlay(Title(words, style), *stretch, region, entry=entry)

        self._add(made)

    def add_file(self, path: Path) -> None:
        """Add the picture or clip at ``path``."""
        self._session.assets.take_file(path, self._add_asset)

    def _add_asset(self, content: PictureFile | Clip, ratio: float) -> None:
        stretch, fitted = self._ground.stretch(), msgspec.structs.replace(content, fit=True)
        self._add(lambda letter: Overlay(
            fitted, *stretch, first_region(ratio, self._session.sheet(letter).canvas)))

    def _add(self, made: Callable[[str], Overlay]) -> None:
        name = made(self._session.letter).name
        count = len(self._ground.overlays())
        if self._edit(tr("add {name}", name=name),
                      lambda letter, held, _: (*held, made(letter))):
            self.choose(count)
            self.text.setFocus()
            self.text.selectAll()

    def delete(self) -> None:
        """Delete the selected title; undo brings it back."""
        chosen = self.chosen
        if chosen is not None:
            self._edit(tr("delete {name}", name=chosen.name),
                       lambda _, held, at: held if at is None else (*held[:at], *held[at + 1 :]))

    def _through(self) -> None:
        start, end = self._ground.whole()
        self._replace(tr("show title through the whole version"), None, start=start,
                      end_exclusive=end)

    def _change(self, field: str, value: object) -> None:
        self._replace(tr("edit title"), ("title", field, self.number), **{field: value})

    def _replace(self, what: str, gesture: object | None, **values: object) -> None:
        if self.number is None:
            return
        self._edit(what, lambda _, held, at: held if at is None else (
            *held[:at], msgspec.structs.replace(held[at], **values), *held[at + 1 :]), gesture)

    def _write(self) -> None:
        overlay, text = self.chosen, self.text.toPlainText()
        if overlay is not None and isinstance(overlay.content, Title) and text.strip():
            self._change("content", msgspec.structs.replace(overlay.content, text=text))

    def _restyle(self, style: TextStyle, field: str) -> None:
        overlay, number = self.chosen, self.number
        if number is not None and overlay is not None and isinstance(overlay.content, Title):
            self._replace(tr("title style"), ("title style", field, number),
                          content=msgspec.structs.replace(overlay.content, style=style))

    def _edit(self, what: str, change: ListChange, gesture: object | None = None) -> bool:
        """Change the overlays here and, where titles reach other versions, theirs: ``change`` is
        given a letter, its overlays, and the number of the selected one or of one like it.

        Returns whether it was made; what cannot be is said.
        """
        session, chosen, number = self._session, self.chosen, self.number
        here = session.letter
        if self._is_reached:
            def changed(project: Project, letter: str, _: int) -> Project:
                at = number if letter == here or chosen is None else overlay_like(
                    project, letter, chosen)
                return with_overlays(project, letter, change(
                    letter, project.version(letter).overlays, at))

            made = session.editing.edit(EditKind.TITLES, what, changed, gesture,
                                        scope=Scope.VERSION)
            if not made:
                self.sync()
            return made
        try:
            session.edit(self._ground.put(change(here, self._ground.overlays(), number))(),
                         tr("Version {letter}: {what}", letter=here, what=what),
                         None if gesture is None else (gesture, here))
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.sync()
            return False
        return True
