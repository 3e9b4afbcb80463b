"""The Words view: captions as a list against the canvases; titles, cards, and how all of it looks.
"""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import cast

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from caracal.core.base.translation import counted, mark, tr
from caracal.core.exchange.caption_files import FORMATS, WRITTEN
from caracal.ui.canvases.canvases import Canvases
from caracal.ui.session.reach import EditKind
from caracal.ui.session.session import Session
from caracal.ui.widgets.focus_policy import apply_focus_policy
from caracal.ui.widgets.panels import small_button
from caracal.ui.widgets.questions import may_import
from caracal.ui.widgets.side import Page, Side, beside
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
WIDE = (540, 600)  # pixels of both, at a window 1280 wide
LEAST_HIGH = 120  # pixels of the canvases in a small window
SHOWN_S = 4.0  # how long a new title is shown
LATER = ("Titles", "Cards", "Brand", "Text in picture")  # pages that are made when they are shown


class Words(QWidget):
    """Captions on the left; on the right the canvases, and below them the side.

    Of the side's pages, that of captions is made with the view, the others one by one once it
    shows. Its attributes are the widgets of the view.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.cue_actions = CueActions(session)
        self.cue_actions.may_import = partial(may_import, self)
        self.wave = CueWave(session, self.cue_actions)
        self.editor = CueEditor(session, self.cue_actions)
        self.recognition = RecognitionRow(session)
        self.list = CueList(session, self.cue_actions, self.recognition.code)
        self.list.ways.transcribe.clicked.connect(lambda _=False: self.recognition.start_or_stop())
        self.list.ways.load.clicked.connect(lambda _=False: self.ask_take_in())
        self.canvases = Canvases(session)
        self.captions = CaptionPanel(session, self.list.chosen)
        # The fields below have their height first; the pictures take what is left.
        self.canvases.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Ignored)
        self.canvases.setMinimumHeight(LEAST_HIGH)
        self.canvases.picked.connect(self._picked)
        self._head = QLabel()
        self._head.setObjectName("head")
        self._made: dict[str, QWidget] = {}
        self._holders = {name: QWidget() for name in LATER}
        self.side = self._make_side()
        self._burnt: BurntWords | None = None
        self.side.shown.connect(lambda name: name in LATER and self._page(name))
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
        head.addWidget(small_button(tr("Import…"),
                                    tr("Captions from a file: SRT, WebVTT, ASS, TTML"),
                                    self.ask_take_in))
        head.addWidget(small_button(tr("Export…"), tr("Save the film's captions, or the chosen "
                                                      "version's, to a file"), self.ask_give_out))
        left = QVBoxLayout()
        left.setSpacing(8)
        left.addLayout(head)
        left.addWidget(self.recognition)
        left.addWidget(self.list, 1)
        left.addWidget(self.wave)
        left.addWidget(self.editor)
        right = QVBoxLayout()
        right.setSpacing(12)
        right.addWidget(self.canvases, 2)
        right.addWidget(self.side, 3)
        holders = []
        for column in (left, right):
            column.setContentsMargins(0, 0, 0, 0)
            holder = QWidget()
            holder.setLayout(column)
            holders.append(holder)
        self.halves = beside(holders[0], holders[1], WIDE)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(12, 12, 8, 12)
        whole.addWidget(self.halves)

    def _make_side(self) -> Side:
        for holder in self._holders.values():
            QVBoxLayout(holder).setContentsMargins(0, 0, 0, 0)
        return Side(self._session, (
            Page(mark("Captions"), mark("Style of captions"), self.captions, EditKind.CAPTIONS),
            Page(mark("Titles"), mark("Headlines, lower thirds and labels over the film"),
                 self._holders["Titles"], EditKind.TITLES),
            Page(mark("Cards"), mark("Pictures of your own before and after the film"),
                 self._holders["Cards"]),
            Page(mark("Brand"), mark("Colours, logo, styles and end card of the film"),
                 self._holders["Brand"]),
            Page(mark("Text in picture"), mark("Text in the film's own picture: cover or replace "
                                               "it"), self._holders["Text in picture"])))

    def _make_next(self) -> None:
        missing = [name for name in LATER if name not in self._made]
        if missing:
            self._page(missing[0])
        else:
            self._later.stop()

    def _page(self, name: str) -> QWidget:
        """The page called ``name``, made if nobody needed it before."""
        if name not in self._made:
            page = self._made[name] = self._new_page(name)
            column = self._holders[name].layout()
            assert column is not None
            column.addWidget(page)
            apply_focus_policy(page)
        return self._made[name]

    def _new_page(self, name: str) -> QWidget:
        if name == "Brand":
            return BrandPanel(self._session)
        if name == "Cards":
            return CardPanel(self._session)
        if name == "Text in picture":
            self._burnt = BurntWords(self._session)
            return self._burnt
        return TitlePanel(self._session, FilmGround(self._session, SHOWN_S), reached=True)

    @property
    def titles(self) -> TitlePanel:
        """The page of titles."""
        return cast(TitlePanel, self._page("Titles"))

    @property
    def burnt(self) -> BurntWords:
        """The words that the film itself shows."""
        return cast(BurntWords, self._page("Text in picture"))

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
        self.side.show_page(name)

    def sync(self) -> None:
        """Show how many captions there are."""
        count = len(self._session.project.captions)
        for part in (self.wave, self.editor):  # nothing that cannot be used
            part.setVisible(count > 0)
        self._head.setText(tr("{captions} in the film",
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
