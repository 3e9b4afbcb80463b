"""The master's picture: the chosen version's crop lit, subjects outlined, other crops thin."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from caracal.core.base.geometry import Box, keep_inside
from caracal.core.base.translation import tr
from caracal.core.framing.choice import Keyframe
from caracal.core.framing.lead import Subject
from caracal.core.project.edits import MOST_ZOOM
from caracal.core.project.keyframe_edits import with_keyframe, with_zoom
from caracal.ui.aim.crosshair import Crosshair
from caracal.ui.aim.subject_marks import paint_corners, paint_part, subjects_seen
from caracal.ui.session.lead_edits import Part, set_part
from caracal.ui.session.reach import EditKind, Scope
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import (
    around,
    leaning,
    letter_badge,
    paint_picture,
    paint_plate,
    scaled,
    upright_outline,
)

DRAG_PIXELS = 6  # a press that moves less is a click
ZOOM_STEP = 1.06
DARK = QColor(12, 12, 12, 150)  # over what the window leaves out
LEAST_DRAWN = 10  # pixels on screen: a smaller box was a click


class Stage(QWidget):
    """Click a subject to make it lead; drag the window to set a keyframe; wheel to zoom it."""

    box_drawn = Signal(object)  # a box in master pixels, or None when it was too small
    punched = Signal(object, object)  # where: a point in master pixels, and a box or None
    swapped = Signal(int)  # a subject that the window keeps from here on

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName(tr("Master with the crops of all versions"))
        self.session = session
        self._press: QPointF | None = None
        self._dragged: Box | None = None
        self._over: int | None = None
        self._badges: list[QRectF] = []  # of the windows painted so far
        self._frame: QRectF | None = None  # the box that is being drawn
        self.drawing = False  # the next drag draws a box round something to follow
        self.punching = False  # the next click or drag says where to punch in
        self._cross: Crosshair | None = None  # the same by keys
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setMouseTracking(True)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # it covers all of itself
        self.setMinimumSize(360, 198)
        self.setToolTip(tr("Click a subject to make it lead; with Ctrl, from this frame on. Drag "
                           "the lit crop to set a keyframe. Turn the wheel to zoom the crop; with "
                           "Ctrl from this frame on. Shift-click to punch in, and again to come "
                           "back."))
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.update)
        session.cursor.frame_changed.connect(lambda _: self.update())
        self._waits = False  # for a picture that another stands for
        session.preview.arrived.connect(
            lambda at: self.update() if at == session.frame or (
                self._waits and not session.speed) else None)

    def picture(self) -> QRectF:
        """Where the master's picture lies in this widget."""
        master = self.session.analysis.master
        scale = min(self.width() / master.width, self.height() / master.height)
        wide, high = (2 * int(side * scale / 2) for side in (master.width, master.height))
        return QRectF((self.width() - wide) // 2, (self.height() - high) // 2, wide, high)

    def place_of(self, box: Box) -> QRectF:
        """A box in master pixels as a rectangle of this widget."""
        area = self.picture()
        return scaled(box, area.width() / self.session.analysis.master.width).translated(
            area.topLeft())

    def _master_point(self, point: QPointF) -> QPointF:
        area = self.picture()
        return (point - area.topLeft()) * (self.session.analysis.master.width / area.width())

    def _subject_at(self, point: QPointF) -> Subject | None:
        """The smallest subject under a point of the widget."""
        inside = []
        for subject in self.session.people.subjects(self.session.shot):
            box = subject.box_at(self.session.frame)
            if box is not None and self.place_of(box).contains(point):
                inside.append((box[2] * box[3], subject.id, subject))
        return min(inside, key=lambda item: item[:2])[2] if inside else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        found = self._subject_at(event.position())
        self._over = found.id if found is not None else None
        if self._press is not None and event.buttons() & Qt.MouseButton.LeftButton:
            moved = event.position() - self._press
            if self.drawing or self.punching:
                self._frame = QRectF(self._press, event.position()).normalized()
                self.update()
                return
            if self._dragged or moved.manhattanLength() > DRAG_PIXELS:
                self._drag_to(moved)
        self.update()

    def _drag_to(self, moved: QPointF) -> None:
        factor = self.session.analysis.master.width / self.picture().width()
        x, y, w, h = self.session.pane.window
        self._dragged = keep_inside(x + moved.x() * factor, y + moved.y() * factor, (w, h),
                                    self.session.analysis.active)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        session, dragged = self.session, self._dragged
        self._press, self._dragged = None, None
        if self.drawing:
            self._drawn()
            return
        if self.punching or (dragged is None
                             and event.modifiers() & Qt.KeyboardModifier.ShiftModifier):
            self._punched(event.position())
            return
        if dragged is not None:
            x, y, w, h = dragged
            key = Keyframe(session.frame, (round(x + w / 2, 2), round(y + h / 2, 2)))
            role = session.pane.role
            session.editing.edit(
                EditKind.CROP, tr("set keyframe"),
                lambda project, letter, shot: with_keyframe(project, letter, shot, key, role),
                scope=Scope.ONE_SHOT)
            return
        found = self._subject_at(event.position())
        if found is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.swapped.emit(found.id)
        elif found is not None:
            set_part(session, Part.LEAD, found.id)

    def set_drawing(self, on: bool) -> None:
        """Whether the next drag draws a box instead of moving the window."""
        self.drawing, self.punching, self._frame = on, False, None
        self._place(on, boxes=True)

    def set_punching(self, on: bool) -> None:
        """Whether the next click or drag says where to punch in."""
        self.drawing, self.punching, self._frame = False, on, None
        self._place(on, boxes=False)

    def _place(self, on: bool, boxes: bool) -> None:
        """Let a place be chosen, by the pointer or by keys, or no more."""
        self.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        middle = self.place_of(self.session.pane.window).center()
        self._cross = Crosshair(self.picture(), middle, boxes) if on else None
        if on:
            self.setFocus()
        self.update()

    def _drawn(self) -> None:
        box = self._drawn_box()
        self.set_drawing(False)
        self.update()
        self.box_drawn.emit(box)

    def _drawn_box(self) -> Box | None:
        """What was drawn, in master pixels; None when it was a click."""
        frame = self._frame.intersected(self.picture()) if self._frame is not None else QRectF()
        if min(frame.width(), frame.height()) < LEAST_DRAWN:
            return None
        corner = self._master_point(frame.topLeft())
        factor = self.session.analysis.master.width / self.picture().width()
        return (corner.x(), corner.y(), frame.width() * factor, frame.height() * factor)

    def _punched(self, point: QPointF) -> None:
        box, at = self._drawn_box(), self._master_point(point)
        self.set_punching(False)
        self.update()
        self.punched.emit((at.x(), at.y()), box)

    def wheelEvent(self, event: QWheelEvent) -> None:
        session = self.session
        zoom = session.pane.framing.zoom or session.pane.zoom
        factor = ZOOM_STEP if event.angleDelta().y() > 0 else 1 / ZOOM_STEP
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._zoom_here(factor)
            return
        zoom *= factor
        role = session.pane.role
        session.editing.edit(
            EditKind.CROP, tr("zoom {zoom:.2f} ×", zoom=zoom),
            lambda project, letter, shot: with_zoom(project, letter, shot, zoom, role),
            ("wheel", session.letter, session.shot, role))

    def _zoom_here(self, factor: float) -> None:
        """A keyframe whose zoom holds from here, until another says otherwise."""
        session = self.session
        key, role = session.pane.key, session.pane.role
        zoom = round(min(max((key.zoom or session.pane.zoom) * factor, 1.0), MOST_ZOOM), 3)
        zoomed = msgspec.structs.replace(key, zoom=zoom)
        session.editing.edit(
            EditKind.CROP, tr("zoom keyframe"),
            lambda project, letter, shot: with_keyframe(project, letter, shot, zoomed, role),
            ("wheel here", session.letter, session.frame, role), scope=Scope.ONE_SHOT)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            session, area = self.session, self.picture()
            for edge in around(QRectF(self.rect()), area):
                p.fillRect(edge, QColor(theme.GROUND))
            self._waits = not paint_picture(p, session, "", session.frame, area)
            lit = self._outline(session.letter, self._dragged)
            panes = [QPolygonF(self.place_of(window))
                     for window in self._other_panes(session.letter)]
            self._dim(p, area, [lit, *panes])
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            marked = subjects_seen(session, self.place_of, self._over)
            for subject in marked:
                paint_corners(p, session, *subject)
            self._badges.clear()
            for i, version in enumerate(session.project.versions):
                self._window(p, i, version.letter, lit)
            for subject in marked:
                paint_part(p, session, *subject, area)
            if session.pane.entered:
                paint_plate(p, area, tr("Crop of the {role}. Esc: back to the first pane",
                                        role=tr(session.pane.role)))
            if self._frame is not None:
                p.setPen(QPen(QColor(theme.ACCENT), 2, Qt.PenStyle.DashLine))
                p.setBrush(QColor(208, 138, 60, 40))
                p.drawRect(self._frame)
            if self._cross is not None and self.hasFocus():
                self._cross.paint(p)

    def _outline(self, letter: str, dragged: Box | None = None) -> QPolygonF:
        """The corners of a version's window, leaning where the picture is straightened.

        It is all of the picture where the version shows that.
        """
        session = self.session
        if not session.project.choice(letter, session.shot).layout.cropped:
            return QPolygonF(self.place_of(session.analysis.active).adjusted(1, 1, -1, -1))
        window = dragged or (session.pane.window if letter == session.letter
                             else session.window(letter, session.frame))
        degrees = session.path(letter, session.shot).finish.straighten
        return leaning(self.place_of(window).adjusted(1, 1, -1, -1), degrees)

    def _other_panes(self, letter: str) -> list[Box]:
        """The windows of a layout's panes beside the one that is worked on, or the first."""
        session = self.session
        panes = session.solution(letter, session.shot).panes
        mine = session.pane.path if letter == session.letter else panes[0]
        return [path.window(session.frame) for path in panes if path is not mine]

    @staticmethod
    def _dim(p: QPainter, area: QRectF, lit: list[QPolygonF]) -> None:
        upright = lit[0].boundingRect()
        if len(lit) == 1 and lit[0].containsPoint(upright.topLeft(), Qt.FillRule.OddEvenFill):
            for edge in around(area, upright.intersected(area)):  # paths take five times as long
                p.fillRect(edge, DARK)
            return
        outside, inside = QPainterPath(), QPainterPath()
        outside.addRect(area)
        for polygon in lit:
            shape = QPainterPath()
            shape.addPolygon(polygon.intersected(QPolygonF(area)))
            shape.closeSubpath()
            inside = inside.united(shape)
        p.fillPath(outside.subtracted(inside), DARK)

    def own_keys(self, event: QKeyEvent) -> bool:
        """While something is placed, arrows and Return place it."""
        return self._cross is not None and self._cross.knows(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        cross = self._cross
        if cross is None or not cross.knows(event):
            super().keyPressEvent(event)
            return
        over = cross.press(event)
        self._frame = cross.box
        self.update()
        if over and self.drawing:
            self._drawn()
        elif over:
            self._punched(cross.at)

    def _window(self, p: QPainter, index: int, letter: str, lit: QPolygonF) -> None:
        chosen = letter == self.session.letter
        outline = lit if chosen else self._outline(letter)
        rect, width = outline.boundingRect(), 3 if chosen else 2
        if self.session.path(letter, self.session.shot).finish.straighten:
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(theme.version_pen(index, width - 0.6))
            p.drawPolygon(outline)
        else:
            upright_outline(p, rect, index, width)
            for window in self._other_panes(letter) if chosen else ():
                upright_outline(p, self.place_of(window).adjusted(1, 1, -1, -1), index, width)
        badge = QRectF(rect.right() - 24, rect.bottom() - 22 - 21 * index, 20, 18)
        while any(badge.intersects(rect) for rect in self._badges):
            badge.translate(-22, 0)
        self._badges.append(badge)
        letter_badge(p, badge.left(), badge.top(), letter, index)
