"""Sound without its highs or lows: Butterworth filters of second order, 12 dB an octave."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from scipy.signal import butter, sosfilt

from caracal.core.media.sound import Samples

ORDER = 2
SETTLE_S = 0.25  # a filter that begins in the middle of a sound hears so much of it before
MOST_SHARE = 0.49  # of the sampling rate: above it there is nothing to take out


class Reader(Protocol):
    """What samples are taken from, in their order."""

    def take(self, count: int) -> Samples:
        """The next ``count`` samples, (count, channels) float32."""

    def close(self) -> None:
        """Close the file."""


class FilterReader:
    """What ``reader`` gives, without what is above ``low_pass_hz`` and below ``high_pass_hz``.

    A frequency of 0 takes nothing out. The first ``skipped`` samples of ``reader`` only settle the
    filters.
    """

    def __init__(self, reader: Reader, rate_hz: int, channels: int, low_pass_hz: float,
                 high_pass_hz: float, skipped: int = 0) -> None:
        self._reader, most = reader, MOST_SHARE * rate_hz
        self._sections = []
        if 0 < low_pass_hz < most:
            self._sections.append(butter(ORDER, low_pass_hz, "low", output="sos", fs=rate_hz))
        if 0 < high_pass_hz < most:
            self._sections.append(butter(ORDER, high_pass_hz, "high", output="sos", fs=rate_hz))
        self._states = [np.zeros((len(each), 2, channels)) for each in self._sections]
        self._skipped = skipped

    def take(self, count: int) -> Samples:
        """The next ``count`` samples, (count, channels) float32."""
        skipped, self._skipped = self._skipped, 0
        samples = self._reader.take(skipped + count)
        for number, sections in enumerate(self._sections):
            filtered, self._states[number] = sosfilt(
                sections, samples, axis=0, zi=self._states[number])
            samples = np.asarray(filtered, np.float32)
        return samples[skipped:]

    def close(self) -> None:
        """Close the reader."""
        self._reader.close()
