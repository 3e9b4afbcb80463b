"""Canvases by keyboard: the version by arrows, and what lies on its canvas moved and resized.

It works while the canvases have the keyboard by Tab; otherwise arrows and Return are the film's.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent

from caracal.core.base.geometry import Region
from caracal.core.base.translation import tr
from caracal.core.layout.amounts import inset_of
from caracal.core.layout.model import EVERYWHERE, Layout
from caracal.core.layout.overlay import presence
from caracal.core.layout.pane_splits import rows_of, split_of
from caracal.ui.canvases.overlay_handles import OverlayHold, dragged_overlay
from caracal.ui.canvases.pane_handles import Grip, Hold, dragged
from caracal.ui.session.navigation import step_version
from caracal.ui.session.overlay_places import place_overlay
from caracal.ui.session.pane_places import place_panes
from caracal.ui.session.session import Session

STEP, FINE = 0.01, 0.002  # of the canvas, and with Shift
GROWTH = 1.05  # a step of size
WAYS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1),
        Qt.Key.Key_Down: (0, 1)}
VERSIONS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
SIZES = {Qt.Key.Key_Plus: GROWTH, Qt.Key.Key_Equal: GROWTH, Qt.Key.Key_Minus: 1 / GROWTH}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
UNIT = QRectF(0, 0, 1, 1)  # keys move by shares: nothing snaps
NONE, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier


@dataclass(frozen=True)
class Movable:
    """Something on a canvas that can be moved: an ``overlay`` by its number, else a pane."""

    name: str
    region: Region
    grip: Grip = Grip.PANE
    overlay: int | None = None


def movables(session: Session, layout: Layout) -> list[Movable]:
    """What can be moved on the canvas of the chosen version at the playhead, the foremost first.

    ``layout`` is the shot's, its panes where they lie.
    """
    overlays = session.project.version(session.letter).overlays
    found = [Movable(overlay.name, overlay.region, overlay=number)
             for number, overlay in reversed(list(enumerate(overlays)))
             if not (overlay.locked or overlay.region == EVERYWHERE)
             and presence(overlay, session.frame) is not None]
    inset, share, rows = inset_of(layout), split_of(layout), rows_of(layout)
    if inset is not None:
        found.append(Movable(tr("pane"), layout.panes[inset].region))
    elif share is not None and rows is not None:
        line = (share, share)
        found.append(Movable(tr("border of two panes"),
                             (line, (0.0, 1.0)) if rows.axis == 0 else ((0.0, 1.0), line),
                             Grip.SPLIT))
    return found


class CanvasCursor:
    """Left and right choose the version; Return selects the next object on its canvas.

    Arrows move what is selected, plus and minus resize it, Escape lets it go.
    """

    def __init__(
        self, session: Session, placed: Callable[[str], Layout], by_keys: Callable[[], bool]
    ) -> None:
        """``placed`` returns the layout of a version in this shot with its panes in place;
        ``by_keys`` whether the canvases were reached by Tab."""
        self._session, self._placed, self._by_keys = session, placed, by_keys
        self._number: int | None = None  # among what can be moved

    @property
    def held(self) -> Movable | None:
        """What is held, as it is now."""
        found = self._movables()
        return None if self._number is None or self._number >= len(found) else found[self._number]

    def _movables(self) -> list[Movable]:
        return movables(self._session, self._placed(self._session.letter))

    def let_go(self) -> None:
        """Hold nothing any more."""
        self._number = None

    def knows(self, event: QKeyEvent) -> bool:
        """Whether a key does something here, now."""
        if not self._by_keys():
            return False
        bare, key = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier, event.key()
        if key in ENTER:
            return bare == NONE
        if self.held is None:
            return key in VERSIONS and bare == NONE
        return (key in WAYS and bare in (NONE, SHIFT)) or (
            key in SIZES and bare in (NONE, SHIFT)) or (key == Qt.Key.Key_Escape and bare == NONE)

    def press(self, event: QKeyEvent) -> None:
        """Do what a key that it knows says."""
        key, held = Qt.Key(event.key()), self.held
        if key in ENTER:
            self.hold_next()
        elif held is None:
            step_version(self._session, VERSIONS[key])
        elif key in WAYS:
            step = FINE if event.modifiers() & SHIFT else STEP
            self._move(held, WAYS[key][0] * step, WAYS[key][1] * step)
        elif key in SIZES:
            self._resize(held, SIZES[key])
        else:
            self.let_go()

    def hold_next(self) -> None:
        """Select the next object that can be moved; say which that is."""
        found = self._movables()
        if not found:
            self._session.said.emit(tr("Nothing on this canvas can be moved."))
            return
        self._number = 0 if self._number is None else (self._number + 1) % len(found)
        self._session.said.emit(tr("Selected: {name}. Arrows move it, + and − resize it, Esc "
                                   "deselects it.", name=found[self._number].name))

    def nudge(self, across: int, down: int) -> None:
        """Move what is selected, or else what is foremost, by a step."""
        if self.held is None:
            self.hold_next()
        held = self.held
        if held is not None:
            self._move(held, across * STEP, down * STEP)

    def _move(self, held: Movable, dx: float, dy: float) -> None:
        self._place(held, held.grip, (0.5, 0.5), (0.5 + dx, 0.5 + dy))

    def _resize(self, held: Movable, factor: float) -> None:
        (left, right), (_, bottom) = held.region
        if held.grip is Grip.SPLIT:
            return
        self._place(held, Grip.CORNER, (right, bottom),
                    ((left + right) / 2 + (right - left) / 2 * factor, bottom))

    def _place(
        self, held: Movable, grip: Grip, start: tuple[float, float], to: tuple[float, float]
    ) -> None:
        session, letter = self._session, self._session.letter
        gesture = ("canvas keys", letter, session.shot, self._number)
        if held.overlay is not None:
            hold = OverlayHold(grip, letter, held.overlay, held.region, start)
            place_overlay(session, letter, held.overlay,
                          dragged_overlay(hold, to, UNIT, None, free=True)[0], gesture)
            return
        layout = self._placed(letter)
        if grip is Grip.SPLIT:  # a border goes to the place itself, not by a distance
            (across, _), (down, _) = held.region
            to = (across + to[0] - start[0], down + to[1] - start[1])
        place_panes(session, dragged(Hold(grip, letter, layout, start), to, UNIT, None,
                                     free=True).layout, gesture)
