"""The version canvases side by side in true proportion, in step with the playhead."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PySide6.QtWidgets import QSizePolicy

from caracal.core.base.geometry import Region
from caracal.core.base.translation import tr
from caracal.core.layout.model import EVERYWHERE, Layout
from caracal.core.layout.overlay import presence
from caracal.core.layout.pane_contents import as_chosen
from caracal.core.project.model import Project, Version
from caracal.ui.canvases.canvas_cursor import CanvasCursor
from caracal.ui.canvases.overlay_handles import OverlayHold, dragged_overlay, overlay_at
from caracal.ui.canvases.pane_handles import (
    Grip,
    Hold,
    dragged,
    grip_at,
    role_at,
    share_of,
    side_at,
)
from caracal.ui.session.overlay_places import place_overlay
from caracal.ui.session.pane_places import place_panes
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.keyed import KeyedWidget
from caracal.ui.widgets.picture_paint import letter_badge, paint_picture
from caracal.ui.widgets.zones import paint_zones

HEAD = 30
GAP = 16
CURSORS = {None: Qt.CursorShape.ArrowCursor, Grip.PANE: Qt.CursorShape.SizeAllCursor,
           Grip.CORNER: Qt.CursorShape.SizeFDiagCursor,
           Grip.SIDE: Qt.CursorShape.SizeAllCursor, Grip.SPLIT: Qt.CursorShape.SplitVCursor}


class Canvases(KeyedWidget):
    """Click a canvas to work on that version; drag a pane or an overlay in it, its corner, or where
    two panes meet."""

    picked = Signal(int)  # the number of an overlay of the chosen version
    key_cursor: CanvasCursor

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setAccessibleName(tr("Canvases of all versions"))
        self.session = session
        self.setMinimumWidth(360)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # it covers all of itself
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setToolTip(tr("Click a canvas to work on that version. Drag an overlay or a pane, its "
                           "corner, or the border between two panes; with Alt without snapping. "
                           "Double-click a pane to set its own crop. With Ctrl, drag a side of a "
                           "whole picture to cut it off. By keys: arrows choose a version, Return "
                           "selects the next object on its canvas."))
        self.setMouseTracking(True)
        self._hold: Hold | OverlayHold | None = None  # what is dragged
        self._base: Project | None = None  # as it was when that was taken hold of
        self._guides: tuple[tuple[int, float], ...] = ()
        self._presses = 0
        self._only_chosen = False
        self.key_cursor = CanvasCursor(session, self._placed, lambda: self.by_keys)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        for signal in (session.solutions_changed, session.cursor.version_changed):
            signal.connect(self.update)
        session.zones_changed.connect(self.update)
        session.cursor.frame_changed.connect(lambda _: self.update())
        self._waits = False  # for pictures that others stand for
        session.preview.arrived.connect(
            lambda at: self.update() if at == session.frame or (
                self._waits and not session.speed) else None)

    def show_only_chosen(self, on: bool) -> None:
        """Show the chosen version alone, as large as there is room; or all of them again."""
        self._only_chosen = on
        policy = self.sizePolicy()
        policy.setHeightForWidth(not on)
        policy.setVerticalPolicy(QSizePolicy.Policy.Expanding if on
                                 else QSizePolicy.Policy.Preferred)
        self.setSizePolicy(policy)
        self.updateGeometry()
        self.update()

    @property
    def _versions(self) -> list[tuple[int, Version]]:
        """The versions that are shown, each with its number among all."""
        return [(number, version) for number, version in enumerate(self.session.project.versions)
                if not self._only_chosen or version.letter == self.session.letter]

    def hasHeightForWidth(self) -> bool:
        return self.sizePolicy().hasHeightForWidth()

    def heightForWidth(self, width: int) -> int:
        canvases = [self.session.sheet(version.letter).canvas for _, version in self._versions]
        across = width - GAP * (len(canvases) - 1)
        return HEAD + round(across / sum(w for w, _ in canvases) * max(h for _, h in canvases))

    def sizeHint(self) -> QSize:
        return QSize(480, self.heightForWidth(480))

    def rects(self) -> list[QRectF]:
        """Where each version's canvas lies: one scale for all, so sizes compare truly."""
        canvases = [self.session.sheet(version.letter).canvas for _, version in self._versions]
        across = self.width() - GAP * (len(canvases) - 1)
        scale = min(across / sum(w for w, _ in canvases),
                    (self.height() - HEAD) / max(h for _, h in canvases))
        found, x = [], 0.0
        if self._only_chosen:  # in the middle: it is alone
            x = (self.width() - canvases[0][0] * scale) // 2
        for w, h in canvases:
            wide, high = (2 * int(side * scale / 2) for side in (w, h))
            found.append(QRectF(x, HEAD, wide, high))
            x += wide + GAP
        return found

    def _at(self, point: QPointF) -> tuple[QRectF, str] | None:
        """The canvas under a point, with its head, and its version's letter."""
        return next(((rect, version.letter) for rect, (_, version) in zip(
            self.rects(), self._versions, strict=True)
            if rect.adjusted(0, -HEAD, 0, 0).contains(point)), None)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.key_cursor.let_go()
        super().focusOutEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.by_keys = False
        self.key_cursor.let_go()
        found = self._at(event.position())
        if found is None:
            return
        rect, letter = found
        self.session.choose_version(letter)
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point = share_of(event.position(), rect)
        over = self._overlay_at(found, event.position())
        layout = self._placed(letter)
        grip = grip_at(layout, event.position(), rect)
        if over is not None:
            number, grip = over
            region = self.session.project.version(letter).overlays[number].region
            self._hold = OverlayHold(grip, letter, number, region, point,
                                     self._lying(letter, number))
            self.picked.emit(number)
        elif event.modifiers() & Qt.KeyboardModifier.ControlModifier and (
                side := side_at(layout, event.position(), rect)) is not None:
            self._hold = Hold(Grip.SIDE, letter, layout, point, side=side)
        elif grip is not None:
            self._hold = Hold(grip, letter, layout, point, self._lying(letter))
        self._base = self.session.project
        self._presses += 1

    def _lying(self, letter: str, but: int | None = None) -> tuple[Region, ...]:
        """Where overlays lie on a version's canvas now, ``but`` that number, and panes beside the
        foremost, which is the one that is dragged.
        """
        session = self.session
        overlays = session.project.version(letter).overlays
        seen = [overlay.region for number, overlay in enumerate(overlays)
                if number != but and presence(overlay, session.frame) is not None]
        panes = self._placed(letter).panes
        seen += [pane.region for pane in (panes if but is not None else panes[:-1])]
        return tuple(region for region in seen if region != EVERYWHERE)

    def _placed(self, letter: str) -> Layout:
        """The layout of a version in this shot, its panes where they lie, their times as chosen."""
        solution = self.session.solution(letter, self.session.shot)
        return as_chosen(solution.placed, solution.layout)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Go into the pane under the pointer: its own window on the master."""
        found = self._at(event.position())
        if found is not None:
            self.session.choose_version(found[1])
            role = role_at(self._placed(found[1]), share_of(event.position(), found[0]))
            if role is not None:
                self.session.pane.enter(role)

    def _overlay_at(self, found: tuple[QRectF, str], at: QPointF) -> tuple[int, Grip] | None:
        rect, letter = found
        session = self.session
        return overlay_at(session.project.version(letter).overlays, session.frame, at, rect)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._hold is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._drag(self._hold, event)
            return
        found = self._at(event.position())
        grip = None
        if found is not None:
            over = self._overlay_at(found, event.position())
            grip = over[1] if over is not None else grip_at(
                self._placed(found[1]), event.position(), found[0])
        self.setCursor(CURSORS[grip])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._hold is not None:
            self.session.editing.release()
        self._hold, self._base, self._guides = None, None, ()
        self.update()

    def _drag(self, hold: Hold | OverlayHold, event: QMouseEvent) -> None:
        session = self.session
        letters = [version.letter for _, version in self._versions]
        rect = self.rects()[letters.index(hold.letter)]
        clear = session.sheet(hold.letter).clear
        how = (share_of(event.position(), rect), rect, clear.part if clear else None,
               bool(event.modifiers() & Qt.KeyboardModifier.AltModifier))
        if isinstance(hold, OverlayHold):
            region, self._guides = dragged_overlay(hold, *how)
            place_overlay(session, hold.letter, hold.number, region,
                          ("overlay", hold.letter, hold.number, self._presses), self._base)
            return
        made = dragged(hold, *how)
        self._guides = made.guides
        place_panes(session, made.layout, ("pane", hold.letter, session.shot, self._presses),
                    self._base)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.fillRect(self.rect(), QColor(theme.GROUND))
            session = self.session
            self._waits = False
            for rect, (i, version) in zip(self.rects(), self._versions, strict=True):
                if not paint_picture(p, session, version.letter, session.frame, rect):
                    self._waits = True
                paint_zones(p, session.sheet(version.letter), rect, session.zones)
                letter_badge(p, rect.left(), 4, version.letter, i)
                p.setPen(QColor(theme.WORDS))
                p.setFont(theme.ui_font(13, bold=version.letter == session.letter))
                sheet = session.sheet(version.letter)
                place = QRectF(rect.left() + 27, 4, theme.scaled(120), theme.scaled(18))
                p.drawText(place, Qt.AlignmentFlag.AlignVCenter, str(sheet.shape))
                if version.letter == session.letter:
                    p.setPen(QPen(QColor(theme.ACCENT), 2))
                    p.setBrush(Qt.BrushStyle.NoBrush)
                    p.drawRect(rect.adjusted(-1, -1, 1, 1))
                    self._paint_held(p, rect)
                if self._hold is not None and version.letter == self._hold.letter:
                    self._paint_guides(p, rect)
            if self.by_keys:
                p.setPen(QPen(QColor(theme.WORDS), 2))
                p.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))

    def _paint_held(self, p: QPainter, rect: QRectF) -> None:
        """A ring round what keys move."""
        held = self.key_cursor.held
        if held is not None:
            (left, right), (top, bottom) = held.region
            p.setPen(QPen(QColor(theme.ACCENT), 2, Qt.PenStyle.DashLine))
            p.drawRect(QRectF(rect.left() + left * rect.width(), rect.top() + top * rect.height(),
                              (right - left) * rect.width(), (bottom - top) * rect.height()))

    def _paint_guides(self, p: QPainter, rect: QRectF) -> None:
        p.setPen(QPen(QColor(theme.ACCENT), 1, Qt.PenStyle.DashLine))
        for axis, share in self._guides:
            if axis == 0:
                x = rect.left() + share * rect.width()
                p.drawLine(QPointF(x, rect.top()), QPointF(x, rect.bottom()))
            else:
                y = rect.top() + share * rect.height()
                p.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y))
