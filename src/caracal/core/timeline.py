"""What of the master a file shows: ranges joined in film order, at the file's own rate, between
the cards before and after them.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from fractions import Fraction
from itertools import pairwise

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.errors import InputError
from caracal.core.time import FrameRange, rate_text, samples_at


class Timeline(msgspec.Struct, frozen=True):
    """``ranges`` of the master (at ``master_rate``), in order and apart, shown at ``rate``.

    ``blend`` mixes neighbouring pictures where the rates differ; else pictures are dropped or
    doubled. Speed never changes: sound needs no conversion. ``opening`` frames of the master's rate
    come before the film and ``closing`` after it: cards, while the first or last picture is held
    and nothing sounds. Places are counted through all of them, cards too.
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
    def frames(self) -> int:
        """Frames of the file: as many as fill the time, one at least."""
        return max(1, round(self.joined * self.ratio))

    @property
    def ratio(self) -> Fraction:
        """Frames of the file for one of the master."""
        return Fraction(self.rate) / Fraction(self.master_rate)

    @property
    def seconds(self) -> float:
        """How many seconds the file lasts."""
        return self.joined / float(Fraction(self.master_rate))

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
        exact = [k * step for k in range(self.frames)]
        places = np.array([min(math.floor(fraction), last) for fraction in exact], np.int64)
        shares = np.zeros(len(places))
        if self.blend and self.ratio != 1:
            shares = np.array([float(fraction - math.floor(fraction)) for fraction in exact])
            begins = self.begins(cuts)
            following = np.minimum(places + 1, last)
            shares[(following == places) | begins[following]] = 0.0
        return places, shares

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
        """(first sample, samples) of the master's sound for each range.

        Together exactly as many as the file's frames last without its cards.
        """
        rate = Fraction(self.master_rate)
        pieces = [(samples_at(span.start, rate, sample_rate),
                   samples_at(span.end_exclusive, rate, sample_rate)
                   - samples_at(span.start, rate, sample_rate)) for span in self.ranges]
        wanted = samples_at(self.frames, Fraction(self.rate), sample_rate) - sum(
            self.silence(sample_rate))
        over = sum(count for _, count in pieces) - wanted
        first, count = pieces[-1]
        return (*pieces[:-1], (first, max(1, count - over)))

    def silence(self, sample_rate: int) -> tuple[int, int]:
        """Samples of the card before the film, and of the one after it."""
        rate = Fraction(self.master_rate)
        return samples_at(self.opening, rate, sample_rate), samples_at(
            self.closing, rate, sample_rate)


def timeline(
    ranges: Iterable[FrameRange], master_rate: Fraction, rate: Fraction | None = None,
    blend: bool = False,
) -> Timeline:
    """A timeline of ``ranges``; those that touch or overlap become one.

    Raises InputError when there is none.
    """
    joined: list[FrameRange] = []
    for frame_range in sorted(ranges, key=lambda span: span.start):
        if joined and frame_range.start <= joined[-1].end_exclusive:
            end = max(frame_range.end_exclusive, joined[-1].end_exclusive)
            joined[-1] = FrameRange(joined[-1].start, end)
        else:
            joined.append(frame_range)
    if not joined:
        raise InputError("No range of the film was given.", remedy="Set in and out.")
    return Timeline(tuple(joined), rate_text(master_rate), rate_text(rate or master_rate), blend)


def cut(ranges: tuple[FrameRange, ...], start: int, end_exclusive: int) -> tuple[FrameRange, ...]:
    """The frames from place ``start`` to ``end_exclusive`` of ``ranges`` joined."""
    edges = np.cumsum([0, *(len(span) for span in ranges)])
    found = []
    for frame_range, (first, after) in zip(ranges, pairwise(edges), strict=True):
        low, high = max(start, int(first)), min(end_exclusive, int(after))
        if low < high:
            found.append(
                FrameRange(
                    frame_range.start + low - int(first), frame_range.start + high - int(first)
                )
            )
    return tuple(found)
