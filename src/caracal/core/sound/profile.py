"""How loud sound is from moment to moment, and from it how loud it will be under a limiter.

A whole film is read once; its loudness for any gain is then a sum over what was kept. The limiter
is imitated by the peaks of every hundredth of a second, so what comes out is close but not exact:
callers measure the finished sound.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from caracal.core.media.sound import Samples
from caracal.core.sound.loudness import SILENCE_LUFS, Loudness, Meter, amplitude

STEPS_A_SECOND = 100  # of peaks and powers
STEPS_A_BLOCK = 40  # a gating block of BS.1770 lasts 400 ms
BLOCKS_A_SECOND = 10  # they overlap by three quarters
RELATIVE_GATE_LU = 10.0  # BS.1770-4: under the mean of all that is above the absolute gate


class SoundProfile(NamedTuple):
    """The ``loudness`` of sound, and what it is made of.

    ``blocks`` (b,) are the loudness in LUFS of each gating block; ``peaks`` and ``powers`` (s,) the
    largest amplitude and the mean square of each hundredth of a second, over all channels.
    """

    loudness: Loudness
    blocks: NDArray[np.float32]
    peaks: NDArray[np.float32]
    powers: NDArray[np.float32]

    def lufs_at(self, gain_db: float, limit_dbtp: float) -> float:
        """About how loud it is with a gain, held under a limit."""
        gain = amplitude(gain_db)
        kept = np.minimum(1.0, amplitude(limit_dbtp) / np.maximum(self.peaks * gain, 1e-9))
        powers = self.powers.astype(np.float64)
        before, after = (_sums(each, len(self.blocks)) for each in (powers, powers * kept**2))
        share = np.divide(after, before, out=np.ones_like(after), where=before > 0)
        return gated(10 ** (self.blocks / 10) * gain**2 * share)


class Profiler:
    """Profiles samples (n, channels) pushed in order."""

    def __init__(self, rate_hz: int, channels: int) -> None:
        self._meter, self._step = Meter(rate_hz, channels), rate_hz // STEPS_A_SECOND
        self._held: Samples = np.zeros((0, channels), np.float32)
        self._peaks: list[NDArray[np.float32]] = []
        self._powers: list[NDArray[np.float32]] = []

    def push(self, samples: Samples) -> None:
        """This takes the next samples into account."""
        self._meter.push(samples)
        held = np.concatenate([self._held, samples])
        whole = len(held) // self._step * self._step
        self._held = held[whole:]
        steps = held[:whole].reshape(-1, self._step * held.shape[1])
        self._peaks.append(np.maximum(steps.max(axis=1, initial=0), -steps.min(axis=1, initial=0)))
        self._powers.append(np.einsum("ij,ij->i", steps, steps) / max(1, steps.shape[1]))

    def result(self) -> SoundProfile:
        """What was found; call it once, at the end."""
        loudness = self._meter.result()
        return SoundProfile(loudness, self._meter.blocks, *(
            np.concatenate([np.zeros(0, np.float32), *parts]).astype(np.float32)
            for parts in (self._peaks, self._powers)))


def gated(powers: NDArray[np.float64]) -> float:
    """The integrated loudness in LUFS of gating blocks of those ``powers`` (b,): 10 to the tenth of
    the loudness of each. ITU-R BS.1770-4, annex 1, with its two gates.
    """
    heard = powers[powers > 10 ** (SILENCE_LUFS / 10)]
    if not len(heard):
        return SILENCE_LUFS
    heard = heard[heard > heard.mean() * 10 ** (-RELATIVE_GATE_LU / 10)]
    return 10 * math.log10(heard.mean())


def _sums(steps: NDArray[np.float64], blocks: int) -> NDArray[np.float64]:
    """The sums of ``steps`` over each of ``blocks``, the first of which end before a whole one."""
    total = np.concatenate([[0.0], np.cumsum(steps)])
    ends = (np.arange(blocks) + 1) * (STEPS_A_SECOND // BLOCKS_A_SECOND)
    last = len(total) - 1
    return np.asarray(total[np.minimum(ends, last)]
                      - total[np.clip(ends - STEPS_A_BLOCK, 0, last)])
