"""Speech without the noise behind it, by DeepFilterNet 3 (see data/models/README.md).

Schröter, Rosenkranz, Escalante-B. and Maier, "DeepFilterNet: Perceptually Motivated Real-Time
Speech Enhancement", 2023. Spectra of 20 ms are split into 32 bands as wide as the ear's; the
network gives a gain for each band, and for what lies below 4.8 kHz filter taps over five spectra.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from caracal.core.analysis.detectors.network import open_model

RATE_HZ = 48000
FRAME, HOP = 960, 480
BANDS = (*(2,) * 13, 5, 5, 7, 7, 8, 10, 12, 13, 15, 18, 20, 24, 28, 31, 37, 42, 50, 56, 67)
FINE_BINS, TAPS, BEHIND = 96, 5, 2  # bins with taps, of spectra from two before to two after
LOOK_AHEAD = 2  # spectra
FORGETS = 0.99  # of running means, for each spectrum
DECIBELS_FROM, DECIBELS_TO = -60.0, -90.0  # where the means of bands begin, lowest and highest
SIZE_FROM, SIZE_TO = 0.001, 0.0001  # and those of bins

Wave = NDArray[np.float32]
Spectra = NDArray[np.complex64]

_angles = np.pi * (np.arange(FRAME) + 0.5) / FRAME
WINDOW = np.sin(np.pi / 2 * np.sin(_angles) ** 2).astype(np.float32)  # of Vorbis I
STARTS = np.concatenate([[0], np.cumsum(BANDS)[:-1]])


class Denoiser:
    """The network. It keeps nothing from call to call, and serves several threads."""

    def __init__(self, threads: int = 1) -> None:
        """Raises InstallError when a model file is missing or damaged."""
        self._encoder, self._bands, self._taps = (
            open_model(f"denoise/{name}.onnx", threads) for name in ("enc", "erb_dec", "df_dec"))

    def clean(self, wave: Wave, most_db: float) -> Wave:
        """``wave`` (n,) at RATE_HZ with its noise at most ``most_db`` lower."""
        noisy = spectra_of(wave)
        bands, fine = self._seen(noisy)
        names = ["e0", "e1", "e2", "e3", "emb", "c0"]
        found = dict(zip(names, self._encoder.run(names, {"feat_erb": bands, "feat_spec": fine}),
                         strict=True))
        (gains,) = self._bands.run(["m"], {name: found[name] for name in (
            "emb", "e3", "e2", "e1", "e0")})
        (taps,) = self._taps.run(["coefs"], {"emb": found["emb"], "c0": found["c0"]})
        made = noisy * np.repeat(gains[0, 0], BANDS, axis=1)
        made[:, :FINE_BINS] = _filtered(noisy[:, :FINE_BINS], taps[0])
        kept = np.float32(10 ** (-most_db / 20))
        return wave_of(made * (1 - kept) + noisy * kept, len(wave))

    def _seen(self, noisy: Spectra) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
        """What the network sees of ``noisy`` (n, bins): (1, 1, n, bands) and (1, 2, n, bins)."""
        power = np.add.reduceat(np.abs(noisy) ** 2, STARTS, axis=1) / np.array(BANDS)
        decibels = 10 * np.log10(power + 1e-10)
        usual = _running_mean(decibels, np.linspace(DECIBELS_FROM, DECIBELS_TO, len(BANDS)))
        bands = _ahead((decibels - usual) / 40)
        fine = noisy[:, :FINE_BINS]
        sizes = _running_mean(np.abs(fine), np.linspace(SIZE_FROM, SIZE_TO, FINE_BINS))
        scale = 1 / np.sqrt(sizes)
        parts = np.stack([_ahead(fine.real * scale), _ahead(fine.imag * scale)])
        return bands[None, None].astype(np.float32), parts[None].astype(np.float32)


def spectra_of(wave: Wave) -> Spectra:
    """The spectra (n, FRAME / 2 + 1) of ``wave``, every HOP samples, the first half before it."""
    count = -(-len(wave) // HOP) + 1
    padded = np.zeros((count + 1) * HOP, np.float32)
    padded[HOP : HOP + len(wave)] = wave
    frames = np.lib.stride_tricks.sliding_window_view(padded, FRAME)[::HOP]
    return (np.fft.rfft(frames * WINDOW, axis=1) / FRAME).astype(np.complex64)


def wave_of(spectra: Spectra, count: int) -> Wave:
    """The ``count`` samples of which :func:`spectra_of` made ``spectra``."""
    frames = np.fft.irfft(spectra * FRAME, FRAME, axis=1) * WINDOW
    made = np.zeros((len(frames) + 1) * HOP)
    made[:-HOP] += frames[:, :HOP].ravel()
    made[HOP:] += frames[:, HOP:].ravel()
    return made[HOP : HOP + count].astype(np.float32)


def _running_mean(values: NDArray[np.floating], start: NDArray[np.float64]) -> NDArray[np.float64]:
    """The running means of the columns of ``values`` (n, m), each of which begins at ``start``."""
    means, _ = lfilter([1 - FORGETS], [1, -FORGETS], values, axis=0, zi=FORGETS * start[None])
    return np.asarray(means)


def _ahead(values: NDArray[np.floating]) -> NDArray[np.floating]:
    """``values`` (n, m), LOOK_AHEAD rows earlier."""
    made = np.zeros_like(values)
    made[:-LOOK_AHEAD] = values[LOOK_AHEAD:]
    return made


def _filtered(noisy: Spectra, taps: NDArray[np.float32]) -> Spectra:
    """``noisy`` (n, bins) with ``taps`` (n, bins, 2 TAPS: real and imaginary in turn)."""
    weights = taps.reshape(*taps.shape[:2], TAPS, 2)
    padded = np.pad(noisy, ((BEHIND, TAPS - 1 - BEHIND), (0, 0)))
    made = np.zeros_like(noisy)
    for at in range(TAPS):
        made += padded[at : at + len(noisy)] * (weights[:, :, at, 0] + 1j * weights[:, :, at, 1])
    return made
