"""What painted views tell those who cannot see them: their parts, with places, roles and states.

Qt asks for it only where assistive technology runs. A view that is painted as one widget has
children here that no widget is: cells, shots, canvases, subjects, keyframes, zones.
"""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QObject, QPoint, QRect, QRectF
from PySide6.QtGui import QAccessible, QAccessibleInterface, QAccessibleObject
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.session.navigation import step_shot
from caracal.ui.session.view import Action, Amount, Part, Parts
from caracal.ui.sheets.drawing import Drawing, zones_in
from caracal.ui.shell.accessible_actions import Actions, Value, press_action
from caracal.ui.shell.views import VIEWS
from caracal.ui.widgets.film_line import FilmLine
from caracal.ui.widgets.zones import rect_of

ROLE = QAccessible.Role


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


def _zone(drawing: Drawing, number: int) -> Part:
    assert drawing.sheet is not None
    place, zone = zones_in(drawing.sheet)[number]
    return Part(tr("{what}: {left:.1%} from the left, {top:.1%} from above, {width:.1%} wide, "
                   "{height:.1%} high", what=tr(zone.what), left=zone.left, top=zone.top,
                   width=zone.width, height=zone.height), rect_of(zone, drawing.canvas()),
                place == drawing.chosen)


def _playhead(line: FilmLine) -> str:
    return timecode(line.session.frame, line.session.analysis.master.rate)


def _go_to_shot(line: FilmLine, number: int) -> None:
    line.session.go(line.session.analysis.shots[number].start)


def _choose_canvas(canvases: Canvases, number: int) -> None:
    canvases.session.choose_version(canvases.session.project.versions[number].letter)


NUDGES = ((tr("Move left"), (-1, 0)), (tr("Move right"), (1, 0)), (tr("Move up"), (0, -1)),
          (tr("Move down"), (0, 1)))
PARTS: dict[type[QWidget], Parts] = {  # of widgets that several views show, and of each view
    FilmLine: Parts(
        ROLE.Slider, ROLE.ListItem, lambda line: len(line.session.analysis.shots), _shot, _playhead,
        _go_to_shot,
        (Action(tr("Previous shot"), lambda line: step_shot(line.session, -1), "Up"),
         Action(tr("Next shot"), lambda line: step_shot(line.session, 1), "Down")),
        Amount(lambda line: line.session.frame,
               lambda line: line.session.analysis.known_to - 1,
               lambda line, frame: line.session.go(frame))),
    Canvases: Parts(
        ROLE.List, ROLE.Graphic, lambda view: len(view.session.project.versions), _canvas,
        press=_choose_canvas,
        actions=(Action(tr("Select next object"), lambda view: view.key_cursor.hold_next(),
                        "Return"),
                 *(Action(name, lambda view, way=way: view.key_cursor.nudge(*way))
                   for name, way in NUDGES))),
    Drawing: Parts(ROLE.Graphic, ROLE.ListItem,
                   lambda drawing: len(zones_in(drawing.sheet)) if drawing.sheet else 0, _zone),
    **{kind: parts for view in VIEWS for kind, parts in view.parts.items()},
}


class PartInterface(QAccessibleInterface):
    """One part of a painted view."""

    def __init__(self, view: ViewInterface, number: int) -> None:
        super().__init__()
        self._view, self._number = view, number
        press = view.kind.press
        self._actions = None if press is None else Actions(
            view.widget, [press_action(press, number)])

    def _part(self) -> Part | None:
        """The part as it is now; None: it is gone."""
        return self._view.part(self._number) if isValid(self._view) else None

    def interface_cast(  # type: ignore[override]
        self, kind: QAccessible.InterfaceType
    ) -> object:  # the binding takes objects, its stub says int
        if kind == QAccessible.InterfaceType.ActionInterface:
            return self._actions
        return None

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

    def __init__(self, widget: QWidget, kind: Parts) -> None:
        super().__init__(widget)
        self.widget, self.kind = widget, kind
        self._parts: dict[int, PartInterface] = {}
        self._actions = Actions(widget, kind.actions) if kind.actions else None
        self._value = None if kind.amount is None else Value(widget, kind.amount)

    def interface_cast(  # type: ignore[override]
        self, kind: QAccessible.InterfaceType
    ) -> object:  # the binding takes objects, its stub says int
        if kind == QAccessible.InterfaceType.ActionInterface:
            return self._actions
        if kind == QAccessible.InterfaceType.ValueInterface:
            return self._value
        return None

    def part(self, number: int) -> Part | None:
        """The part called ``number``, as it is now; None: there is none."""
        if not self.isValid() or not 0 <= number < self.kind.count(self.widget):
            return None
        return self.kind.part(self.widget, number)

    def on_screen(self, place: QRectF) -> QRect:
        """A place in the widget in pixels of the screen."""
        return place.toAlignedRect().translated(self.widget.mapToGlobal(QPoint(0, 0)))

    def parent(self) -> QAccessibleInterface | None:  # type: ignore[override]
        above = self.widget.parentWidget()
        return QAccessible.queryAccessibleInterface(above) if above is not None else None

    def role(self) -> QAccessible.Role:
        return self.kind.role

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.focusable = bool(self.widget.focusPolicy().value)
        state.focused = self.widget.hasFocus()
        state.invisible = not self.widget.isVisible()
        return state

    def rect(self) -> QRect:
        return self.on_screen(QRectF(self.widget.rect()))

    def text(self, which: QAccessible.Text) -> str:
        if which == QAccessible.Text.Name:
            return self.widget.accessibleName()
        if which == QAccessible.Text.Value:
            return self.kind.value(self.widget)
        return self.widget.toolTip() if which == QAccessible.Text.Description else ""

    def childCount(self) -> int:
        return self.kind.count(self.widget)

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


def install_accessibility() -> None:
    """Let painted views be told by what is described here. Once is enough."""
    if not _installed:
        QAccessible.installFactory(_interface_of)
        _installed.append(True)


_installed: list[bool] = []


def _interface_of(_: str, widget: QObject) -> ViewInterface | None:
    kind = PARTS.get(type(widget))  # type: ignore[arg-type]
    if kind is None or not isinstance(widget, QWidget):
        return None
    _kept[:] = [each for each in _kept if isValid(each)]
    made = ViewInterface(widget, kind)
    _kept.append(made)
    return made
