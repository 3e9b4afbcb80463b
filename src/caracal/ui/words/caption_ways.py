"""In the place of a list that is empty: the three ways to captions, as large buttons."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from caracal.core.base.translation import tr
from caracal.ui.widgets import theme

WIDE = 320  # pixels of a button


class CaptionWays(QWidget):
    """Transcribe the speech, import a file, or write the first caption."""

    def __init__(self) -> None:
        super().__init__()
        head = QLabel(tr("No captions yet"))
        head.setObjectName("head")
        head.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column = QVBoxLayout(self)
        column.setSpacing(8)
        column.addStretch(1)
        column.addWidget(head)
        self.transcribe, self.load, self.add = (
            self._button(name, about, column) for name, about in (
                (tr("Transcribe speech"), tr("The program writes what is said in the film")),
                (tr("Import captions…"), tr("From a file: SRT, WebVTT, ASS, TTML; or drop it "
                                            "here")),
                (tr("Add a caption"), tr("Write the first one yourself, at the playhead"))))
        self.transcribe.setObjectName("main")
        column.addStretch(2)

    @staticmethod
    def _button(name: str, about: str, column: QVBoxLayout) -> QPushButton:
        button = QPushButton(name)
        button.setMinimumWidth(theme.scaled(WIDE))
        button.setMinimumHeight(theme.scaled(36))
        button.setToolTip(about)
        words = QLabel(about)
        words.setObjectName("quiet")
        words.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addSpacing(8)
        column.addWidget(button, 0, Qt.AlignmentFlag.AlignCenter)
        column.addWidget(words)
        return button
