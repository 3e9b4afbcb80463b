"""The page Overlays: pictures, clips and shapes over a stretch of the version, and templates."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QColor, QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QColorDialog,
    QListWidget,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.resources import asset_file
from caracal.core.base.translation import tr
from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import Clip, FileContent, PictureFile
from caracal.core.layout.overlay import (
    BAR_REGION,
    SHAPE_RATIOS,
    Overlay,
    OwnSound,
    Shape,
    ShapeKind,
    first_region,
    region_on,
)
from caracal.core.layout.shipped_assets import GRAPHICS, graphic
from caracal.core.project.bulk import Change
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import (
    overlay_like,
    with_overlay_added,
    with_overlay_changed,
    with_overlay_everywhere,
    with_overlay_moved,
    without_overlay,
)
from caracal.core.render.assets.svg import drawing_ratio
from caracal.ui.aim.overlay_fields import OverlayFields, summary
from caracal.ui.aim.shot_page import ShotPage
from caracal.ui.aim.templates import Templates
from caracal.ui.session.overlay_places import place_overlay
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.form import CHOICE_WIDE, Fold, Form, button_row
from caracal.ui.widgets.panels import choice_box, quiet, small_button

LIST_HIGH = 108  # pixels: three overlays
SHOWN_S = 3.0  # how long a new overlay is shown


class OverlayPage(ShotPage):
    """The list of overlays of the chosen version, with all that can be said of each."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.list = QListWidget()
        self.list.setFixedHeight(theme.scaled(LIST_HIGH))
        self.list.setAccessibleName(tr("Overlays, the front one first"))
        self.list.setToolTip(tr("The front one comes first. Del deletes the chosen one"))
        self.list.currentRowChanged.connect(lambda _: self._show_chosen())
        self.list.installEventFilter(self)
        self.fields = OverlayFields(session.rate)
        self.fields.changed.connect(self._change)
        self.template, self.made_of = Templates(session), QWidget()
        self.sound = choice_box([tr(each.value).capitalize() for each in OwnSound],
                                tr("The clip's own sound beside the film's"),
                                lambda at: self._change("sound", list(OwnSound)[at]))
        self.buttons: dict[str, QPushButton] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self._empty = quiet(tr("No overlays in this version. Add a picture, a clip or a shape at "
                               "the playhead."))
        self._empty.setWordWrap(True)
        for part in (self._add_row(), self.list, self._empty, self._chosen_fields(),
                     Fold(tr("Templates"), self.template)):
            self.column.addWidget(part)
        self.follow()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Del in the list deletes."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and (
                watched is self.list and event.key() == Qt.Key.Key_Delete):
            self.delete()
            return True
        return super().eventFilter(watched, event)

    def _button(self, name: str, tip: str, run: Callable[[], None]) -> QPushButton:
        self.buttons[name] = small_button(name, tip, run)
        return self.buttons[name]

    def _add_row(self) -> QWidget:
        files = self._button(tr("Add picture or clip…"),
                             tr("A picture file or another film, from the playhead on"),
                             lambda: self._session.assets.ask(self, self._add_asset))
        self.graphics = choice_box([tr("Add graphic"), *map(tr, GRAPHICS)], tr(
            "A drawing that ships, from the playhead on"), lambda at: self._add_graphic(at - 1))
        self.shapes = choice_box(
            [tr("Add shape"), *(tr(kind.value).capitalize() for kind in ShapeKind)],
            tr("A shape, from the playhead on"), self._add_shape)
        for box in (self.graphics, self.shapes):
            box.setObjectName("small")
        return button_row(files, self.graphics, self.shapes)

    def _chosen_fields(self) -> QWidget:
        column = QVBoxLayout(self.made_of)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        form, more = Form(), Form()
        form.row(tr("Time"),
                 self._button(tr("From playhead"), tr("It appears at the playhead"),
                              lambda: self._stretch("start")),
                 self._button(tr("To playhead"), tr("It disappears after the playhead's frame"),
                              lambda: self._stretch("end_exclusive")),
                 self._button(tr("Whole version"), tr("It is shown through the whole version"),
                              self._whole))
        self.fields.fill(form, more)
        for name, field, tip in ((tr("Hide"), "hidden", tr("Neither shown nor heard")),
                                 (tr("Lock position"), "locked",
                                  tr("The canvas cannot drag it"))):
            tick = QCheckBox(name)
            tick.setToolTip(tip)
            tick.clicked.connect(lambda on, field=field: self._change(field, on))
            self.ticks[field] = tick
        self._sound_row = more.row(tr("Clip sound"), self.sound)
        self.sound.setFixedWidth(theme.scaled(CHOICE_WIDE))
        self._colour_row = more.row(
            tr("Shape colour"),
            self._button(tr("Colour…"), tr("The colour of the shape"),
                         lambda: self._ask_colour("colour")),
            self._button(tr("Gradient to…"), tr("A second colour, into which the first blends"),
                         lambda: self._ask_colour("other")))
        more.row(tr("Pulse"), self._button(
            tr("Pulse at playhead"), tr("It grows for a moment at the playhead; again: no longer"),
            self._pulse))
        more.row(tr("Order"),
                 self._button(tr("Forward"), tr("In front of the next one"), lambda: self._move(1)),
                 self._button(tr("Backward"), tr("Behind the one below"), lambda: self._move(-1)))
        more.row(tr("Canvas"), *self.ticks.values())
        column.addWidget(form)
        column.addWidget(button_row(
            self._button(tr("Apply to all versions"), tr("Add it to every other version as well"),
                         self.to_all_versions),
            self._button(tr("Delete"), tr("Delete the chosen overlay (Del)"), self.delete)))
        column.addWidget(Fold(tr("More"), more))
        return self.made_of

    @property
    def overlays(self) -> tuple[Overlay, ...]:
        """Those of the chosen version, from back to front."""
        return self._session.project.version(self._session.letter).overlays

    @property
    def number(self) -> int | None:
        """The chosen one's number, from the back; None: none is."""
        at = len(self.overlays) - 1 - self.list.currentRow()
        return at if self.list.currentRow() >= 0 and 0 <= at < len(self.overlays) else None

    def choose(self, number: int) -> None:
        """Show overlay ``number``, counted from the back."""
        self.sync()
        self.list.setCurrentRow(len(self.overlays) - 1 - number)

    def sync(self) -> None:
        """Show the overlays of the chosen version."""
        session, held = self._session, self.overlays
        rate = session.analysis.master.rate
        rows = [summary(overlay, rate) for overlay in reversed(held)]
        if rows != [self.list.item(i).text() for i in range(self.list.count())]:
            chosen = self.list.currentRow()
            self.list.blockSignals(True)
            self.list.clear()
            self.list.addItems(rows)
            self.list.setCurrentRow(min(max(chosen, 0), len(rows) - 1))
            self.list.blockSignals(False)
        self.list.setVisible(bool(rows))
        self._empty.setVisible(not rows)
        self._show_chosen()

    def _show_chosen(self) -> None:
        number = self.number
        self.made_of.setVisible(number is not None)
        if number is None:
            return
        overlay = self.overlays[number]
        self.fields.show_overlay(overlay)
        for field, tick in self.ticks.items():
            tick.setChecked(getattr(overlay, field))
        self.sound.setCurrentIndex(list(OwnSound).index(overlay.sound))
        self._sound_row.set_visible(isinstance(overlay.content, Clip))
        self._colour_row.set_visible(isinstance(overlay.content, Shape))

    def _add_shape(self, index: int) -> None:
        self.shapes.setCurrentIndex(0)
        if index > 0:
            self.add_shape(list(ShapeKind)[index - 1])

    def add_shape(self, kind: ShapeKind) -> None:
        """Add a shape to the chosen version, from the playhead on; a bar along all of it."""
        if kind is not ShapeKind.BAR:
            self._add(Shape(kind), SHAPE_RATIOS[kind])
            return
        session = self._session
        ranges = session.project.ranges_of(session.letter)
        self._lay(Overlay(Shape(kind), ranges[0].start, ranges[-1].end_exclusive, BAR_REGION,
                          entry=Entry.NONE, exit=Entry.NONE))

    def add_file(self, path: Path, then: Callable[[], object] = lambda: None) -> None:
        """Add the picture or clip at ``path`` to the chosen version, from the playhead on; ``then``
        is called once it is checked."""
        def take(content: PictureFile | Clip, ratio: float) -> None:
            self._add_asset(content, ratio)
            then()

        self._session.assets.take_file(path, take)

    def _add_asset(self, content: PictureFile | Clip, ratio: float) -> None:
        self._add(msgspec.structs.replace(content, fit=True), ratio)

    def _add_graphic(self, number: int) -> None:
        self.graphics.setCurrentIndex(0)
        if number >= 0:
            content = graphic(list(GRAPHICS)[number])
            self._add(content, drawing_ratio(asset_file(content.path).read_bytes()))

    def _add(self, content: FileContent | Shape, ratio: float) -> None:
        session = self._session
        end = min(session.frame + round(SHOWN_S * session.rate), session.analysis.master.frames)
        region = first_region(ratio, session.sheet(session.letter).canvas)
        self._lay(Overlay(content, session.frame, end, region))

    def _lay(self, overlay: Overlay) -> None:
        session = self._session
        canvas = session.sheet(session.letter).canvas

        def change(project: Project, letter: str, _: int) -> Project:
            region = region_on(overlay.region, canvas, session.sheet(letter).canvas)
            return with_overlay_added(project, letter, msgspec.structs.replace(
                overlay, region=region))

        if self._reached(tr("add {name}", name=overlay.name), change):
            self.choose(len(self.overlays) - 1)

    def to_all_versions(self) -> None:
        """Add the chosen overlay to every other version, too."""
        if self.number is not None:
            session, number = self._session, self.number
            canvases = {version.letter: session.sheet(version.letter).canvas
                        for version in session.project.versions}
            self._edit(lambda: with_overlay_everywhere(
                session.project, session.letter, number, canvases),
                tr("All versions: add {name}", name=self.overlays[number].name))

    def delete(self) -> None:
        """Delete the chosen overlay, and those like it in the versions that are reached."""
        if self.number is not None:
            overlay = self.overlays[self.number]
            self._reached_alike(tr("delete {name}", name=overlay.name), without_overlay)

    def _change(self, field: str, value: object) -> None:
        number, session = self.number, self._session
        if number is None:
            return
        what = tr("change {name}", name=self.overlays[number].name)
        gesture = ("overlay field", field, session.letter, number)
        if field == "region":
            assert isinstance(value, tuple)
            place_overlay(session, session.letter, number, value, gesture)
            self.sync()
            return
        self._reached_alike(what, lambda project, letter, at: with_overlay_changed(
            project, letter, at, **{field: value}), gesture)

    def _stretch(self, field: str) -> None:
        frame = self._session.frame
        self._change(field, frame if field == "start" else frame + 1)

    def _pulse(self) -> None:
        number, frame = self.number, self._session.frame
        if number is not None:
            beats = set(self.overlays[number].beats) ^ {frame}
            self._change("beats", tuple(sorted(beats)))

    def _whole(self) -> None:
        if self.number is None:
            return

        def change(project: Project, letter: str, at: int) -> Project:
            ranges = project.ranges_of(letter)
            return with_overlay_changed(project, letter, at, start=ranges[0].start,
                                        end_exclusive=ranges[-1].end_exclusive)

        self._reached_alike(tr("show {name} through the whole version",
                               name=self.overlays[self.number].name), change)

    def _move(self, by: int) -> None:
        number = self.number
        if number is not None and 0 <= number + by < len(self.overlays):
            session = self._session
            self._edit(lambda: with_overlay_moved(
                session.project, session.letter, number, number + by),
                tr("Version {letter}: {name} forward", letter=session.letter,
                   name=self.overlays[number].name) if by > 0 else
                tr("Version {letter}: {name} backward", letter=session.letter,
                   name=self.overlays[number].name))
            self.choose(number + by)

    def _ask_colour(self, field: str) -> None:
        if self.number is None:
            return
        shape = self.overlays[self.number].content
        if isinstance(shape, Shape):
            now = QColor(getattr(shape, field) or shape.colour)
            found = QColorDialog.getColor(now, self, tr("Colour"))
            if found.isValid():
                self.set_colour(found.name(), field)

    def set_colour(self, colour: str, field: str = "colour") -> None:
        """Give the chosen shape a colour, as #rrggbb; as ``other`` the one it blends into."""
        if self.number is not None:
            shape = self.overlays[self.number].content
            self._change("content", msgspec.structs.replace(shape, **{field: colour}))

    def _reached_alike(
        self, what: str, change: Change, gesture: object | None = None
    ) -> None:
        """Make ``change``, given a version and a number there, to the chosen overlay and to those
        like it in the other versions that are reached."""
        number, session = self.number, self._session
        if number is None:
            return
        chosen, here = self.overlays[number], session.letter

        def changed(project: Project, letter: str, _: int) -> Project:
            at = number if letter == here else overlay_like(project, letter, chosen)
            return project if at is None else change(project, letter, at)

        self._reached(what, changed, gesture)

    def _reached(self, what: str, change: Change, gesture: object | None = None) -> bool:
        made = self._session.editing.edit(EditKind.OVERLAYS, what, change, gesture,
                                          scope=Scope.VERSION)
        self.sync()
        return made

    def _edit(
        self, change: Callable[[], Project], words: str, gesture: object | None = None
    ) -> bool:
        """Take a changed project; what cannot be is said. Returns whether it was taken."""
        try:
            self._session.edit(change(), words, gesture)
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return False
        finally:
            self.sync()
        return True
