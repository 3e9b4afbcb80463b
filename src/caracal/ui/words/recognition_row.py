"""Captions from the sound: in which language, which names occur, how far it is, and a stop."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.errors import CaracalError
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.reading_text import read_bounded
from caracal.core.base.translation import counted, tr
from caracal.core.base.work import Progress
from caracal.core.project.caption_edits import with_captions
from caracal.core.speech.recognition import LANGUAGES, RecognitionOrder
from caracal.core.text.cues import Cue
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import choice_box, quiet, small_button
from caracal.ui.words.recognition_worker import RecognitionWorker

CODES = tuple(LANGUAGES)


class RecognitionRow(QWidget):
    """Everything stays usable while it listens; what it writes is one step that undoes."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._worker: RecognitionWorker | None = None
        self.language = choice_box(list(LANGUAGES.values()), tr("Language of the speech"),
                                   lambda _: None)
        self.names = QLineEdit()
        self.names.setPlaceholderText(tr("Names and terms"))
        self.names.setToolTip(tr("Names and rare words, separated by commas, so that they are "
                                 "recognised and spelt correctly"))
        self.names.editingFinished.connect(self._keep_names)
        self.button = small_button(tr("Transcribe speech"),
                                   tr("Write captions from the speech; they replace the present "
                                      "ones"),
                                   self.start_or_stop)
        self.text_button = small_button(tr("Align a script…"),
                                        tr("A text file with what is said; every word gets its "
                                           "time from the sound"), self._ask_text)
        self.bar, self.about = QProgressBar(), quiet("")
        self.bar.setTextVisible(False)
        row = QHBoxLayout()
        row.setSpacing(8)
        for widget in (self.button, self.text_button, self.language):
            row.addWidget(widget)
        row.addWidget(self.names, 1)
        below = QHBoxLayout()
        below.setSpacing(8)
        below.addWidget(self.bar, 1)
        below.addWidget(self.about)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addLayout(row)
        column.addLayout(below)
        session.project_changed.connect(self.sync)
        self.sync()

    def sync(self) -> None:
        """Show the names of the film, and whether it listens."""
        if not self.names.hasFocus():
            self.names.setText(", ".join(self._session.project.names))
        busy = self._worker is not None
        self.button.setText(tr("Stop") if busy else tr("Transcribe speech"))
        self.text_button.setEnabled(not busy)
        self.bar.setVisible(busy)
        self.about.setVisible(busy)

    def _keep_names(self) -> None:
        names = tuple(name for part in self.names.text().split(",") if (name := part.strip()))
        session = self._session
        if names != session.project.names:
            session.edit(msgspec.structs.replace(session.project, names=names),
                         tr("Names and terms"))

    def code(self) -> str:
        """The code of the language that was chosen; none: any."""
        return CODES[self.language.currentIndex()]

    def start_or_stop(self) -> None:
        """Begin to listen, or stop."""
        if self._worker is not None:
            self._worker.token.cancel()
            return
        self.start()

    def start(self, text: str = "") -> None:
        """Begin to listen; a ``text`` that is known is laid in time."""
        self._keep_names()
        session = self._session
        order = RecognitionOrder(session.analysis.master, CODES[self.language.currentIndex()],
                                 session.project.names)
        worker = RecognitionWorker(order, text)
        worker.written.connect(self._written)
        worker.progressed.connect(self._progressed)
        worker.failed.connect(session.said)
        worker.stopped.connect(lambda: session.said.emit(
            tr("Transcription stopped; the captions are unchanged.")))
        worker.finished.connect(self._done)
        self._worker = worker
        self.bar.setValue(0)
        self.about.setText(tr("Transcribing…"))
        worker.start()
        self.sync()

    def _ask_text(self) -> None:
        chosen = QFileDialog.getOpenFileName(self, tr("Text"), "", tr("Texts (*.txt)"))[0]
        if chosen:
            self.lay_text(Path(chosen))

    def lay_text(self, path: Path) -> None:
        """Lay the text of a file in time; what is wrong with it is told."""
        try:
            data = read_bounded(path, MOST_TEXT_BYTES, "text")
        except CaracalError as problem:
            self._session.said.emit(problem.sentence())
            return
        text = data.decode("utf-8-sig", "replace")
        if text.strip():
            self.start(text)
        else:
            self._session.said.emit(tr("{name} is empty. Choose another file.", name=path.name))

    def _progressed(self, progress: Progress) -> None:
        self.bar.setValue(round(progress.share * 100))
        left = "" if progress.left_s is None else tr(", {left_s:.0f} s left",
                                                     left_s=progress.left_s)
        self.about.setText(f"{progress.doing}: {progress.share * 100:.0f} %{left}")

    def _written(self, cues: tuple[Cue, ...], language: str) -> None:
        session = self._session
        try:
            project = with_captions(session.project, cues, "")
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        doubtful = sum(cue.doubtful for cue in cues)
        name = LANGUAGES.get(language, language)
        session.edit(project, tr("{captions} transcribed ({name})",
                                 captions=counted(len(cues), "{count} caption", "{count} captions"),
                                 name=name)
                     + (tr("; {doubtful} to check.",
                           doubtful=doubtful) if doubtful else "."))

    def _done(self) -> None:
        worker, self._worker = self._worker, None
        if worker is not None:
            worker.end()
        self.sync()

    def close_down(self) -> None:
        """Stop listening."""
        if self._worker is not None:
            self._worker.token.cancel()
            self._worker.part()
