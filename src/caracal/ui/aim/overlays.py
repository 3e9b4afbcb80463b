"""What lies over a version: pictures and shapes that come and go, and how it begins and ends."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec
from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QColor, QKeyEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QColorDialog,
    QHBoxLayout,
    QLabel,
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
)
from caracal.core.layout.shipped_assets import GRAPHICS, graphic
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import (
    with_overlay_added,
    with_overlay_changed,
    with_overlay_everywhere,
    with_overlay_moved,
    without_overlay,
)
from caracal.core.render.assets.svg import drawing_ratio
from caracal.ui.aim.fades import FadesRow
from caracal.ui.aim.overlay_fields import OverlayFields, told
from caracal.ui.aim.shot_panel import ShotPanelButton
from caracal.ui.aim.speed_row import SpeedRow
from caracal.ui.aim.templates import TemplateRow
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import choice_box, small_button, wide_panel

PANEL_WIDE, LIST_HIGH = 680, 102
STAYS_S = 3.0  # how long a new overlay lies there


class OverlayButton(ShotPanelButton):
    """Opens the list of what lies over the chosen version, with all that can be said of each."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, tr("Overlays"), tr(
            "Pictures, clips and shapes over a stretch of this version, how it begins and ends, "
            "and its speed (V)"))
        self.list = QListWidget()
        self.list.setFixedHeight(LIST_HIGH)
        self.list.setToolTip(tr("The one in front comes first. Del: take it away"))
        self.list.currentRowChanged.connect(lambda _: self._show_chosen())
        self.list.installEventFilter(self)
        self.fields = OverlayFields(session.rate)
        self.fields.changed.connect(self._change)
        self.fades, self.speed = FadesRow(session), SpeedRow(session)
        self.template, self.made_of = TemplateRow(session), QWidget()
        self.sound = choice_box([tr("Sound {level}", level=tr(each.value)) for each in OwnSound],
                                tr("How loud the clip's own sound is heard beside the film's"),
                                lambda at: self._change("sound", list(OwnSound)[at]))
        self.buttons: dict[str, QPushButton] = {}
        self.ticks: dict[str, QCheckBox] = {}
        self.open_with(self._panel())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Del in the list takes away."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and (
                watched is self.list and event.key() == Qt.Key.Key_Delete):
            self.take_away()
            return True
        return super().eventFilter(watched, event)

    def _button(self, name: str, tip: str, run: Callable[[], None], row: QHBoxLayout) -> None:
        self.buttons[name] = small_button(name, tip, run)
        row.addWidget(self.buttons[name])

    def _panel(self) -> QWidget:
        panel, column = wide_panel(PANEL_WIDE)
        row = QHBoxLayout()
        row.setSpacing(8)
        self._head = QLabel()
        self._head.setObjectName("head")
        row.addWidget(self._head, 1)
        words = tr("Lay a picture file or another film over it from here on")
        self._button(tr("Picture or clip…"), words,
                     lambda: self._session.assets.ask(self, self._add_asset), row)
        self.graphics = choice_box([tr("Graphic"), *map(tr, GRAPHICS)], tr(
            "Lay a drawing of ours over it from here on"), lambda at: self._add_graphic(at - 1))
        row.addWidget(self.graphics)
        for kind in ShapeKind:
            self._button(tr(kind.value).capitalize(),
                         tr("Lay a {kind} over it from here on", kind=tr(kind.value)),
                         lambda kind=kind: self.add_shape(kind), row)
        column.addLayout(row)
        column.addWidget(self.list)
        column.addWidget(self._about_chosen())
        column.addWidget(self.fades)
        column.addWidget(self.speed)
        column.addWidget(self.template)
        return panel

    def _about_chosen(self) -> QWidget:
        column = QVBoxLayout(self.made_of)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.fields)
        row = QHBoxLayout()
        row.setSpacing(8)
        for name, tip, field in (
                (tr("From here"), tr("It comes at the playhead"), "start"),
                (tr("To here"), tr("It goes after the playhead's frame"), "end_exclusive")):
            self._button(name, tip, lambda field=field: self._stretch(field), row)
        self._button(tr("Beat here"), tr("It grows for a moment at the playhead; again: no longer"),
                     self._beat, row)
        self._button(tr("All"), tr("It lies over the whole version"), self._whole, row)
        row.addWidget(self.sound)
        for name, field, tip in ((tr("Hide"), "hidden", tr("It is neither seen nor heard")),
                                 (tr("Lock"), "locked", tr("A canvas does not take hold of it"))):
            tick = QCheckBox(name)
            tick.setToolTip(tip)
            tick.clicked.connect(lambda on, field=field: self._change(field, on))
            self.ticks[field] = tick
            row.addWidget(tick)
        row.addStretch(1)
        column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(8)
        for name, tip, field in (
                (tr("Colour…"), tr("The colour of the shape"), "colour"),
                (tr("Blend into…"), tr("A second colour, into which the first blends"), "other")):
            self._button(name, tip, lambda field=field: self._ask_colour(field), row)
        row.addStretch(1)
        self._button(tr("Forward"), tr("In front of the next one"), lambda: self._move(1), row)
        self._button(tr("Backward"), tr("Behind the one below"), lambda: self._move(-1), row)
        self._button(tr("To all versions"), tr("It lies over every other version as well"),
                     self.to_all_versions, row)
        self._button(tr("Take away"), tr("It lies there no more (Del)"), self.take_away, row)
        column.addLayout(row)
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
        """Show what lies over the chosen version."""
        session, held = self._session, self.overlays
        self.setText(tr("Overlays: {count}", count=len(held)) if held else tr("Overlays"))
        self._head.setText(tr("Over {letter}, in front first", letter=session.letter))
        rate = session.analysis.master.rate
        rows = [told(overlay, rate) for overlay in reversed(held)]
        if rows != [self.list.item(i).text() for i in range(self.list.count())]:
            chosen = self.list.currentRow()
            self.list.blockSignals(True)
            self.list.clear()
            self.list.addItems(rows)
            self.list.setCurrentRow(min(max(chosen, 0), len(rows) - 1))
            self.list.blockSignals(False)
        self.fades.sync()
        self.speed.sync()
        self._show_chosen()

    def _show_chosen(self) -> None:
        number = self.number
        self.made_of.setEnabled(number is not None)
        if number is None:
            return
        overlay = self.overlays[number]
        self.fields.show_overlay(overlay)
        for field, tick in self.ticks.items():
            tick.setChecked(getattr(overlay, field))
        self.sound.setCurrentIndex(list(OwnSound).index(overlay.sound))
        self.sound.setVisible(isinstance(overlay.content, Clip))
        for name in (tr("Colour…"), tr("Blend into…")):
            self.buttons[name].setVisible(isinstance(overlay.content, Shape))

    def add_shape(self, kind: ShapeKind) -> None:
        """Lay a shape over the chosen version, from the playhead on; a bar along all of it."""
        if kind is not ShapeKind.BAR:
            self._add(Shape(kind), SHAPE_RATIOS[kind])
            return
        session = self._session
        ranges = session.project.ranges_of(session.letter)
        self._lay(Overlay(Shape(kind), ranges[0].start, ranges[-1].end_exclusive, BAR_REGION,
                          entry=Entry.NONE, exit=Entry.NONE))

    def add_file(self, path: Path) -> None:
        """Lay the picture or clip at ``path`` over the chosen version, from the playhead on."""
        self._session.assets.take_file(path, self._add_asset)

    def _add_asset(self, content: PictureFile | Clip, ratio: float) -> None:
        self._add(msgspec.structs.replace(content, fit=True), ratio)

    def _add_graphic(self, number: int) -> None:
        self.graphics.setCurrentIndex(0)
        if number >= 0:
            content = graphic(list(GRAPHICS)[number])
            self._add(content, drawing_ratio(asset_file(content.path).read_bytes()))

    def _add(self, content: FileContent | Shape, ratio: float) -> None:
        session = self._session
        end = min(session.frame + round(STAYS_S * session.rate), session.analysis.master.frames)
        region = first_region(ratio, session.sheet(session.letter).canvas)
        self._lay(Overlay(content, session.frame, end, region))

    def _lay(self, overlay: Overlay) -> None:
        session = self._session
        if self._edit(lambda: with_overlay_added(session.project, session.letter, overlay),
                      tr("{name} lies over {letter}.", name=overlay.name, letter=session.letter)):
            self.choose(len(self.overlays) - 1)

    def to_all_versions(self) -> None:
        """The chosen overlay lies over every other version, too."""
        if self.number is not None:
            session, number = self._session, self.number
            canvases = {version.letter: session.sheet(version.letter).canvas
                        for version in session.project.versions}
            self._edit(lambda: with_overlay_everywhere(
                session.project, session.letter, number, canvases),
                tr("{name} lies over every version.", name=self.overlays[number].name))

    def take_away(self) -> None:
        """The chosen overlay is taken away; undo brings it back."""
        if self.number is not None:
            session, number = self._session, self.number
            self._edit(lambda: without_overlay(session.project, session.letter, number),
                       tr("{name} is taken away.", name=self.overlays[number].name))

    def _change(self, field: str, value: object) -> None:
        if self.number is not None:
            session, number = self._session, self.number
            words = tr("{name} of {letter} changed.", name=self.overlays[number].name,
                       letter=session.letter)
            self._edit(lambda: with_overlay_changed(
                session.project, session.letter, number, **{field: value}), words,
                ("overlay field", field, session.letter, number))

    def _stretch(self, field: str) -> None:
        frame = self._session.frame
        self._change(field, frame if field == "start" else frame + 1)

    def _beat(self) -> None:
        number, frame = self.number, self._session.frame
        if number is not None:
            beats = set(self.overlays[number].beats) ^ {frame}
            self._change("beats", tuple(sorted(beats)))

    def _whole(self) -> None:
        if self.number is not None:
            session, number = self._session, self.number
            ranges = session.project.ranges_of(session.letter)
            self._edit(lambda: with_overlay_changed(
                session.project, session.letter, number, start=ranges[0].start,
                end_exclusive=ranges[-1].end_exclusive), tr("It lies over the whole version."))

    def _move(self, by: int) -> None:
        number = self.number
        if number is not None and 0 <= number + by < len(self.overlays):
            session = self._session
            self._edit(lambda: with_overlay_moved(
                session.project, session.letter, number, number + by),
                tr("It lies in front.") if by > 0 else tr("It lies behind."))
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
