"""A film's sound with its noise taken out behind speech, while music stays as it is.

The network is meant for speech, and takes music for noise. Where nobody speaks for a while and the
sound is made of tones, the original is kept.
"""

from __future__ import annotations

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import welch

from caracal.core.base.time import samples_at
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, ProgressReporter, Report
from caracal.core.layout.added_sound import CleanStrength
from caracal.core.media.master import Master
from caracal.core.media.sound import Samples, SoundReader
from caracal.core.media.sound_file import FlacWriter
from caracal.core.sound.denoising import RATE_HZ, Denoiser
from caracal.core.sound.ducking import Span

MOST_CHANNELS = 2  # of what is written; more are mixed down
CHUNK_S, LEAD_S, CROSS_S = 30.0, 2.0, 0.25  # worked on at once, heard before it, and crossed over
LEAST_PAUSE_S = 3.0  # without speech, from which on it is asked whether it is music
MARGIN_S = 0.4  # beside speech that is always cleaned
LISTEN_HZ, LISTEN_S = 16000, 0.5  # at which, and in which pieces, tones are looked for
SPECTRUM = 1024
FLAT_BINS = 16  # neighbours whose powers are compared: noise of any colour is even among them
MUSIC_FLATNESS = 0.75  # of averaged spectra: noise has 0.9 and more, chords 0.2 to 0.6
MOST_DB = {CleanStrength.MILD: 6.0, CleanStrength.USUAL: 12.0, CleanStrength.ALL: 100.0}


def clean_film(
    master: Master, strength: CleanStrength, speech: tuple[Span, ...], path: Path, report: Report,
    cancel: CancelToken,
) -> None:
    """Write the sound of ``master``, cleaned, to ``path`` (FLAC): its first sample is heard with
    the first picture. ``speech`` are the frames [first, end) in which somebody speaks.

    Raises InputError when the sound cannot be read, StorageError when ``path`` cannot be written,
    Cancelled when stopped.
    """
    total = samples_at(master.frames, master.rate, RATE_HZ)
    kept = music_spans(master, speech, cancel)
    writer = FlacWriter(path, RATE_HZ, _channels(master))
    try:
        watch = ProgressReporter(tr("Cleaning speech"), max(1, total // RATE_HZ), report)
        at = 0
        for noisy, clean in cleaned(master, total, MOST_DB[strength], cancel):
            share = _share_cleaned(kept, at, len(noisy))[:, None]
            writer.write(np.asarray(noisy + (clean - noisy) * share, np.float32))
            at += len(noisy)
            watch.at(at // RATE_HZ)
        writer.finish()
    except BaseException:
        writer.abandon()
        path.unlink(missing_ok=True)
        raise


def cleaned(
    master: Master, total: int, most_db: float, cancel: CancelToken
) -> Iterator[tuple[Samples, Samples]]:
    """The first ``total`` samples of ``master`` in pieces, as they are and cleaned, (n, 1 or 2)."""
    denoiser, channels = Denoiser(), _channels(master)
    chunk, lead, cross = (round(each * RATE_HZ) for each in (CHUNK_S, LEAD_S, CROSS_S))
    fade = ((np.arange(cross, dtype=np.float32) + 0.5) / cross)[:, None]
    with SoundReader(master, RATE_HZ, channels) as reader, ThreadPoolExecutor(channels) as pool:
        held = reader.take(min(cross, total))  # from ``start`` on, what was read already
        before: Samples = np.zeros((0, channels), np.float32)
        tail: Samples | None = None
        for start in range(0, total, chunk):
            cancel.check()
            end = min(total, start + chunk)
            ahead = min(total, end + cross)
            held = np.concatenate([held, reader.take(ahead - start - len(held))])
            made = _cleaned(denoiser, pool, np.concatenate([before, held]), most_db)
            made = made[len(before) :]
            if tail is not None:
                count = min(len(tail), len(made))
                made[:count] = tail[:count] * (1 - fade[:count]) + made[:count] * fade[:count]
            yield held[: end - start], made[: end - start]
            tail = made[end - start :]
            before = np.concatenate([before, held[: end - start]])[-lead:]
            held = held[end - start :]


def _cleaned(
    denoiser: Denoiser, pool: ThreadPoolExecutor, sound: Samples, most_db: float
) -> Samples:
    """``sound`` (n, channels) cleaned, each channel in a thread."""
    channels = sound.shape[1]
    alike = channels == 2 and np.array_equal(sound[:, 0], sound[:, 1])  # one voice in both
    made = list(pool.map(lambda channel: denoiser.clean(
        np.ascontiguousarray(sound[:, channel]), most_db), range(1 if alike else channels)))
    return np.stack(made * (2 if alike else 1), axis=1)


def _channels(master: Master) -> int:
    assert master.heard is not None, "there is something to clean"
    return min(MOST_CHANNELS, master.heard.channels)


def music_spans(
    master: Master, speech: tuple[Span, ...], cancel: CancelToken
) -> tuple[Span, ...]:
    """The samples [first, end) at RATE_HZ in which nobody speaks for a while and music plays."""
    rate = master.rate
    edges = [0, *(edge for span in speech for edge in span), master.frames]
    pauses = [(samples_at(first, rate, RATE_HZ), samples_at(end, rate, RATE_HZ))
              for first, end in zip(edges[::2], edges[1::2], strict=True) if end > first]
    margin = round(MARGIN_S * RATE_HZ)
    found = []
    for first, end in pauses:
        cancel.check()
        if end - first >= LEAST_PAUSE_S * RATE_HZ and is_music(master, first, end):
            found.append((first + (margin if first else 0), end - margin))
    return tuple(found)


def is_music(master: Master, first: int, end: int) -> bool:
    """Whether the sound of ``master`` between two samples at RATE_HZ is made of tones."""
    scale = Fraction(LISTEN_HZ, RATE_HZ)
    size, flat = round(LISTEN_S * LISTEN_HZ), list[float]()
    with SoundReader(master, LISTEN_HZ, 1, int(first * scale)) as reader:
        for _ in range(int((end - first) * scale) // size):
            flat.append(flatness(reader.take(size)[:, 0]))
    return bool(flat) and float(np.median(flat)) < MUSIC_FLATNESS


def flatness(wave: NDArray[np.float32]) -> float:
    """How even neighbouring powers in the spectrum of ``wave`` are: 1 for noise, 0 for a tone.

    It is the ratio of geometric to arithmetic mean (spectral flatness, as in ISO/IEC 15938-4), of
    bins near each other. Silence counts as noise.
    """
    _, power = welch(wave, LISTEN_HZ, nperseg=SPECTRUM)
    count = len(power) // 2 // FLAT_BINS * FLAT_BINS  # up to 4 kHz: above it music is noise, too
    groups = power[4 : 4 + count].reshape(-1, FLAT_BINS) + 1e-16
    means = np.exp(np.log(groups).mean(axis=1)) / groups.mean(axis=1)
    weights = groups.mean(axis=1) ** 0.5  # loud groups tell most, quiet ones something
    return float((means * weights).sum() / weights.sum())


def _share_cleaned(kept: tuple[Span, ...], first: int, count: int) -> NDArray[np.float32]:
    """By which share each of ``count`` samples from ``first`` on is cleaned: not at all in
    ``kept``."""
    cross = round(CROSS_S * RATE_HZ)
    share = np.ones(count, np.float32)
    places = np.arange(first, first + count)
    for start, end in kept:
        if start - cross < first + count and first < end + cross:
            share *= np.interp(places, [start - cross, start, end, end + cross],
                               [1.0, 0.0, 0.0, 1.0]).astype(np.float32)
    return share


