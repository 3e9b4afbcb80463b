"""Cards: pictures of our own before and after the film, with words and pictures over a backdrop."""

from __future__ import annotations

import msgspec

from caracal.core.base.translation import tr
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.model import (
    Backdrop,
    Layout,
    Pane,
    PlainBackdrop,
)
from caracal.core.layout.overlay import Overlay, overlay_error

MOST_FRAMES = 100_000
MOST_ON_CARD = 20


class Card(msgspec.Struct, frozen=True):
    """``frames`` (of the film's rate) of a ``backdrop`` with ``overlays``, the last one in front.

    The overlays' frames are counted from the card's first. A soft backdrop is made of the film's
    picture beside it.
    """

    frames: int
    backdrop: Backdrop = PlainBackdrop()
    overlays: tuple[Overlay, ...] = ()

    @property
    def layout(self) -> Layout:
        """The backdrop as a layout."""
        return Layout("card", (Pane(self.backdrop),))

    def at(self, frame: int) -> tuple[Overlay, ...]:
        """The overlays of a card whose first frame has the number ``frame``."""
        return tuple(msgspec.structs.replace(
            overlay, start=overlay.start + frame,
            end_exclusive=min(overlay.end_exclusive, self.frames) + frame)
            for overlay in self.overlays if overlay.start < self.frames)


def card_error(card: Card) -> str:
    """What is wrong with ``card``, or nothing."""
    if not 0 < card.frames <= MOST_FRAMES:
        return tr("a card needs a length")
    if len(card.overlays) > MOST_ON_CARD:
        return tr("a card has at most {most_on_card} things on it", most_on_card=MOST_ON_CARD)
    return layout_error(card.layout) or next(
        filter(None, map(overlay_error, card.overlays)), "")
