"""What words are laid on: the film's pictures in a version, or one of its cards."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

import msgspec

from caracal.core.layout.card import Card
from caracal.core.layout.model import Canvas
from caracal.core.layout.overlay import Overlay
from caracal.core.project.caption_edits import Which, card_of, with_card
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import with_overlays
from caracal.core.render.builder import Surroundings, build_card_scene
from caracal.core.render.layers import TextLayer
from caracal.core.render.scene import Scene
from caracal.ui.session.session import Session

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

    def scene(self, frame: int, size: Canvas, without: Overlay) -> Scene | None:
        """What it is at a frame on a canvas of that ``size``, without one of the overlays; None:
        it is not there."""
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

    def scene(self, frame: int, size: Canvas, without: Overlay) -> Scene | None:
        session = self._session
        at = min(frame, session.analysis.known_to - 1)
        scene = session.scene(session.letter, at, size)
        return msgspec.structs.replace(scene, over=tuple(
            layer for layer in scene.over if not (
                isinstance(layer, TextLayer) or layer.content == without.content)))


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

    def scene(self, frame: int, size: Canvas, without: Overlay) -> Scene | None:
        if self.card is None:
            return None
        bare = msgspec.structs.replace(self.card, overlays=tuple(
            overlay for overlay in self.card.overlays if overlay != without))
        return self._scene(bare, frame, size)

    def picture(self, size: Canvas) -> Scene | None:
        """The card's middle on a canvas of that ``size``; None: there is no card."""
        return None if self.card is None else self._scene(self.card, self.card.frames // 2, size)

    @property
    def beside(self) -> int:
        """The frame of the film beside the card."""
        session = self._session
        ranges = session.project.ranges_of(session.letter)
        frame = ranges[0].start if self.which == "opening" else ranges[-1].end_exclusive - 1
        return min(frame, session.analysis.known_to - 1)

    def _scene(self, card: Card, at: int, size: Canvas) -> Scene:
        session, frame = self._session, self.beside
        return build_card_scene(
            card, at, session.shown(session.letter, frame), frame,
            Surroundings(session.analysis.active, session.rate), size, self.which == "opening")
