"""Titles: what they say, how they look, when they come and go; and pictures beside them."""

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
from caracal.core.render.captions.legibility import Legibility, PictureAt, title_legibility
from caracal.core.render.captions.placement import caption_area
from caracal.core.render.scene import Scene
from caracal.core.text.style import Align, TextBox, TextShadow, TextStyle, Title
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import choice_box, quiet, small_button
from caracal.ui.words.laid import Ground
from caracal.ui.words.legibility_check import LegibilityCheck, contrast_words
from caracal.ui.words.style_fields import StyleFields

LIST_HIGH = 64
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

    def __init__(self, session: Session, ground: Ground, pictures: bool = False) -> None:
        """``pictures``: pictures are laid here, too, and shown in the list."""
        super().__init__()
        self._session, self._ground, self._pictures = session, ground, pictures
        self.list = QListWidget()
        self.list.setFixedHeight(LIST_HIGH)
        self.list.setToolTip(tr("The one in front comes first, with its first frame"))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(lambda _: self._show_chosen())
        self.text = QPlainTextEdit()
        self.text.setTabChangesFocus(True)
        self.text.setToolTip(tr("It fits itself into its box: drag the box or its corner on the "
                                "canvas. A line break here breaks the line"))
        self.text.textChanged.connect(self._write)
        self.fields = StyleFields(aligned=True)
        self.fields.changed.connect(self._restyle)
        self.fields.said.connect(session.said)
        names = [tr(entry.value).capitalize() for entry in ENTRIES]
        self.comes = choice_box(names, tr("How it comes"),
                                lambda at: self._change("entry", ENTRIES[at]))
        self.goes = choice_box(names, tr("How it goes"),
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

    def _button(self, name: str, tip: str, run: Callable[[], object], row: QHBoxLayout) -> None:
        self.buttons[name] = small_button(name, tip, run)
        row.addWidget(self.buttons[name])

    def _lay_out(self) -> None:
        adding, about = QHBoxLayout(), QHBoxLayout()
        for row in (adding, about):
            row.setSpacing(8)
        for name in KINDS:
            self._button(tr(name), tr("Add a {name}", name=tr(name).lower()),
                         lambda name=name: self.add(name), adding)
        if self._pictures:
            self._button(tr("Picture…"), tr("Add a logo, another picture, or a clip"),
                         lambda: self._session.assets.ask(self, self._add_asset), adding)
        adding.addStretch(1)
        self._button(tr("Take away"), tr("The chosen one goes"), self.take_away, adding)
        for widget in (quiet(tr("Comes")), self.comes, quiet(tr("Goes")), self.goes):
            about.addWidget(widget)
        self._button(tr("From here"), tr("It comes at the frame that is looked at"),
                     lambda: self._change("start", self._ground.here()), about)
        self._button(tr("To here"), tr("It goes after the frame that is looked at"),
                     lambda: self._change("end_exclusive", self._ground.here() + 1), about)
        self._button(tr("All through"), tr("It is seen from the first to the last frame"),
                     self._through, about)
        about.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(adding)
        both = QHBoxLayout()
        both.setSpacing(8)
        both.addWidget(self.list, 1)
        self.text.setFixedHeight(LIST_HIGH)
        both.addWidget(self.text, 1)
        column.addLayout(both)
        column.addWidget(self.fields)
        read = QHBoxLayout()
        read.setSpacing(8)
        read.addWidget(self.contrast)
        read.addWidget(self.help)
        read.addStretch(1)
        column.addLayout(read)
        column.addLayout(about)
        column.addStretch(1)

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
                tr("From here"), tr("To here"), tr("All through"), tr("Take away")))):
            widget.setEnabled(overlay is not None)
        self.text.setEnabled(title is not None)
        self.fields.setEnabled(title is not None)
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
        """Lay a title of a kind on the ground: it has its place in the clear area."""
        words, style, part = KINDS[kind]
        sheet = self._session.sheet(self._session.letter)
        (left, right), (top, bottom) = caption_area(sheet)
        (a, b), (c, d) = part
        region = ((left + (right - left) * a, left + (right - left) * b),
                  (top + (bottom - top) * c, top + (bottom - top) * d))
        entry = Entry.SLIDE if kind == "Lower third" else Entry.FADE
        self._add(Overlay(Title(words, style), *self._ground.stretch(), region, entry=entry))

    def add_file(self, path: Path) -> None:
        """Lay the picture or clip at ``path`` on the ground."""
        self._session.assets.take_file(path, self._add_asset)

    def _add_asset(self, content: PictureFile | Clip, ratio: float) -> None:
        canvas = self._session.sheet(self._session.letter).canvas
        self._add(Overlay(msgspec.structs.replace(content, fit=True), *self._ground.stretch(),
                          first_region(ratio, canvas)))

    def _add(self, overlay: Overlay) -> None:
        held = self._ground.overlays()
        if self._put((*held, overlay), tr("{name} added.", name=overlay.name)):
            self.choose(len(held))
            self.text.setFocus()
            self.text.selectAll()

    def take_away(self) -> None:
        """The chosen one is taken away; undo brings it back."""
        number = self.number
        if number is not None:
            held = self._ground.overlays()
            self._put((*held[:number], *held[number + 1 :]),
                      tr("{name} is taken away.", name=held[number].name))

    def _through(self) -> None:
        number = self.number
        if number is not None:
            start, end = self._ground.whole()
            self._replace(number, tr("It is seen all through."), None, start=start,
                          end_exclusive=end)

    def _change(self, field: str, value: object) -> None:
        number = self.number
        if number is not None:
            self._replace(number, tr("Title changed."), ("title", field, number), **{field: value})

    def _replace(self, number: int, words: str, gesture: object | None, **values: object) -> None:
        held = list(self._ground.overlays())
        held[number] = msgspec.structs.replace(held[number], **values)
        self._put(tuple(held), words, gesture)

    def _write(self) -> None:
        overlay, text = self.chosen, self.text.toPlainText()
        if overlay is not None and isinstance(overlay.content, Title) and text.strip():
            self._change("content", msgspec.structs.replace(overlay.content, text=text))

    def _restyle(self, style: TextStyle, field: str) -> None:
        overlay, number = self.chosen, self.number
        if number is not None and overlay is not None and isinstance(overlay.content, Title):
            self._replace(number, tr("Title changed."), ("title style", field, number),
                          content=msgspec.structs.replace(overlay.content, style=style))

    def _put(
        self, overlays: tuple[Overlay, ...], words: str, gesture: object | None = None
    ) -> bool:
        session = self._session
        try:
            session.edit(self._ground.put(overlays)(), words,
                         gesture and (*gesture, session.letter))
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.sync()
            return False
        return True
