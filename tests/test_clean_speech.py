"""Clean speech: how much noise goes, what stays, and that music is left alone."""

from __future__ import annotations

import wave
from pathlib import Path

import numpy as np
import pytest
from scipy.signal import resample_poly

from caracal.core.base.errors import InputError
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.layout.added_sound import CleanStrength
from caracal.core.media.probe import probe
from caracal.core.media.probe_sound import probe_sound
from caracal.core.media.sound import SoundReader
from caracal.core.plan.clean_sound import clean_source
from caracal.core.plan.sound_plan import extra_audio
from caracal.core.sound.clean_speech import clean_film, cleaned, flatness, music_spans
from caracal.core.sound.denoising import (
    BANDS,
    FRAME,
    RATE_HZ,
    WINDOW,
    Denoiser,
    spectra_of,
    wave_of,
)
from conftest import ffmpeg
from test_added_sounds import write_wav

# Read aloud from a book of 1811, in the public domain (LibriVox); Debian's pocketsphinx-testdata.
READ = sorted(Path("/usr/share/pocketsphinx/test/data/librivox").glob("*.wav"))


@pytest.fixture(scope="module")
def speech():
    """About 25 s of read speech at 48 kHz."""
    parts = []
    for path in READ:
        with wave.open(str(path)) as file:
            parts.append(np.frombuffer(file.readframes(file.getnframes()), "<i2") / 32768)
    made = resample_poly(np.concatenate(parts), 3, 1).astype(np.float32)
    return made / np.abs(made).max() / 2


@pytest.fixture(scope="module")
def denoiser():
    return Denoiser()


def snr_db(speech, made):
    """How far what is not speech in ``made`` lies under it, whatever its level."""
    gain = (speech @ made) / (speech @ speech)
    rest = made - gain * speech
    return 10 * np.log10(gain**2 * (speech @ speech) / (rest @ rest))


def with_noise(speech, decibels):
    noise = np.random.default_rng(3).normal(size=len(speech)).astype(np.float32)
    return speech + noise * np.sqrt((speech @ speech) / (noise @ noise)) * 10 ** (-decibels / 20)


def test_noise_5_db_under_speech_comes_out_6_db_better_and_more(speech, denoiser):
    made = denoiser.clean(with_noise(speech, 5), 100)
    assert snr_db(speech, made) >= 5 + 6


def test_clean_speech_comes_back(speech, denoiser):
    assert snr_db(speech, denoiser.clean(speech, 100)) >= 30


@pytest.mark.parametrize(("strength", "least", "most"), [(6, 3.5, 6.5), (12, 7, 12.5)])
def test_a_strength_lowers_noise_by_as_much_at_the_most(denoiser, strength, least, most):
    """Noise alone, in dB of its power."""
    noise = (0.05 * np.random.default_rng(4).normal(size=6 * RATE_HZ)).astype(np.float32)
    made = denoiser.clean(noise, strength)
    steady = slice(2 * RATE_HZ, 5 * RATE_HZ)
    lower = 10 * np.log10((noise[steady] ** 2).mean() / (made[steady] ** 2).mean())
    assert least <= lower <= most


def test_spectra_are_turned_back_into_the_same_sound():
    """The squares of a Vorbis window and of itself half a frame later add up to one."""
    assert np.allclose(WINDOW[: FRAME // 2] ** 2 + WINDOW[FRAME // 2 :] ** 2, 1, atol=1e-6)
    assert sum(BANDS) == FRAME // 2 + 1
    sound = np.random.default_rng(5).uniform(-1, 1, 100_003).astype(np.float32)
    assert np.abs(wave_of(spectra_of(sound), len(sound)) - sound).max() < 1e-5


def test_long_sound_is_worked_off_in_pieces_without_seams(speech, tmp_path):
    """Against the same in one piece: joins at 30 s are as near to it as any other place."""
    noisy = with_noise(np.tile(speech, 2)[: 40 * RATE_HZ], 10) / 2
    source = probe_sound(write_wav(tmp_path / "long.wav", noisy))
    parts = list(cleaned(source, len(noisy), 12.0, CancelToken()))
    plain, made = (np.concatenate(each)[:, 0] for each in zip(*parts, strict=True))
    assert np.abs(plain - noisy).max() < 1e-3 and len(made) == len(noisy)
    whole = Denoiser().clean(noisy, 12.0)
    near = slice(29 * RATE_HZ, 32 * RATE_HZ)
    assert snr_db(whole[near], made[near]) > 20
    steps = np.abs(np.diff(made))
    assert steps[30 * RATE_HZ - 100 : 30 * RATE_HZ + 15_000].max() <= steps.max()


def chords(seconds):
    """Chords with overtones, and a little noise."""
    t = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    tones = sum(np.sin(2 * np.pi * f * k * t) / k for f in (220, 277.2, 329.6) for k in (1, 2, 3))
    return (0.06 * tones + 0.002 * np.random.default_rng(6).normal(size=len(t))).astype(np.float32)


def test_music_is_told_from_noise():
    rng = np.random.default_rng(7)
    white = rng.normal(0, 0.1, 8000).astype(np.float32)
    brown = np.cumsum(rng.normal(0, 0.01, 8000)).astype(np.float32)
    assert flatness(white) > 0.85 and flatness(np.diff(brown, prepend=0)) > 0.85
    assert flatness(resample_poly(chords(0.5), 1, 3).astype(np.float32)) < 0.7


@pytest.fixture(scope="module")
def talk(speech, tmp_path_factory):
    """A film: 12 s of speech in noise, 10 s of chords, 5 s of noise."""
    folder = tmp_path_factory.mktemp("talk")
    noisy = with_noise(speech[: 12 * RATE_HZ], 10) / 2
    noise = 0.02 * np.random.default_rng(8).normal(size=5 * RATE_HZ)
    sound = write_wav(folder / "talk.wav", np.concatenate([noisy, chords(10), noise]))
    film = folder / "talk.mov"  # whose times are exact to the sample
    ffmpeg("-f", "lavfi", "-i", "testsrc=size=320x180:rate=25:duration=27", "-i", sound,
           "-pix_fmt", "yuv420p", "-c:a", "pcm_s16le", film)
    return probe(film)


def samples_of(master, first_s, last_s):
    with SoundReader(master, RATE_HZ, 1, round(first_s * RATE_HZ)) as reader:
        return reader.take(round((last_s - first_s) * RATE_HZ))[:, 0]


def test_music_stays_as_it_is_and_noise_goes(talk, tmp_path):
    spans = music_spans(talk, ((0, 300),), CancelToken())
    assert spans == ((round(12.4 * RATE_HZ), round(26.6 * RATE_HZ)),)  # the larger part decides
    assert music_spans(talk, ((0, 550),), CancelToken()) == ()  # noise alone
    out = tmp_path / "clean.flac"
    clean_film(talk, CleanStrength.ALL, ((0, 300), (550, 560)), out, no_progress, CancelToken())
    made = probe_sound(out)
    assert made.duration_s == pytest.approx(27, abs=0.001)
    before, after = samples_of(talk, 13, 21), samples_of(made, 13, 21)
    assert np.abs(before - after).max() < 1e-3
    hiss, left = samples_of(talk, 23.5, 26), samples_of(made, 23.5, 26)
    assert (left**2).mean() < 0.1 * (hiss**2).mean()


def test_the_cleaned_sound_takes_the_place_of_the_film_s_and_is_made_once(
        talk, tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CACHE", str(tmp_path))
    first = clean_source(talk, CleanStrength.USUAL, no_progress, CancelToken())
    made_at = first.file.stat().st_mtime_ns
    again = clean_source(talk, CleanStrength.USUAL, no_progress, CancelToken())
    assert again == first and first.file.stat().st_mtime_ns == made_at
    assert clean_source(talk, CleanStrength.NONE, no_progress, CancelToken()) is None
    beside = extra_audio(talk, (), (), (), clean=CleanStrength.USUAL)
    assert beside.cleaned == first
    assert [path.suffix for path in first.file.parent.iterdir()] == [".flac"]


def test_a_film_whose_sound_cannot_be_written_is_told(talk, tmp_path, monkeypatch):
    blocked = tmp_path / "cache"
    blocked.write_text("a file where the cache would be")
    monkeypatch.setenv("CARACAL_CACHE", str(blocked))
    with pytest.raises(Exception) as told:
        clean_source(talk, CleanStrength.MILD, no_progress, CancelToken())
    assert told.type.__name__ == "StorageError" and not isinstance(told.value, InputError)
