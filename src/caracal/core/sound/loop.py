"""Where a sound can be repeated: after whole bars, where its wave goes on as it began.

Beats are the period at which the spectral flux (the rise of energy from one short spectrum to the
next; Bello et al., "A Tutorial on Onset Detection in Music Signals", 2005) agrees best with
itself: its autocorrelation. Music is counted in bars of four beats.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy.signal.windows import hann

from caracal.core.base.work import CancelToken
from caracal.core.media.master import Master
from caracal.core.media.sound import SoundReader

RATE_HZ = 48000  # what waves are compared at
HOP, WINDOW = 512, 1024  # samples of the spectra, at half that rate
BLOCK = 1024  # spectra at once
SHAPE = hann(WINDOW, sym=False).astype(np.float32)
SLOWEST_BPM, USUAL_BPM, QUICKEST_BPM = 60.0, 120.0, 180.0
BEATS_A_BAR = 4
CLEAR_BEAT = 0.25  # of the flux's power that repeats with the beat: less is no music to count
MOST_S = 600.0  # of a sound that is listened to
CROSS_S, SHIFT_S = 0.03, 0.012  # of the wave that is compared, and how far the end may be moved
LIKE = 0.5  # correlation above which two waves add up rather than cancel as noise does
BAR_SHARE = 0.06  # of a beat by which a bar may last longer or shorter than counted

Wave = NDArray[np.float32]


class Beat(NamedTuple):
    """How long a beat lasts in seconds, and the share (0..1) of the flux that repeats with it."""

    seconds: float
    clarity: float


class Loop(NamedTuple):
    """After how long a sound goes on as it began; ``fits``: there its wave is like its beginning's,
    so that both together are louder than each."""

    length: float
    fits: bool


def find_loop(source: Master, start_s: float, end_s: float, cancel: CancelToken) -> Loop:
    """After how many seconds ``source`` can go on as at ``start_s``; at most at ``end_s``.

    What follows that moment for CROSS_S can still be crossed over. Raises InputError when the file
    cannot be read, Cancelled when stopped.
    """
    end_s = min(end_s, start_s + MOST_S)
    with SoundReader(source, RATE_HZ, 1, round(start_s * RATE_HZ)) as reader:
        parts, left = [], round((end_s - start_s) * RATE_HZ)
        while left > 0:
            cancel.check()
            parts.append(reader.take(min(left, 10 * RATE_HZ))[:, 0])
            left -= len(parts[-1])
    found = loop_of(np.concatenate(parts))
    return Loop(found.length / RATE_HZ, found.fits)


def loop_of(wave: Wave) -> Loop:
    """After how many samples ``wave`` (n,) at RATE_HZ goes on as it began; never more than leave
    room for the crossing."""
    cross, most = round(CROSS_S * RATE_HZ), round(SHIFT_S * RATE_HZ)
    longest = len(wave) - cross - most
    if longest < 4 * cross:
        return Loop(max(1, len(wave) - cross), False)
    wanted = longest
    beat = find_beat(wave)
    bar = BEATS_A_BAR * beat.seconds * RATE_HZ
    if beat.clarity >= CLEAR_BEAT and bar <= longest + most:
        wanted = min(longest, round(int((longest + most) / bar) * bar))
    begin = max(0, wanted - most)
    near = wave[begin : wanted + most + cross].astype(np.float64)
    place, likeness = _best_place(wave[:cross].astype(np.float64), near)
    return Loop(begin + place, likeness > LIKE)


def find_beat(wave: Wave) -> Beat:
    """The beat of ``wave`` (n,) at RATE_HZ."""
    flux = onset_flux(wave)
    step_s = 2 * HOP / RATE_HZ
    slowest, quickest = round(60 / SLOWEST_BPM / step_s), round(60 / QUICKEST_BPM / step_s)
    if len(flux) < 4 * slowest or not flux.any():
        return Beat(0.0, 0.0)
    flux = flux - flux.mean()
    spectrum = np.fft.rfft(flux, 2 * len(flux))
    again = np.fft.irfft(np.abs(spectrum) ** 2)[: len(flux)]
    again = again / np.arange(len(flux), 0, -1) * len(flux) / max(again[0], 1e-12)
    lags = np.arange(quickest, slowest + 1)
    usual = np.exp(-0.5 * (np.log2(60 / (lags * step_s) / USUAL_BPM) / 0.9) ** 2)
    lag = int(lags[np.argmax(again[lags] * usual)])
    # Many beats later the same period is known many times as exactly.
    times = 1
    exact = float(lag)
    while (2 * times + 1) * exact < len(flux) / 2:
        times *= 2
        middle, spare = times * exact, max(2, round(BAR_SHARE * exact))
        near = np.arange(round(middle) - spare, round(middle) + spare + 1)
        exact = _peak(again, int(near[np.argmax(again[near])])) / times
    return Beat(exact * step_s, float(again[lag]))


def onset_flux(wave: Wave) -> NDArray[np.float64]:
    """The spectral flux of ``wave`` (n,) at RATE_HZ, every 2 HOP samples of it."""
    half = wave[: len(wave) // 2 * 2].reshape(-1, 2).mean(axis=1)
    if len(half) < WINDOW:
        return np.zeros(0)
    frames = np.lib.stride_tricks.sliding_window_view(half, WINDOW)[::HOP]
    rises, before = list[NDArray[np.float64]](), None
    for at in range(0, len(frames), BLOCK):  # all spectra of ten minutes would take 700 MB
        spectra = np.abs(np.fft.rfft(frames[at : at + BLOCK] * SHAPE, axis=1))
        strength = np.log1p(100 * spectra / SHAPE.sum())
        first = strength[:1] if before is None else before
        rises.append(np.maximum(np.diff(strength, axis=0, prepend=first), 0).sum(axis=1))
        before = strength[-1:]
    return np.concatenate(rises)


def _peak(values: NDArray[np.float64], at: int) -> float:
    """Where the parabola through the values round ``at`` is highest."""
    if not 0 < at < len(values) - 1:
        return float(at)
    before, here, after = values[at - 1 : at + 2]
    bend = before - 2 * here + after
    return float(at) if bend >= 0 else at + float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5))


def _best_place(wave: NDArray[np.float64], near: NDArray[np.float64]) -> tuple[int, float]:
    """Where in ``near`` (n + m,) ``wave`` (n,) fits best, and how well (a correlation)."""
    places = np.lib.stride_tricks.sliding_window_view(near, len(wave))
    strength = np.sqrt((places**2).sum(axis=1) * (wave**2).sum()) + 1e-9
    fits = places @ wave / strength
    return int(np.argmax(fits)), float(fits.max())
