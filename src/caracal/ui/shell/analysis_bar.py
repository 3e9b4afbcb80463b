"""Below the film line, while a film is being looked at: how far that is, and a way to stop it."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QProgressBar, QPushButton, QWidget

from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.base.work import Progress

BAR_WIDE = 240
STOP = tr("Stop the analysis; what was analysed is kept")


class AnalysisBar(QWidget):
    """Seen only while something is missing; the button stops, or goes on."""

    stop_asked = Signal()
    go_on_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.words, self.bar = QLabel(), QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        self.bar.setFixedWidth(BAR_WIDE)
        self.button = QPushButton(tr("Stop"))
        self.button.setToolTip(STOP)
        self.button.setObjectName("small")
        self.button.clicked.connect(self._clicked)
        self._stopped = False
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 4, 12, 6)
        row.setSpacing(12)
        for widget in (self.bar, self.words, self.button):
            row.addWidget(widget)
        row.addStretch(1)
        self.hide()

    def show_progress(self, progress: Progress) -> None:
        """The film is being looked at, and this far."""
        left = "" if progress.left_s is None else tr(", {short_time} left",
                                                     short_time=short_time(progress.left_s))
        self._say(tr("Analysing: {share:.0%}{left}. Shots that are shown can be edited.",
                     share=progress.share, left=left), tr("Stop"), STOP, False)
        self.bar.setValue(round(progress.share * 1000))

    def show_stopped(self, why: str) -> None:
        """Nothing looks at the rest of the film, and why."""
        self._say(why, tr("Resume"), tr("Analyse the rest of the film"), True)

    def _say(self, words: str, button: str, tip: str, stopped: bool) -> None:
        self._stopped = stopped
        self.words.setText(words)
        self.button.setText(button)
        self.button.setToolTip(tip)
        self.show()

    def _clicked(self) -> None:
        (self.go_on_asked if self._stopped else self.stop_asked).emit()
