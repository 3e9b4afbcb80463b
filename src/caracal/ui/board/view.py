"""The Board as a whole: the bar above, the grid below."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from caracal.ui.board.bar import BoardBar
from caracal.ui.board.grid import Grid
from caracal.ui.session.session import Session


class Board(QWidget):
    """Every shot in every version at once."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.bar = BoardBar(session)
        self.grid = Grid(session)
        self.opened = self.grid.opened
        self.bar.arranged.connect(lambda: self.grid.arrange(*self.bar.how))
        self.grid.selected.connect(self.bar.select)
        self.bar.wanted.connect(self.grid.select)
        self.bar.sized.connect(self._set_size)
        self.grid.resized.connect(self.bar.show_size)
        self.bar.show_size(self.grid.picture_size)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.bar)
        column.addWidget(self.grid, 1)

    def _set_size(self, size: int) -> None:
        self.grid.picture_size = size
