"""Where a film sounds, read apart from how its sound is mixed: the judge of a file's sound.

The envelope is the largest sample of any channel, whatever the channel is for, decoded by itself:
a mistake in mixing down, in placing or in cutting shows as a file that is silent where its master
sounds, or that sounds at another time.
"""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import av
import msgspec
import numpy as np
from av.audio.stream import AudioStream
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from caracal.core.media.av_errors import opened, reading
from caracal.core.media.channels import open_channels

STEP_S = 0.02  # of an envelope
WINDOW_STEPS = 25  # half a second
SOUNDS = 10 ** (-50 / 20)  # a peak that is heard: -50 dBFS
GONE = 10 ** (-40 / 20)  # of the master's peak: what is so much quieter is lost
NEAR_STEPS = 4  # by which times of ranges, and what stretches sound, are off at the most
SPARE_WINDOWS = 1  # at a joint or an end a window may differ
FARTHEST_S = 1.0  # within which a shift is looked for
CLEARLY = 0.1  # how much better another place must fit to be called the right one

Envelope = NDArray[np.float32]


class AudioMatch(msgspec.Struct, frozen=True):
    """A file's sound beside its master's: windows of half a second in which the master sounds,
    those of them that are silent in the file, and how much later the file sounds (s)."""

    sounding: int
    lost: int
    late_s: float

    @property
    def right(self) -> bool:
        """Whether all that sounds is there."""
        return self.lost <= SPARE_WINDOWS and self.lost < max(1, self.sounding)


def envelope(path: Path, stream_index: int, start_s: float, end_s: float, zero_s: float,
             ) -> Envelope:
    """Peaks (n,) of every STEP_S from ``start_s`` to ``end_s``, counted from the time ``zero_s``.

    Raises InputError when the file cannot be read.
    """
    peaks = np.zeros(max(1, round((end_s - start_s) / STEP_S)), np.float32)
    for seek_s in (zero_s + start_s - 2.0, None):
        if seek_s is not None and seek_s <= 0:
            continue
        with reading(path), opened(path) as container:
            stream = container.streams[stream_index]
            assert isinstance(stream, AudioStream)
            open_channels(stream)
            if seek_s is not None:
                container.seek(int(seek_s * 1_000_000))
            begins = _gather(peaks, container.decode(stream), zero_s + start_s)
        if begins is None or begins <= zero_s + start_s:
            break
        peaks[:] = 0  # the seek went too far: from the beginning
    return peaks


def _gather(peaks: Envelope, frames: Iterable[av.AudioFrame], from_s: float) -> float | None:
    """Put the peaks of ``frames`` where they belong; when the first frame begins."""
    resampler: av.AudioResampler | None = None
    form, begins, at = None, None, None
    for frame in frames:
        now = (frame.format.name, frame.layout.nb_channels, frame.sample_rate)
        if now != form:
            resampler, form = av.AudioResampler("flt"), now
        assert resampler is not None
        if frame.pts is not None and frame.time_base is not None:
            at = float(frame.pts * frame.time_base)
            begins = at if begins is None else begins
        loud = [np.abs(chunk.to_ndarray()).reshape(-1, now[1]).max(axis=1)
                for chunk in resampler.resample(frame)]
        for block in loud:
            if at is not None and at + len(block) / now[2] > from_s:
                _put(peaks, block, at - from_s, now[2])
        at = None if at is None else at + frame.samples / now[2]
        if at is not None and at - from_s > len(peaks) * STEP_S:
            break
    return begins


def _put(peaks: Envelope, loud: NDArray[np.float32], at_s: float, rate_hz: int) -> None:
    places = ((at_s + np.arange(len(loud)) / rate_hz) / STEP_S).astype(int)
    inside = (places >= 0) & (places < len(peaks)) & (at_s * rate_hz + np.arange(len(loud)) >= 0)
    np.maximum.at(peaks, places[inside], loud[inside])


def match_audio(master: Envelope, file: Envelope, gain: float) -> AudioMatch:
    """Compare envelopes of one length; ``gain`` is the amplitude the master's sound was given."""
    count = min(len(master), len(file)) // WINDOW_STEPS
    cut = count * WINDOW_STEPS
    if not count:
        return AudioMatch(0, 0, 0.0)
    # A short sound at the end of one window may lie at the beginning of the next in the file.
    near = maximum_filter1d(file, 2 * NEAR_STEPS + 1, mode="nearest")
    loud, found = (envelope[:cut].reshape(count, WINDOW_STEPS).max(axis=1)
                   for envelope in (master, near))
    sounding = loud > SOUNDS
    lost = sounding & (found < loud * min(gain, 1.0) * GONE)
    return AudioMatch(int(sounding.sum()), int(lost.sum()), _late(master[:cut], file[:cut]))


def _late(master: Envelope, file: Envelope) -> float:
    """How much later ``file`` sounds; 0 unless another place fits clearly better."""
    loud, other = (np.log10(np.maximum(each, 1e-4)).astype(np.float64) for each in (master, file))
    if loud.std() < 1e-3 or other.std() < 1e-3:
        return 0.0
    most = min(round(FARTHEST_S / STEP_S), len(loud) // 4)
    fits = {by: _fit(loud, other, by) for by in range(-most, most + 1)}
    best = max(fits, key=lambda by: fits[by])
    return best * STEP_S if fits[best] > fits[0] + CLEARLY else 0.0


def _fit(master: NDArray[np.float64], other: NDArray[np.float64], by: int) -> float:
    """Correlation of ``master`` with ``other`` taken ``by`` steps later."""
    a = master[max(0, -by) : len(master) - max(0, by)]
    b = other[max(0, by) : len(other) - max(0, -by)]
    a, b = a - a.mean(), b - b.mean()
    scale = float(np.sqrt((a * a).sum() * (b * b).sum()))
    return float((a * b).sum() / scale) if scale > 0 else 0.0
