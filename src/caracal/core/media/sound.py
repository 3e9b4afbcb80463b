"""The master's sound as samples counted from its first picture."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import chain
from types import TracebackType

import numpy as np
from av.audio.stream import AudioStream
from av.stream import Discard
from numpy.typing import NDArray

from caracal.core.media.audio_downmixer import AudioDownmixer
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.master import Master

Samples = NDArray[np.float32]
MOST_EARLY = 500  # pieces without a time that are held until one has


class SoundReader:
    """Reads the chosen sound stream as float samples (n, channels), -1..1, from ``first_sample``.

    Sample 0 is heard with the first picture. Where the master has no sound, before it begins and
    after it ends there is silence, so that any amount can be taken. Use as a context manager.
    Raises InputError when the file cannot be read.
    """

    def __init__(
        self, master: Master, rate_hz: int, channels: int, first_sample: int = 0
    ) -> None:
        self._master, self._rate, self._channels = master, rate_hz, channels
        self._first = first_sample
        self._container = opened(master.file) if master.sound else None
        self._chunks = self._decode() if self._container else iter(())
        self._held: Samples = np.zeros((0, channels), np.float32)
        self._ended = False

    def __enter__(self) -> SoundReader:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, problem: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.close()

    def close(self) -> None:
        """Close the file."""
        if self._container is not None:
            self._container.close()

    def take(self, count: int) -> Samples:
        """The next ``count`` samples, (count, channels) float32; silence after the end."""
        parts, have = [self._held], len(self._held)
        while have < count and not self._ended:
            chunk = next(self._chunks, None)
            if chunk is None:
                self._ended = True
                break
            parts.append(chunk)
            have += len(chunk)
        if have < count:
            parts.append(np.zeros((count - have, self._channels), np.float32))
        everything = np.concatenate(parts)
        self._held = everything[count:]
        return everything[:count]

    def _decode(self) -> Iterator[Samples]:
        """Samples from ``first_sample`` on: silence up to where the sound begins, then the sound.
        """
        if self._first > 0 and not self._master.discontinuous:
            pieces = self._pieces(self._start_s + Fraction(self._first, self._rate) - 1)
            first = next(pieces, None)
            if first is not None and first[0] is not None and first[0] <= self._first:
                yield from self._from_first(chain([first], pieces))
                return
            assert self._container is not None
            self._container.close()  # a seek may land too late
            self._container = opened(self._master.file)
        yield from self._from_first(self._pieces(None))

    def _from_first(self, pieces: Iterator[tuple[int | None, Samples]]) -> Iterator[Samples]:
        """The samples of ``pieces`` (number of its first sample or None, samples) in order."""
        skip: int | None = None
        early: list[Samples] = []  # what has no time of its own comes before what has
        for at, samples in pieces:
            if skip is None and at is None and len(early) < MOST_EARLY:
                early.append(samples)
                continue
            if skip is None:
                skip = self._first - (at or 0) + sum(len(samples) for samples in early)
                yield from self._silence(-skip)
                skip = max(0, skip)
            for block in (*early, samples):
                if skip < len(block):
                    yield block[skip:]
                skip = max(0, skip - len(block))
            early = []

    def _pieces(self, seek_s: Fraction | None) -> Iterator[tuple[int | None, Samples]]:
        """(number of the first sample, samples) as they are decoded, from about ``seek_s`` on."""
        sound, container = self._master.heard, self._container
        assert container is not None and sound is not None
        stream = container.streams[sound.index]
        assert isinstance(stream, AudioStream)
        for other in container.streams:
            if other.index != stream.index:
                other.discard = Discard.all
        mixed = AudioDownmixer(self._master.file, stream, self._rate, self._channels)
        with reading(self._master.file):
            if seek_s is not None and seek_s > 0:
                container.seek(int(seek_s * 1_000_000))
            for time, samples in mixed.pieces(container.demux(stream)):
                yield (None if time is None else round((time - self._start_s) * self._rate),
                       samples)

    @property
    def _start_s(self) -> Fraction:
        return Fraction(self._master.start_s).limit_denominator(10**6)

    def _silence(self, count: int) -> Iterator[Samples]:
        """``count`` samples of silence in pieces of a second: memory stays small."""
        for at in range(0, count, self._rate):
            yield np.zeros((min(self._rate, count - at), self._channels), np.float32)
