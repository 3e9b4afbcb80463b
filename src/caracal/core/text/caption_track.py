"""Captions that are set for one canvas: which lines are seen at each frame, where they stand, and
what of them is said.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Sequence

import msgspec

from caracal.core.base.geometry import Region
from caracal.core.text.block import TextBlock
from caracal.core.text.caption_look import CaptionLook, CaptionManner, CaptionPlace
from caracal.core.text.raster import NOTHING_SAID, Said

ANCHOR = {CaptionPlace.LOW: 1.0, CaptionPlace.MIDDLE: 0.5, CaptionPlace.TOP: 0.0,
          CaptionPlace.BESIDE: 1.0}  # where nobody is seen who speaks


class Stand(msgspec.Struct, frozen=True):
    """Where captions stand, in shares of the canvas: the middle of their lines at ``x``, as far as
    the clear area lets them; at ``y`` their top (``anchor`` 0), their end (1), or what is between.
    """

    x: float
    y: float
    anchor: float


Stands = tuple[Stand, ...]  # for each look of a track
Places = Sequence[tuple[int, Stands]]  # from a frame of the film on


def stand_in(place: CaptionPlace, clear: Region) -> Stand:
    """Where captions of that ``place`` stand in a ``clear`` area."""
    (left, right), (top, bottom) = clear
    anchor = ANCHOR[place]
    return Stand((left + right) / 2, top + (bottom - top) * anchor, anchor)


class SetWord(msgspec.Struct, frozen=True):
    """Characters ``first`` to ``end`` of a caption, said from frame ``start`` to ``stop``."""

    first: int
    end: int
    start: int
    stop: int


class SetCaption(msgspec.Struct, frozen=True):
    """Lines that are seen in the frames from ``start`` to ``end_exclusive``, and where; ``look`` is
    the number of theirs in their track.
    """

    start: int
    end_exclusive: int
    block: TextBlock
    stand: Stand
    words: tuple[SetWord, ...] = ()
    look: int = 0


class CaptionTrack(msgspec.Struct, frozen=True):
    """All captions of a file, set for its canvas, in order; ``clear`` is where they may lie.

    ``looks`` are theirs: that of most of them, then those of stretches.
    """

    captions: tuple[SetCaption, ...]
    looks: tuple[CaptionLook, ...]
    clear: Region

    def look_of(self, caption: SetCaption) -> CaptionLook:
        """How ``caption`` looks."""
        return self.looks[caption.look]

    def point(self, caption: SetCaption, canvas: tuple[int, int]) -> tuple[float, float]:
        """The middle and, by its stand's anchor, the height of ``caption`` on a ``canvas``, in
        shares of it: where it stands, so that its lines lie in the clear area.
        """
        (left, right), _ = self.clear
        wide = caption.block.width * self.look_of(caption).style.size * min(canvas) / canvas[0]
        if wide >= right - left:
            return (left + right) / 2, caption.stand.y
        x = min(max(caption.stand.x, left + wide / 2), right - wide / 2)
        return x, caption.stand.y

    def at(self, frame: int) -> SetCaption | None:
        """The caption that is seen at ``frame``."""
        number = bisect_right(self.captions, frame, key=lambda caption: caption.start) - 1
        if number < 0 or frame >= self.captions[number].end_exclusive:
            return None
        return self.captions[number]

    def said(self, caption: SetCaption, frame: int) -> Said:
        """What of ``caption`` is told apart at ``frame``."""
        look = self.look_of(caption)
        if look.manner is CaptionManner.WORDS:
            spoken = [word for word in caption.words if word.start <= frame]
            return Said(look.said, 0, spoken[-1].end) if spoken else NOTHING_SAID
        if look.manner is CaptionManner.TYPED:
            return Said(hidden_from=_typed(caption.words, frame))
        return NOTHING_SAID

    def part(self, start: int, end_exclusive: int) -> CaptionTrack:
        """The frames from ``start`` on, counted from there."""
        return msgspec.structs.replace(self, captions=tuple(
            _later(caption, -start) for caption in self.captions
            if caption.start < end_exclusive and caption.end_exclusive > start))


def _later(caption: SetCaption, by: int) -> SetCaption:
    return msgspec.structs.replace(
        caption, start=caption.start + by, end_exclusive=caption.end_exclusive + by,
        words=tuple(msgspec.structs.replace(word, start=word.start + by, stop=word.stop + by)
                    for word in caption.words))


def _typed(words: Sequence[SetWord], frame: int) -> int:
    """How many characters are written by ``frame``."""
    for word in words:
        if frame < word.start:
            return word.first
        if frame < word.stop:
            share = (frame + 1 - word.start) / max(1, word.stop - word.start)
            return word.first + math.ceil((word.end - word.first) * share)
    return words[-1].end if words else 0
