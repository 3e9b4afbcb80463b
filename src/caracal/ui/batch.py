"""The Batch view: what will be made, how far it is, and the proof of every file."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFileDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QProgressBar,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from caracal.core.batch.proof import Proof
from caracal.core.batch.worker import Job
from caracal.core.convert import Made, Wanted
from caracal.core.errors import InputError
from caracal.core.specs.settings import estimated_mb
from caracal.core.time import short_time, timecode
from caracal.core.work import Progress
from caracal.ui import theme
from caracal.ui.batch_run import BatchRun
from caracal.ui.session import Session

COLUMNS = ("", "Version", "Canvas", "Spec sheet", "Video", "Expected", "State")
PROOF_COLUMNS = ("", "Property", "The file has", "Asked")


class Batch(QWidget):
    """Start, progress, stop; then the proof line by line."""

    started = Signal()
    finished = Signal()

    def __init__(self, session: Session, folder: Path) -> None:
        super().__init__()
        self._session = session
        self.folder = folder
        self._run: BatchRun | None = None
        self._states: dict[str, str] = {}
        self._proofs: dict[str, Proof] = {}
        self._off: set[str] = set()
        self.table = _table(COLUMNS)
        self.proof = _table(PROOF_COLUMNS)
        self._about, self._problem, self._proof_head = QLabel(), QLabel(), QLabel()
        self._build()
        session.project_changed.connect(self.sync)
        self.table.itemChanged.connect(self._ticked)
        self.table.itemSelectionChanged.connect(self._show_proof)
        self.sync()

    def _build(self) -> None:
        self._problem.setObjectName("bad")
        self._about.setObjectName("quiet")
        self._proof_head.setObjectName("head")
        self._where = QLabel()
        choose = QPushButton("Choose folder…")
        choose.setToolTip("Where the files go")
        choose.clicked.connect(self._choose)
        self.start_button = QPushButton("Make versions")
        self.start_button.setObjectName("main")
        self.start_button.setToolTip("Encode and prove every ticked version (Ctrl+Return)")
        self.start_button.setShortcut("Ctrl+Return")
        self.start_button.clicked.connect(self.start)
        self.stop_button = QPushButton("Stop")
        self.stop_button.setToolTip("Stop; nothing half-made is kept")
        self.stop_button.clicked.connect(self.stop)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        top = QHBoxLayout()
        top.addWidget(QLabel("Folder"))
        top.addWidget(self._where, 1)
        top.addWidget(choose)
        top.addWidget(self.stop_button)
        top.addWidget(self.start_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 16, 16, 16)
        column.setSpacing(12)
        column.addLayout(top)
        column.addWidget(self._problem)
        column.addWidget(self.table)
        column.addWidget(self.bar)
        column.addWidget(self._about)
        column.addWidget(self._proof_head)
        column.addWidget(self.proof, 1)
        column.addStretch(0)
        self.table.setFixedHeight(152)
        self.bar.setFixedHeight(6)

    def _wanted(self) -> list[str]:
        return [one.letter for one in self._session.project.versions if one.letter not in self._off]

    def sync(self) -> None:
        """Show the versions, their sheets and what stands in the way."""
        versions = self._session.project.versions
        self.table.blockSignals(True)
        self.table.setRowCount(len(versions))
        seconds = len(self._session.project.span) / self._session.rate
        for row, version in enumerate(versions):
            sheet = self._session.sheet(version.letter)
            video = sheet.video
            cells = ("", f"{version.letter}   {sheet.shape}",
                     f"{sheet.canvas[0]} × {sheet.canvas[1]}", sheet.title,
                     f"H.264, {video.bitrate_kbps / 1000:g} Mb/s",
                     f"about {estimated_mb(sheet, seconds):.0f} MB",
                     self._states.get(version.letter, "waiting"))
            for at, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
                if at == 0:
                    item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                    on = version.letter not in self._off
                    item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
                self.table.setItem(row, at, item)
        self.table.blockSignals(False)
        self._where.setText(str(self.folder))
        problem = self._first_problem(seconds)
        self._problem.setText(problem)
        self._problem.setVisible(bool(problem))
        busy = self.running
        self.start_button.setEnabled(not busy and not problem)
        self.stop_button.setEnabled(busy)
        if not busy and not self._proofs:
            span = self._session.project.span
            rate = self._session.analysis.master.rate
            self._about.setText(
                f"{timecode(span.start, rate)} to {timecode(span.end_exclusive, rate)}, "
                f"{seconds:.1f} s. Every file is opened again and proved before it gets its name.")
        self._show_proof()

    def _first_problem(self, seconds: float) -> str:
        if not self._session.film.is_file():
            return (f"{self._session.film.name} is not where it was. Put it back or beside the "
                    "project, then open the project again.")
        if not self._wanted():
            return "Tick at least one version."
        for letter in self._wanted():
            try:
                self._session.sheet(letter).refuse_duration(seconds, self._session.film.name)
            except InputError as problem:
                return problem.what + " Set a shorter range with I and O."
        return ""

    @property
    def running(self) -> bool:
        return self._run is not None and self._run.running

    def _ticked(self, item: QTableWidgetItem) -> None:
        if item.column() == 0:
            letter = self._session.project.versions[item.row()].letter
            on = item.checkState() is Qt.CheckState.Checked
            (self._off.discard if on else self._off.add)(letter)
            self.sync()

    def _choose(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Folder for the versions", str(self.folder))
        if chosen:
            self.folder = Path(chosen)
            self.sync()

    def start(self) -> None:
        """Start the encoder on the ticked versions."""
        if self.running or not self.start_button.isEnabled():
            return
        project, letters = self._session.project, self._wanted()
        wanted = [Wanted(self._session.sheet(one), project.choices_for(one), project.motion)
                  for one in letters]
        job = Job(str(self._session.film), str(self.folder), wanted, project.span, project.starts,
                  project.drawn)
        self._states = dict.fromkeys(letters, "encoding")
        self._proofs = {}
        run = BatchRun(job)
        run.progressed.connect(self._progress)
        run.made.connect(lambda made: self._made(letters, made))
        run.failed.connect(self._failed)
        run.finished.connect(self._over)
        self._run = run
        run.start()
        self.started.emit()
        self.sync()

    def stop(self) -> None:
        """Stop the encoder."""
        if self._run is not None and self.running:
            self._about.setText("Stopping…")
            self._run.stop()

    def _progress(self, progress: Progress) -> None:
        self.bar.setValue(round(progress.share * 1000))
        left = "" if progress.left_s is None else f", {short_time(progress.left_s)} left"
        self._about.setText(f"{progress.doing}: frame {progress.done} of {progress.total}{left}")

    def _made(self, letters: list[str], made: list[Made]) -> None:
        for letter, one in zip(letters, made, strict=True):
            self._proofs[letter] = one.proof
            self._states[letter] = "proved" if one.proof.right else "NOT PROVED"
        total = sum(len(one.proof.lines) for one in made)
        wrong = sum(not line.right for one in made for line in one.proof.lines)
        self._about.setText(f"{len(made)} files in {self.folder}. {total - wrong} of {total} lines "
                            "right.")
        self.bar.setValue(1000)

    def _failed(self, sentence: str) -> None:
        self._states = dict.fromkeys(self._states, "stopped")
        self._about.setText(sentence)
        self.bar.setValue(0)

    def _over(self) -> None:
        self.sync()
        if self._proofs:
            self.table.selectRow(0)
        self.finished.emit()

    def _show_proof(self) -> None:
        rows = self.table.selectionModel().selectedRows() if self.table.selectionModel() else []
        row = rows[0].row() if rows else 0
        versions = self._session.project.versions
        letter = versions[min(row, len(versions) - 1)].letter
        proof = self._proofs.get(letter)
        self.proof.setVisible(proof is not None)
        self._proof_head.setText(f"Proof of {Path(proof.file).name}" if proof else
                                 "The proof of each file appears here, line by line.")
        self.bar.setVisible(self.running or bool(self._proofs))
        if proof is None:
            return
        self.proof.setRowCount(len(proof.lines))
        for at, line in enumerate(proof.lines):
            mark = "✓" if line.right else "✗ wrong"
            for column, text in enumerate((mark, line.what, line.found, line.asked)):
                item = QTableWidgetItem(text)
                if column == 0:
                    item.setForeground(QColor(theme.GOOD if line.right else theme.BAD))
                self.proof.setItem(at, column, item)

    def close_down(self) -> None:
        """Stop the encoder when the film or the window closes."""
        if self._run is not None:
            self._run.close()


def _table(columns: tuple[str, ...]) -> QTableWidget:
    table = QTableWidget(0, len(columns))
    table.setHorizontalHeaderLabels(list(columns))
    table.verticalHeader().setVisible(False)
    table.setShowGrid(False)
    table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    header = table.horizontalHeader()
    header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
    header.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
    header.setMinimumSectionSize(36)
    header.setStretchLastSection(True)
    table.verticalHeader().setDefaultSectionSize(36 if len(columns) > 4 else 26)
    return table
