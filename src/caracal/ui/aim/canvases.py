"""The version canvases side by side in true proportion, in step with the playhead."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from caracal.ui import theme
from caracal.ui.picture_paint import letter_badge, paint_picture
from caracal.ui.session import Session
from caracal.ui.zones import paint_zones

HEAD = 30
GAP = 16


class Canvases(QWidget):
    """Click a canvas to work on that version."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setMinimumWidth(360)
        policy = QSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.setToolTip("Click a canvas to work on that version.")
        for signal in (session.solutions_changed, session.version_changed):
            signal.connect(self.update)
        session.zones_changed.connect(self.update)
        session.frame_changed.connect(lambda _: self.update())
        self._waits = False  # for pictures that others stand for
        session.preview.arrived.connect(
            lambda at: self.update() if at == session.frame or (
                self._waits and not session.speed) else None)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        canvases = [self._session.sheet(version.letter).canvas
                    for version in self._session.project.versions]
        across = width - GAP * (len(canvases) - 1)
        return HEAD + round(across / sum(w for w, _ in canvases) * max(h for _, h in canvases))

    def sizeHint(self) -> QSize:
        return QSize(480, self.heightForWidth(480))

    def rects(self) -> list[QRectF]:
        """Where each version's canvas lies: one scale for all, so sizes compare truly."""
        canvases = [self._session.sheet(version.letter).canvas
                    for version in self._session.project.versions]
        across = self.width() - GAP * (len(canvases) - 1)
        scale = min(across / sum(w for w, _ in canvases),
                    (self.height() - HEAD) / max(h for _, h in canvases))
        found, x = [], 0.0
        for w, h in canvases:
            wide, high = (2 * int(side * scale / 2) for side in (w, h))
            found.append(QRectF(x, HEAD, wide, high))
            x += wide + GAP
        return found

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for rect, version in zip(self.rects(), self._session.project.versions, strict=True):
            if rect.adjusted(0, -HEAD, 0, 0).contains(event.position()):
                self._session.choose_version(version.letter)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), QColor(theme.GROUND))
        session = self._session
        self._waits = False
        for i, (rect, version) in enumerate(
                zip(self.rects(), session.project.versions, strict=True)):
            if not paint_picture(p, session, version.letter, session.frame, rect):
                self._waits = True
            paint_zones(p, session.sheet(version.letter), rect, session.zones)
            letter_badge(p, rect.left(), 4, version.letter, i)
            p.setPen(QColor(theme.WORDS))
            p.setFont(theme.ui_font(13, bold=version.letter == session.letter))
            sheet = session.sheet(version.letter)
            p.drawText(QRectF(rect.left() + 27, 4, 120, 18), Qt.AlignmentFlag.AlignVCenter,
                       str(sheet.shape))
            if version.letter == session.letter:
                p.setPen(QPen(QColor(theme.ACCENT), 2))
                p.setBrush(Qt.BrushStyle.NoBrush)
                p.drawRect(rect.adjusted(-1, -1, 1, 1))
        p.end()
