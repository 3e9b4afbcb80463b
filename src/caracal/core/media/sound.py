"""The master's sound as samples counted from its first picture."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from types import TracebackType

import av
import numpy as np
from av.stream import Discard
from numpy.typing import NDArray

from caracal.core.media.downmix import downmix
from caracal.core.media.gate import opened, reading
from caracal.core.media.look import Master

Samples = NDArray[np.float32]
LAYOUTS = {1: "mono", 2: "stereo", 6: "5.1"}


class SoundReader:
    """Reads the first sound stream as float samples (n, channels), -1..1, from ``first_sample``.

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
        assert self._container is not None
        stream = self._container.streams.audio[0]
        for other in self._container.streams:
            if other.index != stream.index:
                other.discard = Discard.all
        resampler = av.AudioResampler("fltp", None, self._rate)
        mix: NDArray[np.float32] | None = None
        start_s = Fraction(self._master.start_s).limit_denominator(10**6)
        if self._first > 0:
            wanted_s = start_s + Fraction(self._first, self._rate) - 1
            self._container.seek(int(max(Fraction(0), wanted_s) * 1_000_000))
        skip: int | None = None
        with reading(self._master.file):
            for packet in self._container.demux(stream):
                for frame in packet.decode():
                    for made in resampler.resample(frame):
                        if mix is None:
                            names = tuple(one.name for one in made.layout.channels)
                            mix = downmix(names, self._channels)
                        samples = np.asarray(made.to_ndarray(), np.float32).T @ mix
                        if skip is None:
                            time = Fraction(made.pts or 0) * Fraction(made.time_base or 1)
                            at = round((time - start_s) * self._rate)
                            skip = self._first - at
                            if skip < 0:  # sound begins after the picture
                                yield np.zeros((-skip, self._channels), np.float32)
                                skip = 0
                        if skip < len(samples):
                            yield samples[skip:]
                        skip = max(0, skip - len(samples))
