"""What words are laid on: the film's pictures in a version, or one of its cards."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import msgspec

from caracal.core.layout.card import Card
from caracal.core.layout.overlay import Overlay
from caracal.core.project.caption_edits import Which, card_of, with_card
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import with_overlays
from caracal.ui.session import Session

COMING = 10  # frames that a new title takes to come


class Ground(Protocol):
    """Where things are laid; frames are counted as its overlays count them."""

    def overlays(self) -> tuple[Overlay, ...]:
        """All that lies there, from back to front."""
        ...

    def put(self, overlays: tuple[Overlay, ...]) -> Callable[[], Project]:
        """An edit after which these lie there."""
        ...

    def stretch(self) -> tuple[int, int]:
        """From which to which frame something new lies there."""
        ...

    def here(self) -> int:
        """The frame that is looked at."""
        ...

    def whole(self) -> tuple[int, int]:
        """Its first frame, and the one after its last."""
        ...


class FilmGround:
    """The film's pictures in the chosen version; new things lie there for some seconds."""

    def __init__(self, session: Session, stays_s: float) -> None:
        self._session, self._stays_s = session, stays_s

    def overlays(self) -> tuple[Overlay, ...]:
        return self._session.project.version(self._session.letter).overlays

    def put(self, overlays: tuple[Overlay, ...]) -> Callable[[], Project]:
        session = self._session
        return lambda: with_overlays(session.project, session.letter, overlays)

    def stretch(self) -> tuple[int, int]:
        session = self._session
        start = max(0, session.frame - COMING)  # it has come by now
        end = start + round(self._stays_s * session.rate)
        return start, min(end, session.analysis.master.frames)

    def here(self) -> int:
        return self._session.frame

    def whole(self) -> tuple[int, int]:
        ranges = self._session.project.ranges_of(self._session.letter)
        return ranges[0].start, ranges[-1].end_exclusive


class CardGround:
    """A card of the chosen version; what is laid on it stays until it ends."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self.which: Which = "opening"
        self.frame = 0  # of the card, that is looked at

    @property
    def card(self) -> Card | None:
        """The card, if the version has it."""
        return card_of(self._session.project.version(self._session.letter), self.which)

    def overlays(self) -> tuple[Overlay, ...]:
        return self.card.overlays if self.card is not None else ()

    def put(self, overlays: tuple[Overlay, ...]) -> Callable[[], Project]:
        session, card = self._session, self.card
        assert card is not None, "things are laid on a card that is there"
        changed = msgspec.structs.replace(card, overlays=overlays)
        return lambda: with_card(session.project, session.letter, self.which, changed)

    def stretch(self) -> tuple[int, int]:
        return self.whole()

    def here(self) -> int:
        return self.frame

    def whole(self) -> tuple[int, int]:
        return 0, self.card.frames if self.card is not None else 1
