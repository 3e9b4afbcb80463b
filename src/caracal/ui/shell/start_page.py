"""The start page: open, recent, demo, or drop a file; and analysis while it runs."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.base.work import Progress
from caracal.ui.services.posters import SIZE, opened_at, poster_of
from caracal.ui.widgets import theme
from caracal.ui.widgets.motif import Motif

MOST_HIGH = 270  # pixels of the list of recent films


class Start(QWidget):
    """What a person sees before a film is open."""

    open_asked = Signal()
    demo_asked = Signal()
    tour_asked = Signal()
    film_chosen = Signal(object)
    stop_asked = Signal()

    def __init__(self, recent: list[Path]) -> None:
        super().__init__()
        title = QLabel(tr("Caracal"))
        title.setObjectName("title")
        about = QLabel(tr("One finished widescreen film in. Every other shape out: framed, "
                          "checked, encoded to spec."))
        about.setObjectName("quiet")
        self.open_button = QPushButton(tr("Open a film…"))
        self.open_button.setObjectName("main")
        self.open_button.setToolTip(tr("Open a finished master (Ctrl+O)"))
        self.open_button.clicked.connect(self.open_asked)
        self.demo_button = QPushButton(tr("Open the demo film"))
        self.demo_button.setToolTip(tr("Kiln Day at Marram Quay, 60 seconds"))
        self.demo_button.clicked.connect(self.demo_asked)
        self.tour_button = QPushButton(tr("Take the tour"))
        self.tour_button.setToolTip(tr("Six steps on the demo film, from opening it to finished "
                                       "files"))
        self.tour_button.clicked.connect(self.tour_asked)
        drop = QLabel(tr("or drop a film anywhere here"))
        drop.setObjectName("quiet")
        self.recent = QListWidget()
        self.recent.setAccessibleName(tr("Recent films"))
        self.recent.setIconSize(QSize(*SIZE))
        self.recent.setTextElideMode(Qt.TextElideMode.ElideMiddle)
        self.show_recent(recent)
        self.recent.itemActivated.connect(
            lambda item: self.film_chosen.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.recent.itemClicked.connect(
            lambda item: self.film_chosen.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.doing = QLabel("")
        self.problem = QLabel("")
        self.problem.setObjectName("bad")
        self.problem.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        self.stop_button = QPushButton(tr("Stop"))
        self.stop_button.setToolTip(tr("Stop the analysis (Escape)"))
        self.stop_button.clicked.connect(self.stop_asked)
        self._lay_out(title, about, drop)
        self.idle()

    def _lay_out(self, title: QLabel, about: QLabel, drop: QLabel) -> None:
        panel = QFrame()
        panel.setObjectName("panel")
        panel.setFixedWidth(620)
        inside = QVBoxLayout(panel)
        inside.setSpacing(14)
        inside.setContentsMargins(0, 0, 0, 0)
        buttons = QHBoxLayout()
        buttons.addWidget(self.open_button)
        buttons.addWidget(self.demo_button)
        buttons.addWidget(self.tour_button)
        buttons.addWidget(drop)
        buttons.addStretch(1)
        self._recent_head = QLabel(tr("Recent films"))
        self._recent_head.setObjectName("head")
        work = QHBoxLayout()
        work.addWidget(self.bar, 1)
        work.addWidget(self.stop_button)
        for item in (Motif(), title, about):
            inside.addWidget(item)
        inside.addSpacing(8)
        inside.addLayout(buttons)
        inside.addWidget(self.problem)
        inside.addWidget(self.doing)
        inside.addLayout(work)
        inside.addWidget(self._recent_head)
        inside.addWidget(self.recent)
        panel.setStyleSheet("QFrame#panel { background: transparent; }")
        row = QHBoxLayout(self)
        row.addStretch(1)
        column = QVBoxLayout()
        column.addStretch(2)
        column.addWidget(panel)
        column.addStretch(3)
        row.addLayout(column)
        row.addStretch(1)
        self.recent.setMaximumHeight(MOST_HIGH)

    def show_recent(self, recent: list[Path]) -> None:
        """List the films that were opened lately, the newest first."""
        self.recent.clear()
        for path in recent:
            day = f"{datetime.fromtimestamp(opened_at(path)):%Y-%m-%d}"
            item = QListWidgetItem(tr("{name}\nLast opened {day}\n{folder}", name=path.name,
                                      day=day, folder=path.parent))
            item.setData(Qt.ItemDataRole.UserRole, path)
            poster = poster_of(path)
            picture = QPixmap(QSize(*SIZE))
            picture.fill(QColor(theme.RAISED))
            item.setIcon(QIcon(picture if poster is None else QPixmap.fromImage(poster)))
            self.recent.addItem(item)

    def idle(self, problem: str = "") -> None:
        """Nothing runs; ``problem`` says what went wrong before."""
        self.problem.setText(problem)
        self.problem.setVisible(bool(problem))
        for widget in (self.doing, self.bar, self.stop_button):
            widget.setVisible(False)
        for control in (self.open_button, self.demo_button, self.tour_button, self.recent):
            control.setEnabled(True)
        has_recent = self.recent.count() > 0
        self.recent.setVisible(has_recent)
        self._recent_head.setVisible(has_recent)

    def busy(self, film: Path) -> None:
        """An analysis of ``film`` has begun."""
        self.problem.setVisible(False)
        self.doing.setText(tr("Analysing {name}", name=film.name))
        self.bar.setValue(0)
        for widget in (self.doing, self.bar, self.stop_button):
            widget.setVisible(True)
        for control in (self.open_button, self.demo_button, self.tour_button, self.recent):
            control.setEnabled(False)

    def progress(self, progress: Progress) -> None:
        """Show how far the analysis is."""
        left = "" if progress.left_s is None else tr(", {short_time} left",
                                                     short_time=short_time(progress.left_s))
        self.doing.setText(tr("{doing}: cuts, people and things, sound. {share:.0%}{left}",
                              doing=progress.doing, share=progress.share, left=left))
        self.bar.setValue(round(progress.share * 1000))
