"""Where added sounds lie in a version's file, in samples."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.time import FrameRange, samples_at
from caracal.core.media.master import Master
from caracal.core.media.sound import Samples
from caracal.core.sound.ducking import Point, Span, duck_points

LOOP_FADE_S = 0.03  # over which a repeated sound goes into its own beginning
LEAST_PIECE_S = 0.2  # shorter sounds are not repeated: that would be a buzz


class AddedAudio(msgspec.Struct, frozen=True):
    """A sound beside the film's own: ``source`` from ``start_s`` to ``end_s``.

    It begins ``delay_s`` after ``frame`` of the film, or after the version's start (None); with
    ``at_end`` it ends so long before the version's end. It ``fills`` the version up to its end.
    Repeated, it goes on after ``loop_s`` seconds as it began (None: after all of it but what is
    crossed over); ``loop_fits``: with the same wave, so that both together are louder than each.
    ``duck_db`` lowers it while somebody speaks; while one that ``speaks`` is heard others are
    lowered.
    """

    source: Master
    start_s: float
    end_s: float
    frame: int | None = None
    at_end: bool = False
    delay_s: float = 0.0
    fills: bool = False
    gain_db: float = 0.0
    fade_in_s: float = 0.0
    fade_out_s: float = 0.0
    duck_db: float = 0.0
    low_pass_hz: float = 0.0
    high_pass_hz: float = 0.0
    speaks: bool = False
    loop_s: float | None = None
    loop_fits: bool = False


class GainShape(msgspec.Struct, frozen=True):
    """The gain of a sound that lies from place ``start`` to ``end``: it is faded with equal power
    over its first ``fade_in`` and last ``fade_out`` samples, and follows ``points`` (place, dB).
    """

    start: int
    end: int
    fade_in: int = 0
    fade_out: int = 0
    points: tuple[Point, ...] = ()

    def gain(self, places: NDArray[np.int64]) -> Samples:
        """What samples at ``places`` (n,) are multiplied with, (n,)."""
        made = np.ones(len(places))
        if self.fade_in:
            made *= equal_power((places - self.start + 0.5) / self.fade_in)
        if self.fade_out:
            made *= equal_power((self.end - places - 0.5) / self.fade_out)
        if self.points:
            at, decibels = zip(*self.points, strict=True)
            made *= 10 ** (np.interp(places, at, decibels, 0.0, 0.0) / 20)
        return made.astype(np.float32)

    def moved(self, by: int) -> GainShape:
        """The same, ``by`` samples later."""
        return GainShape(self.start + by, self.end + by, self.fade_in, self.fade_out,
                         tuple((place + by, gain) for place, gain in self.points))


def equal_power(share: NDArray[np.float64]) -> NDArray[np.float64]:
    """The gain at a ``share`` (0..1) of a fade in: two that cross have the same power together."""
    return np.sin(np.clip(share, 0, 1) * (np.pi / 2))


class ShownRange(msgspec.Struct, frozen=True):
    """A ``span`` of the film that lies at place ``at`` of a file and lasts ``count`` samples."""

    span: FrameRange
    at: int
    count: int

    def place(self, frame: int, rate: Fraction, rate_hz: int) -> int:
        """Where ``frame`` of the film, of that ``rate``, lies."""
        return self.at + min(self.count, samples_at(
            max(0, frame - self.span.start), rate, rate_hz) * 100 // self.span.percent)


class Laid(msgspec.Struct, frozen=True):
    """A sound that lies in a file: its pieces, each (first sample of the source, place, samples).

    Where pieces overlap, each goes into the next over ``crossfade`` samples.
    """

    audio: AddedAudio
    pieces: tuple[tuple[int, int, int], ...]
    crossfade: int
    shape: GainShape


def laid_in_file(
    added: Iterable[AddedAudio], speech: Iterable[Span], shown: tuple[ShownRange, ...],
    rate: Fraction, rate_hz: int, length: int,
) -> list[Laid]:
    """Where ``added`` lie in a file of ``length`` samples that shows ``shown`` of a film of that
    ``rate``; what is not heard is left out. ``speech`` are frames of the film [first, end).
    """
    spans = [(audio, span) for audio in added
             if (span := _span(audio, shown, rate, rate_hz, length)) is not None]
    spoken = [*_speech(speech, shown, rate, rate_hz),
              *(span for audio, span in spans if audio.speaks)]
    made = []
    for audio, (start, end) in spans:
        crossfade, pieces = _pieces(audio, start, end, rate_hz)
        fade_in, fade_out = _fitting(round(audio.fade_in_s * rate_hz),
                                     round(audio.fade_out_s * rate_hz), end - start)
        others = [each for each in spoken if not (audio.speaks and each == (start, end))]
        points = duck_points(others, audio.duck_db, rate_hz) if audio.duck_db else ()
        made.append(Laid(audio, pieces, crossfade,
                         GainShape(start, end, fade_in, fade_out, points)))
    return made


def _span(
    audio: AddedAudio, shown: tuple[ShownRange, ...], rate: Fraction, rate_hz: int, length: int
) -> Span | None:
    """From where to where ``audio`` is heard; None: it is not."""
    lasts, delay = _lasts(audio, rate_hz), round(audio.delay_s * rate_hz)
    if audio.at_end:
        end = length - delay
        return (max(0, end - lasts), end) if end > 0 else None
    start = delay
    if audio.frame is not None:
        there = next((each for each in shown
                      if each.span.start <= audio.frame < each.span.end_exclusive), None)
        if there is None:
            return None
        start += there.place(audio.frame, rate, rate_hz)
    end = length if audio.fills else min(length, start + lasts)
    return (start, end) if end > start else None


def _lasts(audio: AddedAudio, rate_hz: int) -> int:
    return max(1, round(audio.end_s * rate_hz) - round(audio.start_s * rate_hz))


def _pieces(
    audio: AddedAudio, start: int, end: int, rate_hz: int
) -> tuple[int, tuple[tuple[int, int, int], ...]]:
    """The samples that a repeated sound crosses over, and its pieces from ``start`` to ``end``."""
    first, lasts = round(audio.start_s * rate_hz), _lasts(audio, rate_hz)
    if audio.at_end:
        return 0, ((first + lasts - (end - start), start, end - start),)
    if lasts >= end - start or lasts < LEAST_PIECE_S * rate_hz:
        return 0, ((first, start, min(lasts, end - start)),)
    crossfade = min(round(LOOP_FADE_S * rate_hz), lasts // 4)
    again = lasts - crossfade
    if audio.loop_s is not None:
        again = max(crossfade, min(again, round(audio.loop_s * rate_hz)))
        lasts = again + crossfade
    places = range(start, end, again)
    return crossfade, tuple((first, place, min(lasts, end - place)) for place in places)


def _fitting(fade_in: int, fade_out: int, most: int) -> tuple[int, int]:
    """Both fades, shortened alike where a sound is shorter than the two together."""
    if fade_in + fade_out <= most:
        return fade_in, fade_out
    return fade_in * most // (fade_in + fade_out), fade_out * most // (fade_in + fade_out)


def _speech(
    speech: Iterable[Span], shown: tuple[ShownRange, ...], rate: Fraction, rate_hz: int
) -> Iterator[Span]:
    """``speech`` in places of the file, as far as it is shown and heard."""
    for first, end in speech:
        for each in shown:
            low, high = max(first, each.span.start), min(end, each.span.end_exclusive)
            if low < high and not each.span.muted:
                yield each.place(low, rate, rate_hz), each.place(high, rate, rate_hz)
