"""Words in the film's own picture: read, covered, and written anew as titles that fit."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from caracal.core.analysis.burnt_text import BurntText
from caracal.core.analysis.detectors.text_recognition import burnt_texts
from caracal.core.base.errors import CaracalError
from caracal.core.base.time import timecode
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, Progress
from caracal.core.processes.apart import Call, call_apart
from caracal.core.project.model import Project
from caracal.core.project.text_replacement import (
    with_words_covered,
    with_words_rewritten,
    with_words_seen,
)
from caracal.core.render.captions.burnt_text_places import live_region
from caracal.core.render.shown_shots import ShownShot
from caracal.ui.services.worker import Worker
from caracal.ui.session.session import Session
from caracal.ui.widgets.panels import choice_box, quiet, small_button

COVERS = (tr("Softly"), tr("With a box"))
BOX = "#1c1a18"
LONG = 40  # characters of a text in the list


class ReadingWorker(Worker):
    """``read`` carries the texts; ``progressed`` how far it is."""

    read = Signal(object)
    progressed = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._analysis = session.found
        self.token = CancelToken()

    def work(self) -> None:
        call = Call(burnt_texts, (self._analysis,), stoppable=True, grace_s=0.0)
        self.read.emit(call_apart(call, self._analysis.master.file, self._told, self.token))

    def _told(self, progress: Progress) -> None:
        self.progressed.emit(progress)


class BurntWords(QWidget):
    """One click reads them, another writes the chosen ones anew in the chosen version.

    They can be read again, for a film that was not looked at to its end before.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._worker: ReadingWorker | None = None
        self.texts: tuple[BurntText, ...] = ()
        self.button = small_button(tr("Detect text in picture"),
                                   tr("Find and read the text in the film's own picture"),
                                   self.start_or_stop)
        self.list = choice_box([], tr("The detected texts; selecting one goes there"), self._go)
        self.list.setMinimumContentsLength(18)
        self.list.setSizeAdjustPolicy(
            self.list.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.cover = choice_box(COVERS,
                                tr("How the words are covered: blended with what lies round them, "
                                   "or with a box in the brand's first colour"),
                                lambda _: None)
        self.replace = small_button(tr("Replace with title"),
                                 tr("Cover these words in the chosen version, and show them as a "
                                    "title in the brand's style"), self.replace_with_title)
        self.only = small_button(tr("Cover only"), tr("Cover these words in the chosen version"),
                                 self.cover_only)
        self.seen = small_button(tr("Remove covers"),
                                 tr("Show all words of the picture in this version again"),
                                 self.uncover)
        self.about = quiet(tr("Text in the picture"))
        row, below = QHBoxLayout(), QHBoxLayout()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        for line, widgets in ((row, (self.about, self.button, self.list, self.cover)),
                              (below, (self.replace, self.only, self.seen))):
            line.setSpacing(8)
            for widget in widgets:
                line.addWidget(widget, 1 if widget is self.list else 0)
            column.addLayout(line)
        row.addStretch(0)
        below.addStretch(1)
        for signal in (session.project_changed, session.cursor.version_changed, session.grew):
            signal.connect(self.sync)
        self.sync()

    def sync(self) -> None:
        """Show what can be done."""
        read = bool(self.texts)
        for widget in (self.list, self.cover, self.replace, self.only):
            widget.setVisible(read)
        version = self._session.project.version(self._session.letter)
        self.seen.setVisible(bool(version.redactions))
        self.button.setText(tr("Stop") if self._worker else
                            tr("Detect again") if read else tr("Detect text in picture"))

    def start_or_stop(self) -> None:
        """Begin to read, or stop."""
        if self._worker is not None:
            self._worker.token.cancel()
            return
        self._worker = ReadingWorker(self._session)
        self._worker.read.connect(self._read, Qt.ConnectionType.QueuedConnection)
        self._worker.progressed.connect(self._progressed)
        self._worker.failed.connect(self._session.said)
        self._worker.finished.connect(self._ended)
        self._worker.start()
        self.sync()

    def _progressed(self, progress: Progress) -> None:
        self.about.setText(tr("Line {done} of {total}", done=progress.done + 1,
                              total=progress.total))

    def _read(self, texts: tuple[BurntText, ...]) -> None:
        self.texts = texts
        rate = self._session.analysis.master.rate
        self.list.clear()
        self.list.addItems([
            f"{timecode(text.start, rate)}  {text.text.replace(chr(10), ' / ')[:LONG]}"
            for text in texts])
        here = next((number for number, text in enumerate(texts)
                     if text.start <= self._session.frame < text.end_exclusive), 0)
        self.list.setCurrentIndex(here)
        if not texts:
            self._session.said.emit(tr("No text found in the picture of this film."))

    def _ended(self) -> None:
        self._worker = None
        self.about.setText(tr("Text in the picture"))
        self.sync()

    @property
    def chosen(self) -> BurntText | None:
        """The text that is chosen; None: none was read."""
        at = self.list.currentIndex()
        return self.texts[at] if 0 <= at < len(self.texts) else None

    def _go(self, at: int) -> None:
        text = self.texts[at]
        self._session.go((text.start + text.end_exclusive) // 2)

    def _colour(self) -> str | None:
        if self.cover.currentIndex() == 0:
            return None
        brand = self._session.project.brand
        return next(iter(brand.colours.values()), BOX) if brand else BOX

    def replace_with_title(self) -> None:
        """Cover the chosen words in the chosen version, and write them as a title."""
        session, text = self._session, self.chosen
        if text is None:
            return
        letter = session.letter
        shot = session.analysis.shot_at((text.start + text.end_exclusive) // 2)  # as it is now
        sheet, solution = session.sheet(letter), session.solution(letter, shot)
        region = live_region(session.analysis, ShownShot(
            shot, solution.placed, solution.panes), text, sheet)
        self._edit(lambda: with_words_rewritten(
            session.project, letter, text, region, sheet.canvas, self._colour()),
            tr("Version {letter}: replace “{words}” with a title", letter=letter,
               words=text.text.splitlines()[0]))

    def cover_only(self) -> None:
        """Cover the chosen words in the chosen version."""
        session, text = self._session, self.chosen
        if text is not None:
            self._edit(lambda: with_words_covered(
                session.project, session.letter, text, self._colour()),
                tr("Version {letter}: cover “{words}”", letter=session.letter,
                   words=text.text.splitlines()[0]))

    def uncover(self) -> None:
        """All words of the picture are seen in the chosen version again."""
        session = self._session
        self._edit(lambda: with_words_seen(session.project, session.letter),
                   tr("Version {letter}: remove covers", letter=session.letter))

    def _edit(self, change: Callable[[], Project], said: str) -> None:
        session, text = self._session, self.chosen
        try:
            session.edit(change(), said)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            return
        if text is not None and not text.start <= session.frame < text.end_exclusive:
            session.go((text.start + text.end_exclusive) // 2)

    def close_down(self) -> None:
        """Stop what runs."""
        if self._worker is not None:
            self._worker.token.cancel()
            self._worker.part()
