"""How loud sound is: integrated loudness and true peak by ITU-R BS.1770, through ebur128."""

from __future__ import annotations

import math
from collections.abc import Iterable
from fractions import Fraction

import av
import av.filter
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.media.channels import LAYOUTS
from caracal.core.media.sound import Samples

MOMENTARY = "lavfi.r128.M"
QUIETEST_LUFS = -120.0  # of a block: nothing
SILENCE_LUFS = -70.0  # the absolute gate of BS.1770: what is below is silence


class Loudness(msgspec.Struct, frozen=True):
    """Integrated loudness in LUFS and the largest true peak in dBTP; -70 and lower are silence."""

    lufs: float
    true_peak_dbtp: float

    @property
    def silent(self) -> bool:
        """Whether there is nothing to hear."""
        return self.lufs <= SILENCE_LUFS


class Meter:
    """Measures samples (n, channels) pushed in order; the filter is FFmpeg's ebur128."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self._rate, self._channels, self._at = rate_hz, channels, 0
        self._last: dict[str, str] = {}
        self._blocks: list[float] = []
        graph = av.filter.Graph()
        source = graph.add_abuffer(format="flt", sample_rate=rate_hz, layout=LAYOUTS[channels],
                                   time_base=Fraction(1, rate_hz))
        meter = graph.add("ebur128", "metadata=1:peak=true")
        sink = graph.add("abuffersink")
        source.link_to(meter)
        meter.link_to(sink)
        graph.configure()
        self._graph = graph

    def push(self, samples: Samples) -> None:
        """This takes the next samples (n, channels) into account."""
        if not len(samples):
            return
        packed = np.ascontiguousarray(samples, np.float32).reshape(1, -1)
        frame = av.AudioFrame.from_ndarray(packed, "flt", LAYOUTS[self._channels])
        frame.sample_rate, frame.pts = self._rate, self._at
        frame.time_base = Fraction(1, self._rate)
        self._at += len(samples)
        self._graph.push(frame)
        self._pull()

    def result(self) -> Loudness:
        """What was measured; call it once, at the end."""
        padding = -self._at % (self._rate // 10)  # the meter tells every tenth of a second
        if padding:
            self.push(np.zeros((padding, self._channels), np.float32))
        self._graph.push(None)
        self._pull()
        peak = float(self._last.get("lavfi.r128.true_peak", "0") or 0)
        lufs = float(self._last.get("lavfi.r128.I", str(SILENCE_LUFS)))
        return Loudness(max(lufs, SILENCE_LUFS) if math.isfinite(lufs) else SILENCE_LUFS,
                        decibels(peak))

    @property
    def blocks(self) -> NDArray[np.float32]:
        """The loudness in LUFS (b,) of the 400 ms that end with each tenth of a second so far."""
        return np.array(self._blocks, np.float32)

    def _pull(self) -> None:
        while True:
            try:
                frame = self._graph.pull()
            except (av.error.BlockingIOError, av.error.EOFError):
                return
            self._last = {**self._last, **frame.metadata}
            moment = float(frame.metadata.get(MOMENTARY, SILENCE_LUFS))
            self._blocks.append(moment if math.isfinite(moment) else QUIETEST_LUFS)


def measured(chunks: Iterable[Samples], rate_hz: int, channels: int) -> Loudness:
    """The loudness of all ``chunks`` of samples (n, channels) together."""
    meter = Meter(rate_hz, channels)
    for chunk in chunks:
        meter.push(chunk)
    return meter.result()


def decibels(amplitude: float | NDArray[np.float64]) -> float:
    """dB of an amplitude; -120 for nothing."""
    return 20 * math.log10(max(float(amplitude), 1e-6))


def amplitude(db: float) -> float:
    """Returns the amplitude that is ``db`` decibels beside 1."""
    return float(10 ** (db / 20))
