"""What of the master a file shows: ranges joined in film order, at the file's own rate, between
the cards before and after them.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterable
from fractions import Fraction
from itertools import pairwise

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange, rate_text, samples_at
from caracal.core.base.translation import tr

Paced = tuple[int, int, Fraction, FrameRange | None]  # first place, places, first time, range


class Timeline(msgspec.Struct, frozen=True):
    """``ranges`` of the master (at ``master_rate``), in order, each at its pace, shown at ``rate``.

    ``blend`` mixes neighbouring pictures where the rates differ; else pictures are dropped or
    doubled. ``opening`` frames of the master's rate
    come before the film and ``closing`` after it: cards, while the first or last picture is held
    and nothing sounds. Places are counted through all of them, cards too; times are frames at the
    master's rate, of which a place may last more or less than one.
    """

    ranges: tuple[FrameRange, ...]
    master_rate: str
    rate: str
    blend: bool = False
    opening: int = 0
    closing: int = 0

    @property
    def joined(self) -> int:
        """Frames at the master's rate, of all ranges and both cards."""
        return self.opening + self.filmed + self.closing

    @property
    def filmed(self) -> int:
        """Frames of the master in all ranges."""
        return sum(len(span) for span in self.ranges)

    @property
    def duration_frames(self) -> Fraction:
        """How long all of it is shown, in frames at the master's rate."""
        shown = sum((span.duration_frames for span in self.ranges), Fraction(0))
        return self.opening + shown + self.closing

    @property
    def frames(self) -> int:
        """Frames of the file: as many as fill the time, one at least."""
        return max(1, round(self.duration_frames * self.ratio))

    @property
    def ratio(self) -> Fraction:
        """Frames of the file for one of the master."""
        return Fraction(self.rate) / Fraction(self.master_rate)

    @property
    def seconds(self) -> float:
        """How many seconds the file lasts."""
        return float(self.duration_frames) / float(Fraction(self.master_rate))

    def paced(self) -> list[Paced]:
        """Each card (which has no range) and range, in order."""
        ranges: list[tuple[int, Fraction, FrameRange | None]] = [
            (self.opening, Fraction(self.opening), None),
            *((len(span), span.duration_frames, span) for span in self.ranges),
            (self.closing, Fraction(self.closing), None)]
        made, at, time = list[Paced](), 0, Fraction(0)
        for count, lasts, span in ranges:
            if count:
                made.append((at, count, time, span))
            at, time = at + count, time + lasts
        return made

    def time_at(self, place: int) -> Fraction:
        """The time at which ``place`` begins to be shown."""
        pieces = self.paced()
        at, _, begins, span = pieces[bisect_right(pieces, place, key=lambda piece: piece[0]) - 1]
        return begins + (place - at) * Fraction(100, span.percent if span is not None else 100)

    def place_at(self, time: Fraction) -> Fraction:
        """The place that is shown at a ``time``, with the share of it that has passed."""
        pieces = self.paced()
        at, _, begins, span = pieces[bisect_right(pieces, time, key=lambda piece: piece[2]) - 1]
        return at + (time - begins) * Fraction(span.percent if span is not None else 100, 100)

    def master_frames(self) -> NDArray[np.int64]:
        """The frames (joined,) of the master, in order; those beside the cards are held."""
        filmed = np.concatenate([np.arange(span.start, span.end_exclusive) for span in self.ranges])
        return np.pad(filmed, (self.opening, self.closing), "edge")

    def sources(self, cuts: Iterable[int] = ()) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
        """For each frame of the file (n,): the place among the master's joined frames that it
        shows, and the share (0..1) of the one after it.

        Nothing is mixed over a joint or one of ``cuts`` (first frames of shots in the master).
        """
        step, last = 1 / self.ratio, self.joined - 1
        exact, mixed = self._exact(step)
        places = np.array([min(math.floor(place), last) for place in exact], np.int64)
        shares = np.zeros(len(places))
        if mixed.any():
            shares = np.array([float(place - math.floor(place)) for place in exact])
            begins = self.begins(cuts)
            following = np.minimum(places + 1, last)
            shares[(following == places) | begins[following] | ~mixed] = 0.0
        return places, shares

    def _exact(self, step: Fraction) -> tuple[list[Fraction], NDArray[np.bool_]]:
        """The exact place of every frame of the file, and whether it is mixed with the next."""
        between = self.blend and self.ratio != 1
        if all(span.percent == 100 for span in self.ranges):
            return [k * step for k in range(self.frames)], np.full(self.frames, between)
        exact, mixed, pieces, number = list[Fraction](), [], self.paced(), 0
        for k in range(self.frames):
            time = k * step
            while number + 1 < len(pieces) and pieces[number + 1][2] <= time:
                number += 1
            at, _, begins, span = pieces[number]
            percent = 100 if span is None else span.percent
            exact.append(at + (time - begins) * Fraction(percent, 100))
            mixed.append(between if span is None or percent == 100 else not span.repeated)
        return exact, np.array(mixed, np.bool_)

    def begins(self, cuts: Iterable[int] = ()) -> NDArray[np.bool_]:
        """Which of the joined frames (joined,) do not continue the one before: at the start, at a
        joint and at ``cuts`` (first frames of shots in the master)."""
        frames = self.master_frames()
        found = np.isin(frames, list(cuts)) | (np.diff(frames, prepend=frames[0] - 2) != 1)
        after = self.opening + self.filmed
        found[: self.opening] = found[after:] = False
        for first, count in ((0, self.opening), (self.opening, self.filmed), (after, self.closing)):
            if count:
                found[first] = True
        return np.asarray(found)

    def part(self, start: int, end_exclusive: int) -> Timeline:
        """The part of it from one place among the joined frames to another."""
        after = self.opening + self.filmed
        opening = max(0, min(end_exclusive, self.opening) - start)
        closing = max(0, end_exclusive - max(start, after))
        ranges = cut(self.ranges, start - self.opening, end_exclusive - self.opening)
        if not ranges:  # of a card alone: the picture that it holds comes after it, and is not seen
            held = self.ranges[0].start if opening else self.ranges[-1].end_exclusive - 1
            ranges, opening, closing = (FrameRange(held, held + 1),), opening or closing, 0
        return msgspec.structs.replace(self, ranges=ranges, opening=opening, closing=closing)

    def sound(self, sample_rate: int) -> tuple[tuple[int, int], ...]:
        """(first sample of the master's sound, samples of the file) for each range.

        Together exactly as many as the file's frames last without its cards.
        """
        rate = Fraction(self.master_rate)
        pieces = [(samples_at(span.start, rate, sample_rate),
                   round(Fraction(samples_at(span.end_exclusive, rate, sample_rate)
                                  - samples_at(span.start, rate, sample_rate)) * 100
                         / span.percent)) for span in self.ranges]
        wanted = samples_at(self.frames, Fraction(self.rate), sample_rate) - sum(
            self.silence(sample_rate))
        over = sum(count for _, count in pieces) - wanted
        for number in reversed(range(len(pieces))):  # the last one may be shorter than what is over
            first, count = pieces[number]
            pieces[number] = (first, max(0, count - over))
            over -= count - pieces[number][1]
        return tuple(pieces)

    def silence(self, sample_rate: int) -> tuple[int, int]:
        """Samples of the card before the film, and of the one after it: no more than the file's
        frames last, which may be half a frame less than both with what is between them.
        """
        rate = Fraction(self.master_rate)
        wanted = samples_at(self.frames, Fraction(self.rate), sample_rate)
        opening = min(wanted, samples_at(self.opening, rate, sample_rate))
        return opening, min(wanted - opening, samples_at(self.closing, rate, sample_rate))


def timeline(
    ranges: Iterable[FrameRange], master_rate: Fraction, rate: Fraction | None = None,
    blend: bool = False,
) -> Timeline:
    """A timeline of ``ranges``; those of one pace that touch or overlap become one.

    Raises InputError when there is none.
    """
    joined: list[FrameRange] = []
    for frame_range in sorted(ranges, key=lambda span: span.start):
        last = joined[-1] if joined else None
        if last is None or frame_range.start > last.end_exclusive:
            joined.append(frame_range)
        elif frame_range.speed == last.speed:
            end = max(frame_range.end_exclusive, last.end_exclusive)
            joined[-1] = msgspec.structs.replace(last, end_exclusive=end)
        else:
            rest = frame_range.within(last.end_exclusive, frame_range.end_exclusive)
            joined += [] if rest is None else [rest]
    if not joined:
        raise InputError(tr("No range was given."), remedy=tr("Set in and out."))
    return Timeline(tuple(joined), rate_text(master_rate), rate_text(rate or master_rate), blend)


def cut(ranges: tuple[FrameRange, ...], start: int, end_exclusive: int) -> tuple[FrameRange, ...]:
    """The frames from place ``start`` to ``end_exclusive`` of ``ranges`` joined."""
    edges = np.cumsum([0, *(len(span) for span in ranges)])
    found = []
    for frame_range, (first, after) in zip(ranges, pairwise(edges), strict=True):
        low, high = max(start, int(first)), min(end_exclusive, int(after))
        if low < high:
            part = frame_range.within(frame_range.start + low - int(first),
                                      frame_range.start + high - int(first))
            assert part is not None
            found.append(part)
    return tuple(found)
