"""Sound packets decoded, at one rate, and mixed down to the wanted channels.

A stream may change on its way: joined transport streams go from one codec to another, broadcasts
from six channels to two. What cannot be decoded is silence as long as it is rare, and refused when
it is not: silence is never put in the place of sound without a word.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.audio.stream import AudioStream
from numpy.typing import NDArray

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.media.channels import named, open_channels
from caracal.core.media.downmix_matrix import downmix

Samples = NDArray[np.float32]
BAD_SHARE = 0.02  # of the packets that may be damaged
BAD_ALLOWED = 3  # packets that may be damaged in any file, however short
SYNC_WORDS = {b"\x0b\x77": "ac3", b"\xff\xf1": "aac", b"\xff\xf9": "aac"}  # ETSI TS 102 366; ADTS


class AudioDownmixer:
    """Turns packets of ``stream`` into samples (n, channels) float32 at ``rate_hz``."""

    def __init__(self, path: Path, stream: AudioStream, rate_hz: int, channels: int) -> None:
        self._path, self._rate, self._channels = path, rate_hz, channels
        self._names = open_channels(stream)
        self._decoder: Any = stream.codec_context
        self._base = stream.time_base
        self._resampler: av.AudioResampler | None = None
        self._form: tuple[str, int, int] | None = None
        self._mix = downmix(self._names, channels)
        self._good = self._bad = 0

    def pieces(
        self, packets: Iterable[Any]
    ) -> Iterator[tuple[Fraction | None, Samples]]:
        """(time in seconds or None, samples) of everything that is heard, in order.

        Raises InputError when more than a few packets cannot be decoded.
        """
        for packet in packets:
            for frame in self._decoded(packet):
                for made in self._at_rate(frame):
                    samples = np.asarray(made.to_ndarray(), np.float32)
                    time = None if made.pts is None else (
                        Fraction(made.pts) * Fraction(made.time_base or 1))
                    yield time, samples.reshape(-1, len(self._mix)) @ self._mix

    def _decoded(self, packet: Any) -> list[av.AudioFrame]:
        try:
            frames = list(self._decoder.decode(packet))
        except av.error.InvalidDataError:
            frames = self._otherwise(packet)
        self._good += 1
        return frames

    def _otherwise(self, packet: Any) -> list[av.AudioFrame]:
        """The frames of a packet that is of another codec than was said; none of a damaged one."""
        codec = SYNC_WORDS.get(bytes(packet)[:2])
        if codec is not None and codec != self._decoder.name:
            other = av.CodecContext.create(codec, "r")
            try:
                frames = list(other.decode(packet))  # type: ignore[attr-defined]
            except av.error.FFmpegError:
                pass
            else:
                self._decoder = other
                return frames
        self._bad += 1
        if self._bad > max(BAD_ALLOWED, BAD_SHARE * (self._good + self._bad)):
            at = 0.0 if packet.pts is None else float(packet.pts * (packet.time_base or 0))
            raise InputError(tr("The sound cannot be read from {at:.1f} s on.", at=at), self._path,
                             tr("Export the film again, with AAC or PCM sound."))
        return []

    def _at_rate(self, frame: av.AudioFrame) -> Iterator[av.AudioFrame]:
        """Interleaved float samples at the wanted rate: one plane, however many channels."""
        form = (frame.format.name, frame.layout.nb_channels, frame.sample_rate)
        if form != self._form:
            if self._resampler is not None:
                yield from self._resampler.resample(None)
            self._resampler, self._form = av.AudioResampler("flt", None, self._rate), form
            if form[1] != len(self._names):
                self._names = named(tuple(channel.name for channel in frame.layout.channels))
            self._mix = downmix(self._names, self._channels)
        assert self._resampler is not None
        yield from self._resampler.resample(frame)
