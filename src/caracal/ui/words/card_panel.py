"""The cards of the chosen version: how long, on what, and what is on them."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QSignalBlocker, QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.layout.card import Card
from caracal.core.layout.model import (
    Backdrop,
    BlendBackdrop,
    PlainBackdrop,
)
from caracal.core.layout.overlay import Overlay
from caracal.core.project.caption_edits import Which, with_card, with_card_everywhere
from caracal.core.render.captions.placement import caption_area
from caracal.core.text.style import TextStyle, Title
from caracal.ui.session.session import Session
from caracal.ui.widgets import theme
from caracal.ui.widgets.backdrop_choice import BackdropChoice
from caracal.ui.widgets.panels import (
    ColourButton,
    choice_box,
    number_box,
    quiet,
    small_button,
)
from caracal.ui.words.laid import CardGround
from caracal.ui.words.title_panel import TitlePanel

FIRST_S = 2.5  # of a new card
WORDS = {"opening": tr("What this is about"), "closing": tr("What to do now")}
WHICH: tuple[Which, ...] = ("opening", "closing")
PICTURE_HIGH = 190


WHICH_WIDE = 124  # pixels of the choice between both cards


class CardPicture(QWidget):
    """The card as the file will have it, at its middle."""

    def __init__(self, session: Session, ground: CardGround) -> None:
        super().__init__()
        self._session, self._ground = session, ground
        self.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        session.preview.arrived.connect(lambda _: self.update())

    def minimumSizeHint(self) -> QSize:
        return QSize(0, PICTURE_HIGH)  # in a small window the fields come first

    def sizeHint(self) -> QSize:
        width, height = self._session.sheet(self._session.letter).canvas
        return QSize(2 * round(PICTURE_HIGH * width / height / 2), PICTURE_HIGH)

    def paintEvent(self, event: QPaintEvent) -> None:
        with QPainter(self) as p:
            p.fillRect(self.rect(), QColor(theme.PANEL))
            size = self.sizeHint()
            canvas = (size.width(), size.height())
            scene = self._ground.picture(canvas)
            if scene is not None:
                image = self._session.preview.get_scene("card", self._ground.beside, scene, canvas)
                if image is not None:
                    p.drawImage(0, 0, image)


class CardPanel(QWidget):
    """One card at a time: the one before the film, or the one after it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.ground = session, CardGround(session)
        self.which = choice_box([tr("Opening card"), tr("Closing card")],
                                tr("Which card is edited"), self._choose)
        self.which.setMinimumWidth(theme.scaled(WHICH_WIDE))
        self.length = number_box(0, 30, 0.1, 2, " s",
                                 tr("How long it is shown; 0: no card. It counts as part of the "
                                    "version's length"))
        self.length.valueChanged.connect(self._set_length)
        self.backdrop = BackdropChoice(session.assets, self._rebacked)
        self.colours = {}
        for name, field in ((tr("Colour…"), "colour"), (tr("Second colour…"), "other")):
            button = ColourButton(name, tr("A colour of the backdrop"))
            button.changed.connect(lambda colour, field=field: self._recolour(field, colour))
            self.colours[field] = button
        self.titles = TitlePanel(session, self.ground, pictures=True)
        self.picture = CardPicture(session, self.ground)
        row = QHBoxLayout()
        row.setSpacing(8)
        for widget in (self.which, quiet(tr("Duration")), self.length, quiet(tr("Backdrop")),
                       self.backdrop):
            row.addWidget(widget)
        row.addStretch(1)
        tints = QHBoxLayout()
        tints.setSpacing(8)
        for button in self.colours.values():
            tints.addWidget(button)
        tints.addStretch(1)
        row.addWidget(small_button(tr("Apply to all versions"),
                                   tr("Give every version this card, in its own proportions"),
                                   self.to_all))
        both = QHBoxLayout()
        both.setSpacing(12)
        both.addWidget(self.titles, 1)
        both.addWidget(self.picture)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addLayout(row)
        column.addLayout(tints)
        column.addLayout(both, 1)
        for signal in (session.project_changed, session.cursor.version_changed,
                       session.solutions_changed):
            signal.connect(self.sync)
        self.sync()

    def sync(self) -> None:
        """Show the card that is looked at."""
        card = self.ground.card
        self.ground.frame = card.frames // 2 if card else 0
        with QSignalBlocker(self.length):
            self.length.setValue(card.frames / self._session.rate if card else 0.0)
        backdrop = card.backdrop if card else PlainBackdrop()
        self.backdrop.show_backdrop(backdrop)
        for field, button in self.colours.items():
            button.setVisible(hasattr(backdrop, field))
            button.show_colour(getattr(backdrop, field, "#000000"))
        for widget in (self.backdrop, *self.colours.values(), self.titles):
            widget.setEnabled(card is not None)
        self.picture.updateGeometry()
        self.picture.update()

    def _choose(self, at: int) -> None:
        self.ground.which = WHICH[at]
        self.titles.sync()
        self.sync()

    def show_card(self, which: Which) -> None:
        """Look at the opening or the closing card."""
        self.which.setCurrentIndex(WHICH.index(which))
        self._choose(WHICH.index(which))

    def _set_length(self, seconds: float) -> None:
        session, card = self._session, self.ground.card
        frames = round(seconds * session.rate)
        if not frames:
            words = (tr("Version {letter}: remove opening card", letter=session.letter)
                     if self.ground.which == "opening"
                     else tr("Version {letter}: remove closing card", letter=session.letter))
            self._put(None, words)
        elif card is None:
            words = (tr("Version {letter}: add opening card", letter=session.letter)
                     if self.ground.which == "opening"
                     else tr("Version {letter}: add closing card", letter=session.letter))
            self._put(self._first(frames), words)
        else:
            whole = tuple(msgspec.structs.replace(
                overlay, end_exclusive=frames if overlay.end_exclusive == card.frames
                else overlay.end_exclusive) for overlay in card.overlays if overlay.start < frames)
            self._put(msgspec.structs.replace(card, frames=frames, overlays=whole),
                      tr("Edit card"), ("card length", session.letter, self.ground.which))

    def _first(self, frames: int) -> Card:
        """A new card, with words to write over."""
        (left, right), (top, bottom) = caption_area(self._session.sheet(self._session.letter))
        high = (bottom - top) * 0.4
        middle = (top + bottom) / 2
        title = Overlay(Title(WORDS[self.ground.which], TextStyle("Fraunces SemiBold", 0.15,
                                                                  "#f2ede4")),
                        0, frames, ((left, right), (middle - high / 2, middle + high / 2)))
        return Card(frames, BlendBackdrop(), (title,))

    def _recolour(self, field: str, colour: str) -> None:
        card = self.ground.card
        if card is not None:
            self._rebacked(msgspec.structs.replace(card.backdrop, **{field: colour}), field)

    def _rebacked(self, backdrop: Backdrop, field: str | None = None) -> None:
        card = self.ground.card
        if card is not None:
            self._put(msgspec.structs.replace(card, backdrop=backdrop), tr("Edit card"),
                      field and ("card", field, self._session.letter, self.ground.which))
        self.sync()

    def to_all(self) -> None:
        """Every version has the card that is looked at."""
        session = self._session
        canvases = {version.letter: session.sheet(version.letter).canvas
                    for version in session.project.versions}
        session.edit(with_card_everywhere(session.project, session.letter, self.ground.which,
                                          canvases), tr("All versions: apply card"))

    def _put(self, card: Card | None, words: str, gesture: object | None = None) -> None:
        session = self._session
        try:
            session.edit(with_card(session.project, session.letter, self.ground.which, card),
                         words, gesture)
        except CaracalError as problem:
            session.said.emit(problem.sentence())
            self.sync()
