"""The film's sound: voices of an open speech synthesiser, and a quiet music bed of our own.

Flite (Black and Lenzo 2001; Debian's flite) speaks the lines of the script, each person in a voice
of their own, as quickly as the mouths in the picture move. It is needed only to draw the film anew.
"""

from __future__ import annotations

import functools
import subprocess
import tempfile
import wave

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, resample_poly, sosfilt

from demo.script import FPS, LINES, Line, line_end_s

RATE_HZ = 48000
VOICES = {  # and their settings
    "Ines": ("slt", ()), "Tobias": ("rms", ()),
    "Wren": ("slt", ("--setf", "int_f0_target_mean=230")),
}
SLOWEST, QUICKEST, USUAL = 80, 320, 175  # words a minute
TRIES = 5
SOUNDS = 0.01  # of the largest sample: quieter is silence before and after a line
LOUD = 0.6  # of full scale, at a line's loudest
Sound = NDArray[np.float64]


@functools.cache
def spoken(text: str, who: str, words_a_minute: int) -> Sound:
    """A line as the synthesiser speaks it, without silence round it."""
    voice, settings = VOICES[who]
    with tempfile.NamedTemporaryFile(suffix=".wav") as made:
        subprocess.run(
            ["flite", "-voice", voice, "--setf", f"duration_stretch={USUAL / words_a_minute:.4f}",
             *settings, "-t", text, "-o", made.name], check=True)
        with wave.open(made.name) as file:
            rate = file.getframerate()
            samples = np.frombuffer(file.readframes(file.getnframes()), np.int16) / 32768
    heard = np.flatnonzero(np.abs(samples) > SOUNDS * np.abs(samples).max())
    return np.asarray(resample_poly(samples[heard[0] : heard[-1] + 1], RATE_HZ, rate))


def _speak(line: Line, sound: Sound) -> None:
    """Speak ``line`` into ``sound`` in the time that its mouth moves."""
    wanted, speed = line_end_s(line) - line.start_s, float(USUAL)
    for _ in range(TRIES):
        said = spoken(line.text, line.who, round(speed))
        speed = min(max(speed * len(said) / RATE_HZ / wanted, SLOWEST), QUICKEST)
    at = int(line.start_s * RATE_HZ)
    sound[at : at + len(said)] += said / np.abs(said).max() * LOUD


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
    bed = _music(seconds)[:count] * (1 - 0.85 * np.clip(duck, 0, 1))[:, None]
    mixed = bed + voice[:count, None]
    level = max(1.0, float(np.abs(mixed).max()) / 0.89)
    return np.asarray(mixed / level, np.float32)
