"""What painted views tell those who cannot see them: their parts, with places, roles and states.

Qt asks for it only where assistive technology runs. A view that is painted as one widget has
children here that no widget is: cells, shots, canvases, subjects, keyframes, zones.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QObject, QPoint, QRect, QRectF
from PySide6.QtGui import QAccessible, QAccessibleInterface, QAccessibleObject
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from caracal.core.time import timecode
from caracal.core.translation import tr
from caracal.ui.aim.stage import Stage
from caracal.ui.aim.strip import PathStrip
from caracal.ui.board.cell_cursor import words_of_cell
from caracal.ui.board.grid import Grid
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.film_line import FilmLine
from caracal.ui.sheets.drawing import Drawing, zones_in
from caracal.ui.zones import rect_of

ROLE = QAccessible.Role
HALF = 8  # pixels: half the side of a keyframe's place


@dataclass(frozen=True)
class Part:
    """A part of a view: what it is called, where it is in the widget, whether it is chosen."""

    name: str
    place: QRectF
    chosen: bool = False


@dataclass(frozen=True)
class Kind:
    """How a kind of view is told: its role and that of its parts, how many, which, its value."""

    role: QAccessible.Role
    part_role: QAccessible.Role
    count: Callable[[Any], int]
    part: Callable[[Any, int], Part]
    value: Callable[[Any], str] = lambda _: ""


def _cell(grid: Grid, number: int) -> Part:
    session = grid.session
    letters = [version.letter for version in session.project.versions]
    row, column = divmod(number, len(letters))
    cell = (letters[column], grid.rows[row])
    return Part(words_of_cell(session, cell, cell in grid.cells),
                grid.cell_rect(cell[1], column + 1), cell in grid.cells)


def _shot(line: FilmLine, number: int) -> Part:
    session = line.session
    shot = session.analysis.shots[number]
    rate = session.analysis.master.rate
    left, right = line.place_of(shot.start), line.place_of(shot.end)
    return Part(tr("Shot {number}, {start} to {end}", number=number + 1,
                   start=timecode(shot.start, rate), end=timecode(shot.end, rate)),
                QRectF(left, 0, right - left, line.height()), number == session.shot)


def _canvas(canvases: Canvases, number: int) -> Part:
    session = canvases.session
    version = session.project.versions[number]
    shape = session.sheet(version.letter).shape
    words = session.told(version.letter, session.shot)
    return Part(tr("Version {letter}, {shape}, {lead}", letter=version.letter, shape=shape,
                   lead=words.lead), canvases.rects()[number], version.letter == session.letter)


def _subject(stage: Stage, number: int) -> Part:
    session = stage.session
    subject = session.subjects(session.shot)[number]
    box = subject.box_at(session.frame)
    leads = subject.id == session.path(session.letter, session.shot).lead_at(session.frame)
    name = session.lead_name(session.shot, subject.id).capitalize()
    return Part(tr("{name}, leads", name=name) if leads else name,
                stage.place_of(box) if box is not None else QRectF(), leads)


def _keyframe(strip: PathStrip, number: int) -> Part:
    key = strip.keys[number]
    at = strip.point_of(key)
    rate = strip.session.analysis.master.rate
    return Part(tr("Keyframe at {timecode}, {interpolation}", timecode=timecode(key.frame, rate),
                   interpolation=key.interpolation),
                QRectF(at.x() - HALF, at.y() - HALF, 2 * HALF, 2 * HALF), key.frame == strip.chosen)


def _zone(drawing: Drawing, number: int) -> Part:
    assert drawing.sheet is not None
    place, zone = zones_in(drawing.sheet)[number]
    return Part(tr("{what}: {left:.1%} from the left, {top:.1%} from above, {width:.1%} wide, "
                   "{height:.1%} high", what=tr(zone.what), left=zone.left, top=zone.top,
                   width=zone.width, height=zone.height), rect_of(zone, drawing.canvas()),
                place == drawing.chosen)


def _playhead(line: FilmLine) -> str:
    return timecode(line.session.frame, line.session.analysis.master.rate)


KINDS: dict[type[QWidget], Kind] = {
    Grid: Kind(ROLE.Table, ROLE.Cell, lambda grid: len(grid.rows) * len(
        grid.session.project.versions), _cell),
    FilmLine: Kind(ROLE.Slider, ROLE.ListItem, lambda line: len(line.session.analysis.shots),
                   _shot, _playhead),
    Canvases: Kind(ROLE.List, ROLE.Graphic, lambda view: len(view.session.project.versions),
                   _canvas),
    Stage: Kind(ROLE.Graphic, ROLE.ListItem,
                lambda stage: len(stage.session.subjects(stage.session.shot)), _subject),
    PathStrip: Kind(ROLE.Chart, ROLE.ListItem, lambda strip: len(strip.keys), _keyframe),
    Drawing: Kind(ROLE.Graphic, ROLE.ListItem,
                  lambda drawing: len(zones_in(drawing.sheet)) if drawing.sheet else 0, _zone),
}


class PartInterface(QAccessibleInterface):
    """One part of a painted view."""

    def __init__(self, view: ViewInterface, number: int) -> None:
        super().__init__()
        self._view, self._number = view, number

    def _part(self) -> Part | None:
        """The part as it is now; None: it is gone."""
        return self._view.part(self._number) if isValid(self._view) else None

    def isValid(self) -> bool:
        return self._part() is not None

    def object(self) -> QObject | None:  # type: ignore[override]
        return None

    def window(self) -> Any:
        return None

    def parent(self) -> QAccessibleInterface:
        return self._view

    def role(self) -> QAccessible.Role:
        return self._view.kind.part_role

    def state(self) -> QAccessible.State:
        state, part = QAccessible.State(), self._part()
        state.selectable = True
        state.selected = part is not None and part.chosen
        return state

    def rect(self) -> QRect:
        part = self._part()
        return QRect() if part is None else self._view.on_screen(part.place)

    def text(self, which: QAccessible.Text) -> str:
        part = self._part()
        return part.name if part is not None and which == QAccessible.Text.Name else ""

    def setText(self, which: QAccessible.Text, text: str) -> None:
        pass

    def childCount(self) -> int:
        return 0

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return None

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return None

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1


class ViewInterface(QAccessibleObject):
    """A painted view, with its parts as children."""

    def __init__(self, widget: QWidget, kind: Kind) -> None:
        super().__init__(widget)
        self._widget, self.kind = widget, kind
        self._parts: dict[int, PartInterface] = {}

    def part(self, number: int) -> Part | None:
        """The part called ``number``, as it is now; None: there is none."""
        if not self.isValid() or not 0 <= number < self.kind.count(self._widget):
            return None
        return self.kind.part(self._widget, number)

    def on_screen(self, place: QRectF) -> QRect:
        """A place in the widget in pixels of the screen."""
        return place.toAlignedRect().translated(self._widget.mapToGlobal(QPoint(0, 0)))

    def parent(self) -> QAccessibleInterface | None:  # type: ignore[override]
        above = self._widget.parentWidget()
        return QAccessible.queryAccessibleInterface(above) if above is not None else None

    def role(self) -> QAccessible.Role:
        return self.kind.role

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.focusable = bool(self._widget.focusPolicy().value)
        state.focused = self._widget.hasFocus()
        state.invisible = not self._widget.isVisible()
        return state

    def rect(self) -> QRect:
        return self.on_screen(QRectF(self._widget.rect()))

    def text(self, which: QAccessible.Text) -> str:
        if which == QAccessible.Text.Name:
            return self._widget.accessibleName()
        if which == QAccessible.Text.Value:
            return self.kind.value(self._widget)
        return self._widget.toolTip() if which == QAccessible.Text.Description else ""

    def childCount(self) -> int:
        return self.kind.count(self._widget)

    def child(self, index: int) -> QAccessibleInterface | None:  # type: ignore[override]
        if not 0 <= index < self.childCount():
            return None
        if index not in self._parts:
            self._parts[index] = PartInterface(self, index)
            QAccessible.registerAccessibleInterface(self._parts[index])
        return self._parts[index]

    def childAt(self, x: int, y: int) -> QAccessibleInterface | None:  # type: ignore[override]
        return next((child for i in range(self.childCount())
                     if (child := self.child(i)) is not None and child.rect().contains(x, y)), None)

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return next((i for i, part in self._parts.items() if part is child), -1)


_kept: list[ViewInterface] = []  # Qt holds them, too, but not what Python adds to them


def speak() -> None:
    """Let painted views be told by what is described here. Once is enough."""
    if not _installed:
        QAccessible.installFactory(_interface_of)
        _installed.append(True)


_installed: list[bool] = []


def _interface_of(_: str, widget: QObject) -> ViewInterface | None:
    kind = KINDS.get(type(widget))  # type: ignore[arg-type]
    if kind is None or not isinstance(widget, QWidget):
        return None
    _kept[:] = [each for each in _kept if isValid(each)]
    made = ViewInterface(widget, kind)
    _kept.append(made)
    return made
