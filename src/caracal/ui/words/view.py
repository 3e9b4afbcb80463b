"""The Words view: captions as a list against the canvases; titles, cards, and how all of it looks.
"""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from caracal.core.text.caption_files import FORMATS, WRITTEN
from caracal.core.translation import counted, mark, tr
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.panels import small_button
from caracal.ui.session import Session
from caracal.ui.tall_pages import TallPages
from caracal.ui.words.brand_panel import BrandPanel
from caracal.ui.words.burnt_words import BurntWords
from caracal.ui.words.caption_panel import CaptionPanel
from caracal.ui.words.card_panel import CardPanel
from caracal.ui.words.cue_actions import CueActions
from caracal.ui.words.cue_editor import CueEditor
from caracal.ui.words.cue_list import CueList
from caracal.ui.words.cue_wave import CueWave
from caracal.ui.words.laid import FilmGround
from caracal.ui.words.recognition_row import RecognitionRow
from caracal.ui.words.title_panel import TitlePanel

READ = tr("Captions ({formats})", formats=" ".join(f'*{suffix}' for suffix in FORMATS))
WRITE = [f"{name} (*{suffix})" for name, suffix in zip(
    ("SubRip", "WebVTT", "ASS"), WRITTEN, strict=True)]
LEAST_HIGH = 120  # pixels of the canvases in a small window
STAYS_S = 4.0  # how long a new title is seen


class Words(QWidget):
    """Captions on the left; on the right the canvases, and below them what is styled."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.cue_actions = CueActions(session)
        self.wave = CueWave(session, self.cue_actions)
        self.editor = CueEditor(session, self.cue_actions)
        self.recognition = RecognitionRow(session)
        self.list = CueList(session, self.cue_actions, self.recognition.code)
        self.canvases = Canvases(session)
        self.captions = CaptionPanel(session, self.list.chosen)
        self.titles = TitlePanel(session, FilmGround(session, STAYS_S))
        self.burnt = BurntWords(session)
        self.cards = CardPanel(session)
        self.brand = BrandPanel(session)
        # The fields below have their height first; the pictures take what is left.
        self.canvases.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        self.canvases.setMinimumHeight(LEAST_HIGH)
        self.canvases.picked.connect(self._picked)
        self.pages = QStackedWidget()
        self.tabs: dict[str, QPushButton] = {}
        self._group = QButtonGroup(self)
        self._head = QLabel()
        self._head.setObjectName("head")
        self._lay_out()
        for signal in (session.project_changed, session.version_changed):
            signal.connect(self.sync)
        self.sync()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setSpacing(8)
        head.addWidget(self._head, 1)
        head.addWidget(small_button(tr("Take in…"),
                                    tr("Captions from a file: SRT, WebVTT, ASS, TTML"),
                                    self.ask_take_in))
        head.addWidget(small_button(tr("Give out…"), tr("Write the film's captions, or the chosen "
                                                        "version's, to a file"), self.ask_give_out))
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addLayout(head)
        left.addWidget(self.recognition)
        left.addWidget(self.list, 1)
        left.addWidget(self.wave)
        left.addWidget(self.editor)
        tabs = QHBoxLayout()
        tabs.setSpacing(8)
        for name, page in ((mark("Captions"), self.captions), (mark("Titles"), self._titles_page()),
                           (mark("Cards"), self.cards), (mark("Brand"), self.brand)):
            button = QPushButton(tr(name))
            button.setCheckable(True)
            button.setToolTip({"Captions": tr("How captions look in the chosen version"),
                               "Titles": tr("Headlines, lower thirds and labels over the film"),
                               "Cards": tr("Pictures of your own before and after the film"),
                               "Brand": tr("Colours, logo, styles and end card that the film bears")
                               }[name])
            button.clicked.connect(lambda _=False, name=name: self.show_page(name))
            self._group.addButton(button)
            tabs.addWidget(button)
            self.tabs[name] = button
            self.pages.addWidget(page)
        tabs.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(12)
        right.addWidget(self.canvases, 1)
        right.addLayout(tabs)
        tall = TallPages(self.pages)
        tall.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        right.addWidget(tall)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(12, 12, 8, 12)
        whole.setSpacing(8)
        whole.addLayout(left, 44)
        whole.addLayout(right, 56)
        self.show_page("Captions")

    def _titles_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.titles)
        column.addWidget(self.burnt)
        return page

    def show_page(self, name: str) -> None:
        """Show captions' look, titles, or cards."""
        self.tabs[name].setChecked(True)
        self.pages.setCurrentIndex(list(self.tabs).index(name))

    def sync(self) -> None:
        """Show how many captions there are."""
        count = len(self._session.project.captions)
        self._head.setText(tr("{captions} of the film",
                              captions=counted(count, "{count} caption", "{count} captions")))

    def _picked(self, number: int) -> None:
        """Something was taken hold of on a canvas."""
        self.titles.choose(number)
        self.show_page("Titles")

    def close_down(self) -> None:
        """Stop what runs, and wait for it."""
        self.recognition.close_down()
        self.burnt.close_down()
        self.list.close_down()

    def ask_take_in(self) -> None:
        """Ask for a file of captions."""
        start = str(self._session.film.parent)
        chosen = QFileDialog.getOpenFileName(self, tr("Captions"), start, READ)[0]
        if chosen:
            self.cue_actions.take_in(Path(chosen))

    def ask_give_out(self) -> None:
        """Ask where captions are written to, and whether for the film or the chosen version."""
        session = self._session
        film = session.film
        start = film.with_name(f"{film.stem} {session.letter}.srt")
        whole = [tr("Whole film: {kind}", kind=kind) for kind in WRITE]
        kinds = [*(tr("Version {letter}: {kind}", letter=session.letter, kind=kind)
                   for kind in WRITE), *whole]
        chosen, kind = QFileDialog.getSaveFileName(self, tr("Captions"), str(start),
                                                   ";;".join(kinds))
        if chosen:
            path = Path(chosen)
            suffix = kind[kind.rindex(".") : -1]
            path = path if path.suffix.lower() in WRITTEN else path.with_name(path.name + suffix)
            self.cue_actions.give_out(path, "" if kind in whole else session.letter)
