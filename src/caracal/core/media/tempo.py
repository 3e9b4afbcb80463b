"""Sound at another speed and at its own pitch, by python-stretch: transients stay where they are.

The library stretches a whole piece of sound at a time, in its place to a few milliseconds. Long
sound is stretched in blocks with some of their surroundings, and joined in the quietest moment that
both have, where the waves fit.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import python_stretch
from numpy.typing import NDArray

from caracal.core.media.sound import Samples, SoundReader

STEPS = (0.5, 2.0)  # what is stretched at once: beyond them it smears
FIRST_S, MOST_S = 2.0, 32.0  # of blocks, each twice as long as the one before
LEAD_S = 0.25  # of what lies round a block
FADE_S, SHIFT_S = 0.01, 0.005  # of joints: how long, and how far the next block may be moved


class _Block(NamedTuple):
    """Stretched sound whose first sample is number ``start`` of all."""

    start: int
    samples: Samples

    def part(self, begin: int, end: int) -> Samples:
        """Its samples with the numbers ``begin`` to ``end``."""
        return self.samples[max(0, begin - self.start) : max(0, end - self.start)]


class TempoReader:
    """Reads what ``reader`` gives, ``speed`` times as fast; takes samples in their order.

    ``reader`` begins :func:`lead` samples before what is taken first. It is closed with this.
    """

    def __init__(self, reader: SoundReader, rate_hz: int, channels: int, speed: float) -> None:
        self._reader, self._rate, self._channels, self._speed = reader, rate_hz, channels, speed
        self._lead = lead(rate_hz)
        self._at, self._length = 0, round(FIRST_S * rate_hz)  # of the next block, in the source
        self._source: Samples = np.zeros((0, channels), np.float32)  # from a lead before it on
        self._block: _Block | None = None
        self._given = 0  # samples that were handed out, or lie ready
        self._held: Samples = np.zeros((0, channels), np.float32)

    def take(self, count: int) -> Samples:
        """The next ``count`` samples, (count, channels) float32. Raises InputError as its reader.
        """
        while len(self._held) < count:
            self._held = np.concatenate([self._held, *self._next()])
        taken, self._held = self._held[:count], self._held[count:]
        return taken

    def close(self) -> None:
        """Close the reader."""
        self._reader.close()

    def _next(self) -> list[Samples]:
        """The samples that are ready once the next block is known."""
        block, made = self._stretched(), list[Samples]()
        if self._block is not None:
            place, block = self._fitted(self._block, block)
            fade = round(FADE_S * self._rate)
            share = ((np.arange(fade, dtype=np.float32) + 0.5) / fade)[:, None]
            made += [self._block.part(self._given, place),
                     (self._block.part(place, place + fade) * (1 - share)
                     + block.part(place, place + fade) * share).astype(np.float32)]
            self._given = place + fade
        ready = round((self._at - self._lead / 2) / self._speed)  # joints come after that
        made.append(block.part(self._given, ready))
        self._block, self._given = block, ready
        return made

    def _stretched(self) -> _Block:
        """The next block of the source with a lead on either side, at its new speed."""
        begin, end = self._at - self._lead, self._at + self._length + self._lead
        more = self._reader.take(end - begin - len(self._source))
        sound = np.concatenate([self._source, more])
        self._source = sound[-2 * self._lead :]
        self._at += self._length
        self._length = min(2 * self._length, round(MOST_S * self._rate))
        for step in steps(self._speed):
            sound = self._faster(sound, step)
        return _Block(round(begin / self._speed), sound)

    def _faster(self, sound: Samples, step: float) -> Samples:
        stretch = python_stretch.Signalsmith.Stretch()
        stretch.preset(self._channels, float(self._rate))
        stretch.setTimeFactor(step)
        made = stretch.process(np.ascontiguousarray(sound.T, np.float32))
        return np.asarray(made, np.float32).T

    def _fitted(self, before: _Block, after: _Block) -> tuple[int, _Block]:
        """Where to go from one block to the next, and that one moved to where the waves fit."""
        fade, most = round(FADE_S * self._rate), round(SHIFT_S * self._rate)
        end = after.start + round(1.5 * self._lead / self._speed)  # half a lead after the joint
        place = self._given + _quietest(before.part(self._given, end - fade), fade)
        wave = before.part(place, place + fade).mean(axis=1)
        near = after.part(place - most, place + fade + most).mean(axis=1)
        shift = _best_shift(wave.astype(np.float64), near.astype(np.float64)) - most
        return place, _Block(after.start - shift, after.samples)


def lead(rate_hz: int) -> int:
    """How many samples before its beginning a reader for a TempoReader begins."""
    return round(LEAD_S * rate_hz)


def steps(speed: float) -> list[float]:
    """Speeds, each within what can be stretched at once, that together are ``speed``."""
    made, (slowest, fastest) = list[float](), STEPS
    while not slowest <= speed <= fastest:
        step = slowest if speed < slowest else fastest
        made.append(step)
        speed /= step
    return [*made, speed]


def _quietest(sound: Samples, count: int) -> int:
    """Where the ``count`` quietest neighbours of ``sound`` begin."""
    power = np.concatenate([[0.0], np.cumsum((sound.astype(np.float64) ** 2).sum(axis=1))])
    return int(np.argmin(power[count:] - power[:-count]))


def _best_shift(wave: NDArray[np.float64], other: NDArray[np.float64]) -> int:
    """By how many samples ``other`` (n + 2m,) must begin later for its n to fit ``wave`` (n,)."""
    places = np.lib.stride_tricks.sliding_window_view(other, len(wave))
    strength = np.sqrt((places**2).sum(axis=1) * (wave**2).sum()) + 1e-9
    return int(np.argmax(places @ wave / strength))
