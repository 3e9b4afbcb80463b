"""A true-peak limiter that looks ahead: no peak between the samples goes beyond the limit.

Peaks are found after fourfold oversampling (ITU-R BS.1770-4 annex 2). The gain is the least that
any peak within reach asks for, smoothed over the same reach: it is down before the peak comes, and
comes up again as softly (the usual way to build one; common practice).
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from caracal.core.media.sound import Samples
from caracal.core.sound.loudness import amplitude

REACH_S = 0.005  # gain goes down within this time, and up
TAPS = 24  # of the original samples, for the places between them
OVERSAMPLING = 4
SPARE_DB = 0.3  # what the finite filter misses, and what a moving gain adds


def _between() -> NDArray[np.float64]:
    """Filters (3, TAPS) for the three places between two samples: a windowed sinc."""
    at = np.arange(TAPS) - TAPS / 2 + 1
    window = np.kaiser(TAPS * OVERSAMPLING + 1, 8.0)
    rows = []
    for k in range(1, OVERSAMPLING):
        place = at - k / OVERSAMPLING
        shape = np.interp(place, np.linspace(-TAPS / 2, TAPS / 2, len(window)), window)
        row = np.sinc(place) * shape
        rows.append(row / row.sum())
    return np.array(rows)


class Limiter:
    """Holds samples (n, channels) under ``limit_dbtp``; what comes out is as long as what went in.

    Push all samples, then :meth:`finish`: both return what is ready, in order.
    """

    def __init__(self, limit_dbtp: float, rate_hz: int, channels: int) -> None:
        self._limit = amplitude(limit_dbtp - SPARE_DB)
        self._reach = max(2, round(REACH_S * rate_hz))
        self._filters = _between()
        self._margin = 2 * self._reach + TAPS  # context that a sample's gain depends on, each side
        self._held = np.zeros((self._margin, channels), np.float32)  # silence comes before
        self._window = np.hanning(2 * self._reach + 3)[1:-1]
        self._window /= self._window.sum()

    def push(self, samples: Samples) -> Samples:
        """The samples that are ready once ``samples`` are known."""
        self._held = np.concatenate([self._held, samples])
        ready = len(self._held) - 2 * self._margin
        return self._take(ready) if ready > 0 else samples[:0]

    def finish(self) -> Samples:
        """Returns the samples that are still held back, when no more will come."""
        self._held = np.concatenate([self._held, np.zeros_like(self._held[: self._margin])])
        ready = len(self._held) - 2 * self._margin
        return self._take(ready) if ready > 0 else self._held[:0]

    def _take(self, ready: int) -> Samples:
        known = self._held[: ready + 2 * self._margin]
        out = self._held[self._margin : self._margin + ready]
        if float(np.abs(known).max(initial=0.0)) > self._limit * LOUD:
            gain = self._gain(known)[self._margin : self._margin + ready]
            out = (out * gain[:, None]).astype(np.float32)
        self._held = self._held[ready:]
        return np.asarray(out, np.float32)

    def _gain(self, samples: Samples) -> NDArray[np.float64]:
        peaks = np.abs(samples).max(axis=1).astype(np.float64)
        for row in self._filters:
            for channel in range(samples.shape[1]):
                between = np.abs(np.convolve(samples[:, channel], row[::-1], "same"))
                np.maximum(peaks, between, out=peaks)
        wanted = np.minimum(1.0, self._limit / np.maximum(peaks, 1e-9))
        reach = self._reach + 1  # the place between two samples belongs to both
        least = _running_least(wanted, reach)
        return np.convolve(least, self._window, "same")


LOUD = 0.6  # of the limit: peaks between quieter samples cannot reach it (here by more than 4 dB)


def _running_least(values: NDArray[np.float64], reach: int) -> NDArray[np.float64]:
    """The least of ``values`` within ``reach`` places on both sides, by doubling."""
    least, width = values, 1
    padded = np.pad(least, reach, constant_values=1.0)
    total = 2 * reach + 1
    while width * 2 <= total:
        padded = np.minimum(padded[:-width], padded[width:])
        width *= 2
    rest = total - width
    if rest:
        padded = np.minimum(padded[:-rest], padded[rest:])
    return padded
