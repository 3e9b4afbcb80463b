"""Choosing from pictures of this very shot: each shows what taking it would make of it."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QToolTip, QWidget

from caracal.core.layout.model import Canvas
from caracal.core.render.scene import Scene
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import canvas_of

HIGH, MOST_WIDE, WORDS_HIGH = 84, 84, 22  # pixels of a picture to choose, and of its name
ROW_GAP = 8  # pixels between rows
LEAST_STEP = 88  # pixels from picture to picture, for a name with its number
WAYS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
TAKE = {Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter}


class PictureCards(QWidget):
    """Pictures in rows, each with its number and name; ``picked`` tells which was chosen.

    A click or its digit chooses one; the arrows go from one to the next, and Space or Return
    chooses. Subclasses say what they show: :meth:`names`, :meth:`scene` and :meth:`taken`.
    """

    picked = Signal(int)

    def __init__(self, session: Session, name: str, tip: str, across: int) -> None:
        super().__init__()
        self._session, self._most_across = session, across
        self.current = 0  # the picture that the keys are at
        self._tip = tip
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumWidth(2 * LEAST_STEP)
        session.preview.arrived.connect(lambda _: self.update())
        session.solutions_changed.connect(self.update)

    def names(self) -> list[str]:
        """What each picture is called."""
        raise NotImplementedError

    def scene(self, number: int, canvas: Canvas) -> Scene | None:
        """What picture ``number`` shows; None while it is worked out."""
        raise NotImplementedError

    def taken(self) -> int | None:
        """The number of the one that is taken."""
        raise NotImplementedError

    @property
    def across(self) -> int:
        """How many pictures stand in a row."""
        return max(1, min(self._most_across, self.width() // theme.scaled(LEAST_STEP)))

    def sizeHint(self) -> QSize:
        rects = self.rects()
        return QSize(theme.scaled(LEAST_STEP) * self.across,
                     round(rects[-1].bottom()) + theme.scaled(WORDS_HIGH))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.setFixedHeight(self.sizeHint().height())

    def _size(self) -> tuple[int, int]:
        canvas = self._session.sheet(self._session.letter).canvas
        scale = min(HIGH / canvas[1], MOST_WIDE / canvas[0])
        return 2 * round(canvas[0] * scale / 2), 2 * round(canvas[1] * scale / 2)

    def rects(self) -> list[QRectF]:
        """Returns where each of the pictures lies."""
        width, height = self._size()
        across = self.across
        step = max(self.width() // across, theme.scaled(LEAST_STEP))
        down = height + theme.scaled(WORDS_HIGH) + ROW_GAP
        return [QRectF(i % across * step + 2, i // across * down + 2, width, height)
                for i in range(len(self.names()))]

    def _at(self, point: QPointF) -> int | None:
        wide = self.width() // self.across
        return next((number for number, rect in enumerate(self.rects()) if QRectF(
            rect.left(), rect.top(), wide - 4, rect.height() + theme.scaled(WORDS_HIGH)
        ).contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        number = self._at(event.position())
        if number is not None:
            self.pick(number)

    def pick(self, number: int) -> None:
        """Choose picture ``number``, as by a click."""
        self.current = number
        self.update()
        self.picked.emit(number)

    def own_keys(self, event: QKeyEvent) -> bool:
        """Arrows, Space, Return and digits choose a picture."""
        if event.modifiers() not in (Qt.KeyboardModifier.NoModifier,
                                     Qt.KeyboardModifier.KeypadModifier):
            return False
        return (event.key() in WAYS or event.key() in TAKE
                or event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down)
                or self._digit(event) is not None)

    def _digit(self, event: QKeyEvent) -> int | None:
        text = event.text()
        known = text.isascii() and text.isdigit() and 0 < int(text) <= len(self.names())
        return int(text) - 1 if known else None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {**WAYS, Qt.Key.Key_Up: -self.across, Qt.Key.Key_Down: self.across}
        digit = self._digit(event)
        if digit is not None:
            self.pick(digit)
        elif event.key() in TAKE:
            self.pick(self.current)
        elif event.key() in ways:
            to = self.current + ways[Qt.Key(event.key())]
            if 0 <= to < len(self.names()):
                self.current = to
                self.update()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.current = min(self.current if self.taken() is None else self.taken() or 0,
                           len(self.names()) - 1)
        self.update()

    def event(self, event: QEvent) -> bool:
        """The tip of a picture is its whole name, then what a click does."""
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            number = self._at(QPointF(event.pos()))
            name = "" if number is None else f"{self.names()[number]}. "
            QToolTip.showText(event.globalPos(), name + self._tip, self)
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            now = self.taken()
            for number, (rect, name) in enumerate(zip(self.rects(), self.names(), strict=True)):
                self._paint_picture(p, number, rect, name)
                if number == now:
                    p.setPen(QPen(QColor(theme.ACCENT), 3))
                    p.drawRect(rect.adjusted(0, 0, 0, 0))
                if number == self.current and self.hasFocus():
                    p.setPen(QPen(QColor(theme.WORDS), 2))
                    p.drawRect(rect.adjusted(-1, -1, 1, 1))
                p.setPen(QColor(theme.WORDS if number == now else theme.QUIET))
                p.setFont(theme.ui_font(11, bold=number == now))
                place = QRectF(rect.left(), rect.bottom() + 3, self.width() // self.across - 6,
                               theme.scaled(WORDS_HIGH) - 3)
                words = f"{number + 1} {name}"
                if p.fontMetrics().horizontalAdvance(words) > place.width():
                    words = p.fontMetrics().elidedText(name, Qt.TextElideMode.ElideRight,
                                                       int(place.width()))
                p.drawText(place, Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_picture(self, p: QPainter, number: int, rect: QRectF, name: str) -> None:
        session = self._session
        canvas = canvas_of(rect, self.devicePixelRatioF())
        scene = self.scene(number, canvas)
        image = None if scene is None else session.preview.get_scene(
            f"{type(self).__name__} {name}", session.frame, scene, canvas)
        if image is None:
            p.fillRect(rect, QColor(theme.RAISED))
        else:
            p.drawImage(rect, image)
