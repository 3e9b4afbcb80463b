"""The captions as a list, with what must be looked at, and what finds and replaces in them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction

from PySide6.QtCore import QEvent, QItemSelectionModel, QModelIndex, QObject, Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from caracal.core.base.time import timecode
from caracal.core.base.translation import counted, tr
from caracal.core.text.caption_timing import faults
from caracal.core.text.cues import Cue, frames_of
from caracal.core.text.spelling import LANGUAGES, WORD
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.panels import small_button
from caracal.ui.widgets.tables import Cell, Row, Rows, chosen_rows, table
from caracal.ui.words.caption_ways import CaptionWays
from caracal.ui.words.cue_actions import CueActions
from caracal.ui.words.spelling_worker import SpellingWorker

HEADS = (tr("In"), tr("Duration (s)"), tr("Text"), tr("Issues"))
Told = tuple[tuple[str, str], ...]  # each fault in a word or two, and in a sentence
DOUBTFUL = (tr("unsure"), tr("A word was not recognised with certainty. Listen to it."))


class CueList(QWidget):
    """Click a caption to go there; several can be selected and deleted.

    Its attributes are the controls around the list, and what spelling found.
    """

    def __init__(self, session: Session, actions: CueActions, language: Callable[[], str]) -> None:
        """``language`` gives the code of the language that was chosen; none: any."""
        super().__init__()
        self._session, self._actions, self.language = session, actions, language
        self.rows = Rows(HEADS)
        self.table = table(self.rows, wide=2, many=True, name=tr("Captions"))
        self.table.setToolTip(tr("Click a caption to go there. Del deletes the selected ones"))
        self.table.clicked.connect(self._clicked)
        self.table.selectionModel().currentRowChanged.connect(self._moved)
        self.table.installEventFilter(self)
        self.ways = CaptionWays()
        self.ways.add.clicked.connect(lambda _=False: actions.add())
        self.wanted, self.by = QLineEdit(), QLineEdit()
        self.wanted.setPlaceholderText(tr("Find"))
        self.wanted.setToolTip(tr("Words in captions. Return goes to the next caption that has "
                                  "them"))
        self.wanted.returnPressed.connect(lambda: actions.find(self.wanted.text()))
        self.by.setPlaceholderText(tr("Replace with"))
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.wanted, 1)
        row.addWidget(self.by, 1)
        row.addWidget(small_button(tr("Replace all"), tr("Replace in every caption, as one step"),
                                   lambda: actions.replace(self.wanted.text(), self.by.text())))
        self.spelling = small_button(tr("Spelling"),
                                     tr("Mark misspelt words; a suggestion is put beside Find"),
                                     self.check_spelling)
        row.addWidget(self.spelling)
        row.addWidget(small_button(tr("Fix timing"),
                                   tr("Remove overlaps and short gaps, and show captions longer "
                                      "where there is room"),
                                   actions.mend))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.ways, 1)
        column.addWidget(self.table, 1)
        self.tools = QWidget()
        row.setContentsMargins(0, 0, 0, 0)
        self.tools.setLayout(row)
        column.addWidget(self.tools)
        self._shown: tuple[Cue, ...] | None = None
        self._rows_of: dict[tuple[Cue, Told], Row] = {}
        self._worker: SpellingWorker | None = None
        self.wrong: Mapping[str, str] = {}  # words that are spelt wrongly, and better ones
        actions.chosen.connect(self._show_chosen)
        session.project_changed.connect(self.sync)
        session.cursor.frame_changed.connect(self._follow)
        self.sync()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Del takes away what is chosen."""
        if watched is self.table and isinstance(event, QKeyEvent) and (
                event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Delete):
            self._actions.remove(chosen_rows(self.table))
            return True
        return super().eventFilter(watched, event)

    def chosen(self) -> list[int]:
        """The numbers of the captions that are chosen."""
        return chosen_rows(self.table)

    def showEvent(self, event: QShowEvent) -> None:
        """The caption at the playhead is the chosen one from the beginning."""
        super().showEvent(event)
        self._follow(self._session.frame)

    def check_spelling(self) -> None:
        """Look for wrong words, off the interface."""
        if self._worker is not None or not self._actions.cues:
            return
        language = self.language()
        self._worker = SpellingWorker(tuple(cue.text for cue in self._actions.cues), language,
                                      self._session.project.names)
        self._worker.checked.connect(self._checked)
        self._worker.failed.connect(self._session.said)
        self._worker.finished.connect(self._ended)
        self._worker.start()

    def _checked(self, wrong: Mapping[str, str], language: str) -> None:
        self.wrong, self._shown = wrong, None
        count = len(wrong)
        self._session.said.emit(
            tr("There is no word list for “{language}”. Choose another language above.",
               language=language)
            if language not in LANGUAGES else
            tr("{words} not in the word list of “{language}”.", language=language,
               words=counted(count, "{count} word", "{count} words") if count
               else tr("No words")))
        self.sync()
        first = next((i for i, cue in enumerate(self._actions.cues) if self._wrong_in(cue)), None)
        if first is not None:
            self._actions.choose(first)

    def _ended(self) -> None:
        self._worker = None

    def _wrong_in(self, cue: Cue) -> list[str]:
        return [word for word in WORD.findall(cue.text) if word.lower() in self.wrong]

    def close_down(self) -> None:
        """Hear no more of what runs."""
        if self._worker is not None:
            self._worker.part()

    def sync(self) -> None:
        """Show the film's captions."""
        cues = self._actions.cues
        if cues is self._shown:
            return
        self._shown = cues
        rate = self._actions.rate
        wrong: dict[int, Told] = {}
        for fault in faults(cues, rate):
            wrong[fault.number] = (*wrong.get(fault.number, ()), (fault.word, fault.sentence))
        for number, cue in enumerate(cues if self.wrong else ()):
            wrong[number] = (*wrong.get(number, ()), *(
                (f"“{word}”", tr("“{word}” is not in the word list.", word=word))
                for word in self._wrong_in(cue)))
        # Rows of captions that stay are taken as they are: there are more than a thousand an hour.
        before, self._rows_of = self._rows_of, {}
        for key in ((cue, wrong.get(i, ())) for i, cue in enumerate(cues)):
            self._rows_of[key] = before.get(key) or self._row(*key, rate)
        self.rows.show(tuple(self._rows_of[cue, wrong.get(i, ())] for i, cue in enumerate(cues)))
        self.ways.setVisible(not cues)
        for part in (self.table, self.tools):
            part.setVisible(bool(cues))
        self._show_chosen(self._actions.number)

    def _row(self, cue: Cue, wrong: Told, rate: Fraction) -> Row:
        if cue.doubtful:
            wrong = (*wrong, DOUBTFUL)
        words = "; ".join(word for word, _ in wrong)
        frame = frames_of(cue.start_s, cue.end_s, rate)[0]
        return (Cell(timecode(frame, rate)), Cell(f"{cue.seconds:.1f}"),
                Cell(cue.text.replace("\n", " / "), tip=cue.text),
                Cell(words, theme.ACCENT if words else "",
                     "\n".join(sentence for _, sentence in wrong)))

    def _clicked(self, index: QModelIndex) -> None:
        self._actions.choose(index.row())

    def _moved(self, now: QModelIndex, _: QModelIndex) -> None:
        if self.table.hasFocus() and now.isValid() and now.row() != self._actions.number:
            self._actions.choose(now.row())

    def _follow(self, frame: int) -> None:
        """While it plays, or is scrubbed, the caption that is seen is the chosen one."""
        number = self._actions.at(frame)
        if self.isVisible() and number != self._actions.number and number >= 0 and (
                self._session.speed or not self.table.hasFocus()):
            self._actions.choose(number, go=False)

    def _show_chosen(self, number: int) -> None:
        if not 0 <= number < len(self.rows.rows):
            return
        words = self._wrong_in(self._actions.cues[number]) if self.wrong else []
        if words:
            self.wanted.setText(words[0])
            self.by.setText(_as_written(words[0], self.wrong[words[0].lower()]))
        if number not in chosen_rows(self.table):
            selection = self.table.selectionModel()
            index = self.rows.index(number, 0)
            flags = (QItemSelectionModel.SelectionFlag.ClearAndSelect
                     | QItemSelectionModel.SelectionFlag.Rows)
            selection.blockSignals(True)
            selection.setCurrentIndex(index, flags)
            selection.blockSignals(False)
            self.table.viewport().update()
        self.table.scrollTo(self.rows.index(number, 0))


def _as_written(word: str, better: str) -> str:
    """``better`` with a capital letter where ``word`` has one."""
    return better.capitalize() if word[0].isupper() else better
