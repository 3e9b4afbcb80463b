"""The path strip: time across, window position up; why the window moves as it does."""

from __future__ import annotations

from itertools import pairwise

import msgspec
import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QSizePolicy

from caracal.core.base.identity import Same
from caracal.core.base.translation import tr
from caracal.core.framing.choice import Interpolation, Keyframe
from caracal.core.framing.path import ShotPath
from caracal.core.framing.why import Alternative
from caracal.core.layout.kinds import name_of
from caracal.core.project.keyframe_edits import moved_keyframe
from caracal.core.project.model import Project
from caracal.ui.aim.keyframe_cursor import KeyframeCursor
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.cached_painting import Layer
from caracal.ui.widgets.keyed import KeyedWidget

LEFT, RIGHT, TOP, BOTTOM = 12, 12, 26, 14
BAND = QColor(208, 138, 60, 90)
LEAST_HIGH, MOST_HIGH = 86, 134  # pixels
REACH = 9  # pixels: so near a keyframe is taken hold of


class PathStrip(KeyedWidget):
    """The shot's path: the lead's extent as a band, the window's edges as lines, keyframes."""

    key_cursor: KeyframeCursor

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName(tr("Path of the crop over the shot"))
        self.session = session
        self._held: Keyframe | None = None  # as it was when it was taken hold of
        self._base: Project | None = None
        self._press = 0  # which press this is: each drag is a step of its own
        self._ground = Layer(self)
        self.chosen: int | None = None  # frame of the keyframe that keys are for
        self.key_cursor = KeyframeCursor(self, session)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        self.setMinimumHeight(LEAST_HIGH)
        self.setMaximumHeight(MOST_HIGH)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(tr("Click or drag to go. Double-click to set a keyframe; drag a diamond to "
                           "move it in time and place; right-click: eased, straight or hold; "
                           "Delete removes it. By keys: Page up and down choose one, arrows move "
                           "it, Space changes its way on, Return sets one at the playhead."))
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.update)
        session.cursor.frame_changed.connect(lambda _: self.update())

    def sizeHint(self) -> QSize:
        return QSize(0, MOST_HIGH)

    @property
    def path(self) -> ShotPath:
        """The path that is shown."""
        return self.session.pane.path

    @property
    def keys(self) -> tuple[Keyframe, ...]:
        """Its keyframes, in order."""
        return self.session.pane.framing.keyframes

    def choose(self, frame: int) -> None:
        """Choose the keyframe at ``frame``, and go there."""
        self.chosen = frame
        self.session.go(frame)
        self.update()

    def _x(self, frame: float) -> float:
        path = self.path
        room = self.width() - LEFT - RIGHT
        return LEFT + (frame - path.start) / max(1, len(path.windows) - 1) * room

    def _frame(self, x: float) -> int:
        path = self.path
        share = (x - LEFT) / (self.width() - LEFT - RIGHT)
        return min(max(path.start + round(share * (len(path.windows) - 1)), path.start),
                   path.end - 1)

    def _y(self, place: float) -> float:
        """Left of the picture is up, so that the strip reads like the picture turned upright."""
        path, active = self.path, self.session.analysis.active
        share = (place - active[path.axis]) / active[path.axis + 2]
        return TOP + share * (self.height() - TOP - BOTTOM)

    def _place(self, y: float) -> float:
        path, active = self.path, self.session.analysis.active
        share = (y - TOP) / (self.height() - TOP - BOTTOM)
        return active[path.axis] + min(max(share, 0.0), 1.0) * active[path.axis + 2]

    def point_of(self, key: Keyframe) -> QPointF:
        """Where a keyframe's diamond is."""
        return QPointF(self._x(key.frame), self._y(key.centre[self.path.axis]))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.by_keys = False
        if event.button() == Qt.MouseButton.RightButton:
            self._next_way(event.position())
            return
        near = [key for key in self.keys
                if (self.point_of(key) - event.position()).manhattanLength() <= REACH]
        self._held = near[0] if near else None
        self._base = self.session.project if near else None
        self.chosen = near[0].frame if near else None
        if near:
            self.session.go(near[0].frame)
        else:
            self.session.go(self._frame(event.position().x()))
        self.update()

    def _next_way(self, point: QPointF) -> None:
        """The keyframe under ``point`` goes on to the next in another way."""
        for key in self.keys:
            if (self.point_of(key) - point).manhattanLength() <= REACH:
                self.key_cursor.go_on(key)
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not event.buttons() & Qt.MouseButton.LeftButton:
            return
        if self._held is None:
            self.session.go(self._frame(event.position().x()))
            return
        session, axis = self.session, self.path.axis
        centre = list(self._held.centre)
        centre[axis] = round(self._place(event.position().y()), 1)
        moved = msgspec.structs.replace(self._held, frame=self._frame(event.position().x()),
                                        centre=(centre[0], centre[1]))
        # From where it was when it was taken hold of: what it passes on its way stays.
        before, role = self._held.frame, session.pane.role
        session.editing.edit(
            EditKind.CROP, tr("move keyframe"),
            lambda project, letter, shot: moved_keyframe(project, letter, shot, before, moved,
                                                         role),
            ("keyframe", self._press), Scope.ONE_SHOT, self._base or session.project)
        self.chosen = next((key.frame for key in self.keys if key.centre == moved.centre),
                            moved.frame)
        session.go(self.chosen)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._held = self._base = None
        self._press += 1
        self.session.editing.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.key_cursor.set_here(self._frame(event.position().x()))

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            session, path = self.session, self.path
            others = session.alternatives(session.letter, session.shot)
            layout = session.project.choice(session.letter, session.shot).layout
            key = (session.letter, Same(path), Same(others), self.keys, self.chosen, layout)
            self._ground.paint(p, key, lambda inside: self._draw(inside, path, others))
            p.setPen(QPen(QColor(theme.ACCENT), 2))
            x = self._x(session.frame)
            p.drawLine(QPointF(x, TOP - 6), QPointF(x, self.height() - BOTTOM + 6))
            if self.hasFocus():
                p.setPen(QPen(QColor(theme.WORDS), 2))
                p.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _draw(self, p: QPainter, path: ShotPath, others: tuple[Alternative, ...]) -> None:
        """All but the playhead."""
        p.fillRect(self.rect(), QColor(theme.PANEL))
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        fence = QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - BOTTOM)
        p.fillRect(fence, QColor("#1f1f1f"))
        p.setPen(QPen(QColor("#555555"), 1))
        p.drawRect(fence)
        self._band(p, path)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(QColor(150, 150, 150, 70), 1))
        for other in others:
            if other.path.axis == path.axis:
                self._edges(p, other.path)
        p.setPen(theme.version_pen(self._index(), 2.0))
        self._edges(p, path)
        self._keyframes(p)
        self._legend(p, path, bool(others))

    def _index(self) -> int:
        return [version.letter for version in self.session.project.versions].index(
            self.session.letter
        )

    def _line(self, path: ShotPath, values: np.ndarray, frames: np.ndarray) -> list[QPointF]:
        """Points of ``values`` (places in the master) at ``frames`` counted from the first."""
        active = self.session.analysis.active
        across = LEFT + frames / max(1, len(path.windows) - 1) * (self.width() - LEFT - RIGHT)
        share = (values - active[path.axis]) / active[path.axis + 2]
        down = TOP + share * (self.height() - TOP - BOTTOM)
        return [QPointF(x, y) for x, y in zip(across.tolist(), down.tolist(), strict=True)]

    def _band(self, p: QPainter, path: ShotPath) -> None:
        if path.across is None:
            return
        extent = path.across.extent
        seen = np.nonzero(~np.isnan(extent[:, 0]))[0][:: self._step(path)]
        if len(seen) == 0:
            return
        lower = self._line(path, extent[seen, 1], seen)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(BAND)
        p.drawPolygon(QPolygonF([*self._line(path, extent[seen, 0], seen), *reversed(lower)]))

    def _step(self, path: ShotPath) -> int:
        """Frames a drawn point: no finer than the screen."""
        return max(1, len(path.windows) // max(1, self.width()))

    def _edges(self, p: QPainter, path: ShotPath) -> None:
        """Both edges of the window; broken where it jumps."""
        near = path.windows[:, path.axis]
        ends = [0, *(at - path.start for at in path.jumps), len(near)]
        for edge in (near, near + path.windows[:, path.axis + 2]):
            for first, end in pairwise(ends):
                shown = np.unique(np.append(np.arange(first, end, self._step(path)), end - 1))
                p.drawPolyline(QPolygonF(self._line(path, edge[shown], shown)))

    def _keyframes(self, p: QPainter) -> None:
        for key in self.keys:
            p.setPen(QPen(QColor(theme.GROUND), 1))
            p.setBrush(QColor(theme.ACCENT if key.frame == self.chosen else theme.WORDS))
            p.drawPolygon(_handle(self.point_of(key), key.interpolation))

    def _legend(self, p: QPainter, path: ShotPath, others: bool) -> None:
        """What is drawn, above the fence; which side of the picture is up, inside it."""
        session = self.session
        layout = session.project.choice(session.letter, session.shot).layout
        how = (tr(path.manner) if layout.cropped
               else tr("not used ({kind})", kind=name_of(layout)))
        x = self._word(p, LEFT, tr("Path of {letter}: {how}", letter=session.letter, how=how),
                       theme.WORDS) + 24
        p.setPen(theme.version_pen(self._index(), 2.0))
        p.drawLine(QPointF(x, 10), QPointF(x + 22, 10))
        p.drawLine(QPointF(x, 16), QPointF(x + 22, 16))
        x = self._word(p, x + 30, tr("edges of the crop"), theme.QUIET) + 24
        if path.lead is not None:
            p.fillRect(QRectF(x, 7, 22, 12), BAND)
            x = self._word(p, x + 30, tr("the lead"), theme.QUIET) + 24
        if others:
            p.setPen(QPen(QColor(150, 150, 150, 110), 1))
            p.drawLine(QPointF(x, 13), QPointF(x + 22, 13))
            x = self._word(p, x + 30, tr("rejected"), theme.QUIET) + 24
        if self.keys:
            p.setPen(QPen(QColor(theme.GROUND), 1))
            p.setBrush(QColor(theme.WORDS))
            p.drawPolygon(_diamond(QPointF(x + 7, 13)))
            self._word(p, x + 20, tr("your keyframes"), theme.QUIET)
        sides = (tr("left side of the picture"), tr("right side")) if path.axis == 0 else (
            tr("top of the picture"), tr("bottom"))
        for text, y in zip(sides, (TOP + 2, self.height() - BOTTOM - 18), strict=True):
            self._word(p, LEFT + 6, text, "#7c7c7c", y)

    @staticmethod
    def _word(p: QPainter, x: float, text: str, tint: str, y: float = 4) -> float:
        """Write ``text`` at ``x``; the place where it ends."""
        p.setFont(theme.ui_font(12))
        p.setPen(QColor(tint))
        wide = p.fontMetrics().horizontalAdvance(text)
        p.drawText(QRectF(x, y, wide + 4, theme.scaled(18)), Qt.AlignmentFlag.AlignVCenter, text)
        return x + wide


def _handle(at: QPointF, way: Interpolation) -> QPolygonF:
    """A diamond for eased, a triangle for straight, a square for hold."""
    if way is Interpolation.EASED:
        return _diamond(at)
    if way is Interpolation.STRAIGHT:
        return QPolygonF([at + QPointF(-6, -7), at + QPointF(7, 0), at + QPointF(-6, 7)])
    return QPolygonF([at + QPointF(-6, -6), at + QPointF(6, -6), at + QPointF(6, 6),
                      at + QPointF(-6, 6)])


def _diamond(at: QPointF) -> QPolygonF:
    return QPolygonF([at + QPointF(0, -7), at + QPointF(7, 0), at + QPointF(0, 7),
                      at + QPointF(-7, 0)])
