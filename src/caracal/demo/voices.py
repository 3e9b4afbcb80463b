"""The film's sound: formant voices that follow the script, and a quiet music bed. All numpy."""

from __future__ import annotations

import zlib

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, lfilter, sosfilt

from caracal.demo.script import FPS, LINES, PITCH_HZ, Line, Syllable, syllables

RATE_HZ = 48000
FORMANTS_HZ = {  # textbook averages of the first three formants, from memory
    "a": (730, 1090, 2440), "e": (530, 1840, 2480), "i": (300, 2240, 2950),
    "o": (570, 870, 2410), "u": (320, 900, 2240), "y": (300, 2100, 2700),
}
VOICED = "bdgjlmnrvwz"
Sound = NDArray[np.float64]


def _resonance(signal: Sound, centre_hz: float, width_hz: float) -> Sound:
    radius = np.exp(-np.pi * width_hz / RATE_HZ)
    angle = 2 * np.pi * centre_hz / RATE_HZ
    return lfilter([1 - radius], [1, -2 * radius * np.cos(angle), radius**2], signal)


def _vowel(part: Syllable, pitch_hz: float, fall: float, rng: np.random.Generator) -> Sound:
    count = int((part.end_s - part.start_s) * RATE_HZ)
    time = np.arange(count) / RATE_HZ
    glide = pitch_hz * fall * (1 + 0.05 * np.sin(2 * np.pi * 4.6 * time))
    phase = np.cumsum(glide) / RATE_HZ
    pulses = np.diff(np.floor(phase), prepend=0) - 0.5 * np.abs(np.sin(np.pi * phase)) ** 3
    source = pulses + rng.normal(0, 0.02, count)
    shaped = sum(
        _resonance(source, hz * (1.12 if pitch_hz > 160 else 1.0), 60 + hz * 0.04) * gain
        for hz, gain in zip(FORMANTS_HZ[part.vowel], (1.0, 0.7, 0.35), strict=True)
    )
    edge = min(count // 3, int(0.03 * RATE_HZ))
    fade = np.ones(count)
    fade[:edge] = np.linspace(0, 1, edge)
    fade[-edge:] = np.linspace(1, 0, edge)
    return np.asarray(shaped) * fade


def _onset(letters: str, rng: np.random.Generator) -> Sound:
    if not letters:
        return np.zeros(0)
    first = letters[0]
    length = 0.05 if first in "sfhtcx" else 0.03
    noise = rng.normal(0, 1, int(length * RATE_HZ))
    band = (3500, 8000) if first in "sxcz" else (1200, 5000)
    filtered = sosfilt(butter(2, band, "bandpass", fs=RATE_HZ, output="sos"), noise)
    level = 0.05 if first in VOICED else 0.16
    return np.asarray(filtered) * level * np.hanning(len(filtered))


def _speak(line: Line, sound: Sound) -> None:
    rng = np.random.default_rng(zlib.crc32(line.text.encode()))
    parts = syllables(line)
    for i, part in enumerate(parts):
        fall = 1.12 - 0.3 * i / len(parts) + 0.04 * np.sin(i * 2.1)
        vowel = _vowel(part, PITCH_HZ[line.who], float(fall), rng)
        onset = _onset(part.onset, rng)
        for piece, gain in ((vowel / (np.abs(vowel).max() + 1e-9), 0.26), (onset, 1.0)):
            at = int(part.start_s * RATE_HZ)
            sound[at : at + len(piece)] += piece * gain


def _music(seconds: float) -> NDArray[np.float64]:
    count = int(seconds * RATE_HZ)
    bed = np.zeros((count, 2))
    chords = ((196.0, 246.94, 293.66), (164.81, 196.0, 246.94), (130.81, 164.81, 196.0),
              (146.83, 185.0, 220.0))
    beat = 0.75
    time = np.arange(int(2.4 * RATE_HZ)) / RATE_HZ
    for i in range(int(seconds / beat)):
        chord = chords[(i // 8) % 4]
        hz = chord[(0, 2, 1, 2, 0, 1, 2, 1)[i % 8]] * (2 if i % 8 in (3, 6) else 1)
        pluck = sum(np.sin(2 * np.pi * hz * k * time) * np.exp(-time * (1.6 + k)) / k**1.4
                    for k in range(1, 6))
        attack = 1 - np.exp(-time * 160)
        at = int(i * beat * RATE_HZ)
        room = min(len(time), count - at)
        pan = 0.5 + 0.25 * np.sin(i * 0.9)
        note = np.asarray(pluck * attack)[:room] * 0.035
        bed[at : at + room] += np.stack([note * (1 - pan), note * pan], axis=1)
    fade = np.clip((seconds - np.arange(count) / RATE_HZ) / 2.5, 0, 1)
    return bed * fade[:, None]


def soundtrack(frames: int) -> NDArray[np.float32]:
    """Voices over music for ``frames`` frames: (samples, 2) float32 at 48 kHz, -1..1."""
    seconds = frames / FPS
    count = int(seconds * RATE_HZ)
    voice = np.zeros(count + RATE_HZ)
    for line in LINES:
        _speak(line, voice)
    duck = sosfilt(butter(1, 2.0, fs=RATE_HZ, output="sos"), np.abs(voice[:count]) > 0.01)
    bed = _music(seconds)[:count] * (1 - 0.6 * np.clip(duck, 0, 1))[:, None]
    mixed = bed + voice[:count, None]
    level = max(1.0, float(np.abs(mixed).max()) / 0.89)
    return np.asarray(mixed / level, np.float32)
