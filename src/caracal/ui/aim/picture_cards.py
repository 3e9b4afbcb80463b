"""Choosing from pictures of this very shot: each shows what taking it would make of it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from caracal.core.layout.model import Canvas
from caracal.core.render.scene import Scene
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import canvas_of

HIGH, MOST_WIDE, WORDS_HIGH = 170, 150, 24  # pixels of a picture to choose, and of its name
GAP, ROW_GAP = 16, 8  # pixels between them
LEAST_STEP = 118  # pixels, for a name with its number


class PictureCards(QWidget):
    """Pictures in rows, each with its number and name; ``picked`` tells which was clicked.

    Subclasses say what they show: :meth:`names`, :meth:`scene` and :meth:`taken`.
    """

    picked = Signal(int)

    def __init__(self, session: Session, tip: str, across: int) -> None:
        super().__init__()
        self._session, self._across = session, across
        self.setToolTip(tip)
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

    def sizeHint(self) -> QSize:
        rects = self.rects()
        return QSize(round(max(rect.right() for rect in rects)),
                     round(rects[-1].bottom()) + theme.scaled(WORDS_HIGH))

    def _size(self) -> tuple[int, int]:
        canvas = self._session.sheet(self._session.letter).canvas
        scale = min(HIGH / canvas[1], MOST_WIDE / canvas[0])
        return 2 * round(canvas[0] * scale / 2), 2 * round(canvas[1] * scale / 2)

    def rects(self) -> list[QRectF]:
        """Returns where each of the pictures lies."""
        width, height = self._size()
        across = max(width, theme.scaled(LEAST_STEP)) + GAP  # a name may be wider than its picture
        down = height + theme.scaled(WORDS_HIGH) + ROW_GAP
        return [QRectF(i % self._across * across, i // self._across * down, width, height)
                for i in range(len(self.names()))]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number, rect in enumerate(self.rects()):
            if rect.adjusted(0, 0, 0, theme.scaled(WORDS_HIGH)).contains(event.position()):
                self.picked.emit(number)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            session, now = self._session, self.taken()
            for number, (rect, name) in enumerate(zip(self.rects(), self.names(), strict=True)):
                canvas = canvas_of(rect, self.devicePixelRatioF())
                scene = self.scene(number, canvas)
                image = None if scene is None else session.preview.get_scene(
                    f"{type(self).__name__} {name}", session.frame, scene, canvas)
                if image is None:
                    p.fillRect(rect, QColor(theme.RAISED))
                else:
                    p.drawImage(rect, image)
                if number == now:
                    p.setPen(QPen(QColor(theme.ACCENT), 2))
                    p.drawRect(rect.adjusted(1, 1, -1, -1))
                p.setPen(QColor(theme.WORDS if number == now else theme.QUIET))
                p.setFont(theme.ui_font(12, bold=number == now))
                p.drawText(QRectF(rect.left(), rect.bottom() + 4, theme.scaled(LEAST_STEP),
                                  theme.scaled(WORDS_HIGH) - 4),
                           Qt.AlignmentFlag.AlignVCenter, f"{number + 1}  {name}")
