"""What a tile shows while the pointer rests on it: the master's picture, and all its words."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRect, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from caracal.core.base.translation import tr
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import paint_picture

SOON_MS = 600
WIDE, EDGE = 288, 8  # pixels of the master's picture, and round it
MOST_LINES = 6
LINE_HIGH = 18


def words_on_hover(session: Session, shot: int, column: int) -> str:
    """What is said of a tile, or of the picture of one version in it, in a line."""
    letters = [version.letter for version in session.project.versions]
    seen = [letters[column - 1]] if column > 0 else letters
    issues = [f"{letter}: {flag.sentence}" for letter in seen
              for flag in session.flags(letter, shot)]
    said = session.told(seen[0], shot)
    first = tr("Shot {shot}: {lead}. {why}", shot=shot + 1, lead=said.lead, why=said.why)
    return "  ".join([first, *issues])


class HoverCard(QWidget):
    """A card beside the tile that the pointer rests on; it never takes the pointer."""

    def __init__(self, session: Session, beside: QWidget) -> None:
        super().__init__(beside, Qt.WindowType.ToolTip)
        self._session, self._beside = session, beside
        self._shot, self._frame, self._words = -1, 0, ""
        self._place = QRect()
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._open)
        session.preview.arrived.connect(lambda _: self.update())

    def show_soon(self, shot: int, frame: int, words: str, place: QRect) -> None:
        """Show ``shot`` at ``frame`` once the pointer rests; ``place`` is its tile's."""
        same = shot == self._shot and self.isVisible()
        self._shot, self._frame, self._words, self._place = shot, frame, words, place
        if same:
            self.update()
        else:
            self.hide()
            self._soon.start()

    def leave(self) -> None:
        """The pointer is on no tile any more."""
        self._soon.stop()
        self.hide()
        self._shot = -1

    def _picture(self) -> QSize:
        master = self._session.analysis.master
        return QSize(WIDE, 2 * round(WIDE * master.height / master.width / 2))

    def _open(self) -> None:
        if not self._beside.isVisible():
            return
        picture = self._picture()
        words = self.fontMetrics().boundingRect(
            QRect(0, 0, WIDE, MOST_LINES * theme.scaled(LINE_HIGH)), Qt.TextFlag.TextWordWrap,
            self._words)
        self.resize(WIDE + 2 * EDGE, picture.height() + words.height() + 3 * EDGE)
        corner = self._beside.mapToGlobal(self._place.bottomLeft())
        screen = self._beside.screen().availableGeometry()
        if corner.y() + self.height() > screen.bottom():
            corner = self._beside.mapToGlobal(self._place.topLeft()) - QPoint(0, self.height())
        corner.setX(max(screen.left(), min(corner.x(), screen.right() - self.width())))
        self.move(corner)
        self.show()

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.fillRect(self.rect(), QColor(theme.RAISED))
            p.setPen(QPen(QColor(theme.OUTLINE), 1))
            p.drawRect(self.rect().adjusted(0, 0, -1, -1))
            picture = self._picture()
            paint_picture(p, self._session, "", self._frame,
                          QRectF(EDGE, EDGE, picture.width(), picture.height()))
            p.setPen(QColor(theme.WORDS))
            p.drawText(QRectF(EDGE, 2 * EDGE + picture.height(), WIDE,
                              self.height() - picture.height() - 2 * EDGE),
                       Qt.TextFlag.TextWordWrap, self._words)
