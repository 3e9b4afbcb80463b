"""The picture that is being encoded, in its version's frame."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from caracal.core.base.paths import path_of
from caracal.core.base.time import FrameRange
from caracal.core.batch.job import Item
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.picture_paint import paint_picture

HIGH = 150  # pixels


def frame_at(ranges: Sequence[FrameRange], share: float) -> int:
    """The frame of the film after a ``share`` (0 to 1) of the time that ``ranges`` last."""
    left = share * float(sum(span.duration_frames for span in ranges))
    for span in ranges:
        lasts = float(span.duration_frames)
        if left < lasts:
            return span.start + int(left / lasts * len(span))
        left -= lasts
    return ranges[-1].end_exclusive - 1


class EncodedPicture(QWidget):
    """Shows where the encoder is in a version of the open film; nothing for other films."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._letter, self._frame = "", 0
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        self.hide()
        session.preview.arrived.connect(lambda _: self.update())

    def sizeHint(self) -> QSize:
        return QSize(HIGH, theme.scaled(HIGH))

    def show_item(self, item: Item | None) -> None:
        """Show the picture that the encoder of ``item`` is at, while it runs."""
        found = None if item is None else self._place(item)
        self.setVisible(found is not None)
        if found is not None and found != (self._letter, self._frame):
            self._letter, self._frame = found
            self.update()

    def _place(self, item: Item) -> tuple[str, int] | None:
        """The version's letter and the frame of the film that is being encoded."""
        session, recipe, progress = self._session, item.job.recipe, item.status.progress
        letters = [version.letter for version in session.project.versions
                   if version.sheet == recipe.sheet.name]
        same = [letter for letter in letters if session.project.ranges_of(letter) == recipe.ranges]
        letter = next(iter(same or letters), None)
        if not item.state.busy or progress is None or letter is None or (
                path_of(item.job.master) != session.film):
            return None
        ranges = recipe.ranges or session.project.ranges_of(letter)
        frame = frame_at(ranges, progress.done / max(1, progress.total))
        return letter, min(frame, session.analysis.known_to - 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.fillRect(self.rect(), QColor(theme.PANEL))
            width, height = self._session.sheet(self._letter).canvas
            scale = min(self.height() / height, self.width() / width)
            wide, high = (2 * int(side * scale / 2) for side in (width, height))
            paint_picture(p, self._session, self._letter, self._frame,
                          QRectF((self.width() - wide) // 2, 0, wide, high))
