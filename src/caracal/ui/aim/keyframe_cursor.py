"""Keyframes of the path strip by keys: choosing one, moving it in time and place, its way on."""

from __future__ import annotations

from typing import Protocol

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from caracal.core.base.translation import tr
from caracal.core.framing.choice import Interpolation, Keyframe
from caracal.core.framing.path import ShotPath
from caracal.core.framing.window_at import key_at
from caracal.core.project.keyframe_edits import moved_keyframe, with_keyframe, without_keyframe
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session

PIXELS, FINE = 8.0, 1.0  # of the master, and with Shift
FRAMES, MANY = 1, 10  # in time, and with Shift
TIMES = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
PLACES = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
NEXT = {Qt.Key.Key_PageUp: -1, Qt.Key.Key_PageDown: 1}
REMOVES = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)
SETS = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
SHIFT, NONE = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.NoModifier


class KeyframeStrip(Protocol):
    """What shows keyframes, of which one may be chosen."""

    chosen: int | None  # its frame
    by_keys: bool  # whether it is worked on by keys: after a click arrows stay the film's

    @property
    def path(self) -> ShotPath:
        """The path that they belong to."""
        ...

    @property
    def keys(self) -> tuple[Keyframe, ...]:
        """The keyframes, in order."""
        ...


class KeyframeCursor:
    """Page keys choose a keyframe, arrows move it, Space changes its way on, Delete removes it.

    Return sets one at the playhead; Escape lets the chosen one go, and arrows are the film's again.
    """

    def __init__(self, strip: KeyframeStrip, session: Session) -> None:
        self._strip, self._session = strip, session

    def knows(self, event: QKeyEvent) -> bool:
        """Whether a key does something here, now."""
        bare = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        key = event.key()
        if key in NEXT or (key in SETS and self._strip.by_keys):
            return bare == NONE
        if self._at() is None:
            return False
        if key in REMOVES:
            return bare == NONE
        moves = key in TIMES or key in PLACES
        return self._strip.by_keys and ((moves and bare in (NONE, SHIFT)) or (
            bare == NONE and key in (Qt.Key.Key_Space, Qt.Key.Key_Escape)))

    def press(self, event: QKeyEvent) -> None:
        """Do what a key that it knows says."""
        key, fine = event.key(), bool(event.modifiers() & SHIFT)
        at = self._at()
        if key in NEXT:
            self._strip.by_keys = True
            self._choose(NEXT[Qt.Key(key)])
        elif key in SETS:
            self.set_here(self._session.frame)
        elif at is None:
            return
        elif key in REMOVES:
            self._remove(at)
        elif key == Qt.Key.Key_Space:
            self.go_on(at)
        elif key == Qt.Key.Key_Escape:
            self._strip.chosen = None
        else:
            step = FINE if fine else PIXELS
            self._move(at, TIMES.get(Qt.Key(key), 0) * (MANY if fine else FRAMES),
                       PLACES.get(Qt.Key(key), 0) * step)

    def _at(self) -> Keyframe | None:
        """The chosen keyframe, if it is still there."""
        return next((key for key in self._strip.keys if key.frame == self._strip.chosen), None)

    def _choose(self, way: int) -> None:
        """The next keyframe after the playhead, or the one before."""
        frames = [key.frame for key in self._strip.keys]
        here = self._session.frame if self._strip.chosen is None else self._strip.chosen
        near = [frame for frame in frames if (frame - here) * way > 0]
        if not near and self._strip.chosen is None:
            near = [frame for frame in frames if frame == here]
        if near:
            self._strip.chosen = min(near, key=lambda frame: abs(frame - here))
            self._session.go(self._strip.chosen)
        else:
            self._session.said.emit(tr("There is no other keyframe on this side."))

    def set_here(self, frame: int) -> None:
        """Set a keyframe where the window is at ``frame``, and choose it."""
        session = self._session
        if all(key.frame != frame for key in self._strip.keys):
            key, role = key_at(self._strip.path, frame), session.pane.role
            session.editing.edit(
                EditKind.CROP, tr("set keyframe"),
                lambda project, letter, shot: with_keyframe(project, letter, shot, key, role),
                scope=Scope.ONE_SHOT)
        self._strip.chosen = frame

    def go_on(self, key: Keyframe) -> None:
        """Let ``key`` go on to the next in another way."""
        ways = list(Interpolation)
        way = ways[(ways.index(key.interpolation) + 1) % len(ways)]
        self._changed(key, msgspec.structs.replace(key, interpolation=way),
                      tr("keyframe: {way} to the next one", way=tr(way)))

    def nudge(self, frames: int, places: int) -> None:
        """Move the chosen keyframe by frames in time, or by steps across the picture."""
        at = self._at()
        if at is None:
            self._session.said.emit(tr("No keyframe is chosen."))
        else:
            self._move(at, frames, places * PIXELS)

    def remove(self) -> None:
        """Remove the chosen keyframe."""
        at = self._at()
        if at is not None:
            self._remove(at)

    def _move(self, key: Keyframe, frames: int, pixels: float) -> None:
        """Move ``key`` by ``frames`` in time, or by ``pixels`` of the master."""
        session, path = self._session, self._strip.path
        if frames:
            frame = min(max(key.frame + frames, path.start), path.end - 1)
            if frame != key.frame and any(other.frame == frame for other in self._strip.keys):
                session.said.emit(tr("Another keyframe is there."))
                return
            moved = msgspec.structs.replace(key, frame=frame)
        else:
            centre = list(key.centre)
            centre[path.axis] += pixels
            moved = msgspec.structs.replace(key, centre=(round(centre[0], 1), round(centre[1], 1)))
        self._changed(key, moved, tr("move keyframe"))
        self._strip.chosen = moved.frame
        session.go(moved.frame)

    def _changed(self, key: Keyframe, moved: Keyframe, what: str) -> None:
        session, frame, role = self._session, key.frame, self._session.pane.role
        session.editing.edit(
            EditKind.CROP, what,
            lambda project, letter, shot: moved_keyframe(project, letter, shot, frame, moved, role),
            ("keyframe keys", session.letter), Scope.ONE_SHOT)

    def _remove(self, key: Keyframe) -> None:
        session, frame, role = self._session, key.frame, self._session.pane.role
        session.editing.edit(
            EditKind.CROP, tr("remove keyframe"),
            lambda project, letter, shot: without_keyframe(project, letter, shot, frame, role),
            scope=Scope.ONE_SHOT)
