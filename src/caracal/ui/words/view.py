"""The Words view: captions as a list against the canvases; titles, cards, and how all of it looks.
"""

from __future__ import annotations

from pathlib import Path
from typing import cast

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QButtonGroup,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import counted, mark, tr
from caracal.core.exchange.caption_files import FORMATS, WRITTEN
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.session.session import Session
from caracal.ui.widgets.focus_policy import apply_focus_policy
from caracal.ui.widgets.named_pages import NamedPages
from caracal.ui.widgets.panels import small_button
from caracal.ui.widgets.tall_pages import TallPages
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
PAGES = {  # below the canvases: their names, and what is on them
    mark("Captions"): mark("How captions look in the chosen version"),
    mark("Titles"): mark("Headlines, lower thirds and labels over the film"),
    mark("Cards"): mark("Pictures of your own before and after the film"),
    mark("Brand"): mark("Colours, logo, styles and end card that the film bears"),
}


class Words(QWidget):
    """Captions on the left; on the right the canvases, and below them what is styled.

    Of the pages below, that of captions is made with the view, the others one by one once it shows.
    """

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
        # The fields below have their height first; the pictures take what is left.
        self.canvases.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        self.canvases.setMinimumHeight(LEAST_HIGH)
        self.canvases.picked.connect(self._picked)
        self.pages = NamedPages(PAGES)
        self.tabs: dict[str, QPushButton] = {}
        self._group = QButtonGroup(self)
        self._head = QLabel()
        self._head.setObjectName("head")
        self._made: dict[str, QWidget] = {}
        self._burnt: BurntWords | None = None
        self._lay_out()
        for signal in (session.project_changed, session.cursor.version_changed):
            signal.connect(self.sync)
        self.sync()
        self._later = QTimer(self)  # at 0 ms: whenever nothing else is to be done
        self._later.timeout.connect(self._make_next)
        self._later.start(0)

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
        for name, about in PAGES.items():
            button = QPushButton(tr(name))
            button.setCheckable(True)
            button.setToolTip(tr(about))
            button.clicked.connect(lambda _=False, name=name: self.show_page(name))
            self._group.addButton(button)
            tabs.addWidget(button)
            self.tabs[name] = button
        self._made["Captions"] = self.captions
        self.pages.put("Captions", self.captions)
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

    def _make_next(self) -> None:
        missing = [name for name in PAGES if name not in self._made]
        if missing:
            self._page(missing[0])
        else:
            self._later.stop()

    def _page(self, name: str) -> QWidget:
        """The page called ``name``, made if nobody needed it before."""
        if name not in self._made:
            page = self._made[name] = self._new_page(name)
            self.pages.put(name, page)
            apply_focus_policy(page)
        return self._made[name]

    def _new_page(self, name: str) -> QWidget:
        if name == "Brand":
            return BrandPanel(self._session)
        if name == "Cards":
            return CardPanel(self._session)
        page = QWidget()
        self._titles = TitlePanel(self._session, FilmGround(self._session, STAYS_S))
        self._burnt = BurntWords(self._session)
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self._titles)
        column.addWidget(self._burnt)
        return page

    @property
    def titles(self) -> TitlePanel:
        """The page of titles."""
        self._page("Titles")
        return self._titles

    @property
    def burnt(self) -> BurntWords:
        """The words that the film itself shows, below the titles."""
        self._page("Titles")
        assert self._burnt is not None
        return self._burnt

    @property
    def cards(self) -> CardPanel:
        """The page of cards."""
        return cast(CardPanel, self._page("Cards"))

    @property
    def brand(self) -> BrandPanel:
        """The page of the brand."""
        return cast(BrandPanel, self._page("Brand"))

    def show_page(self, name: str) -> None:
        """Show the page called ``name``: captions' look, titles, cards or the brand."""
        self._page(name)
        self.tabs[name].setChecked(True)
        self.pages.show_page(name)

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
        self._later.stop()
        self.recognition.close_down()
        if self._burnt is not None:
            self._burnt.close_down()
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
