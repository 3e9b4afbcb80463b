"""A dozen short sounds of our own, and what the demo's fourth version has beside its film: a bed
whose four bars come round, and a line of voice-over.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from caracal.core.media.sound_file import FlacWriter
from demo.voices import RATE_HZ, spoken

Wave = NDArray[np.float64]
BED_BPM, BARS = 84.0, 4
BEAT_S = 60 / BED_BPM
TAIL_S = 0.25  # of the bed after its last bar: its own beginning, to be crossed over
CHORDS = ((220.0, 277.18, 329.63), (196.0, 246.94, 293.66), (174.61, 220.0, 261.63),
          (196.0, 246.94, 329.63))  # a bar each, Hz
PATTERN = (0, 2, 1, 2, 0, 2, 1, 2)  # notes of the chord, two a beat
LOUD = 0.7  # of full scale
VOICE_OVER = "One fire a year, and the whole quay comes to watch."


def make_sounds(effects: Path, demo: Path) -> None:
    """Write the effects into one folder, the demo's bed and voice-over into the other."""
    effects.mkdir(parents=True, exist_ok=True)
    for name, made in EFFECTS.items():
        write(effects / f"{name}.flac", made())
    write(demo / "marram-quay-bed.flac", bed())
    write(demo / "marram-quay-voice-over.flac", spoken(VOICE_OVER, "Wren", 150))


def write(path: Path, sound: Wave) -> None:
    """Write ``sound`` (n,) into the FLAC file at ``path``, as loud as LOUD."""
    writer = FlacWriter(path, RATE_HZ, 1)
    writer.write((sound / np.abs(sound).max() * LOUD)[:, None].astype(np.float32))
    writer.finish()


def bed() -> Wave:
    """Plucked chords over four bars, which go on into the first one."""
    bar = round(4 * BEAT_S * RATE_HZ)
    made = np.zeros(2 * BARS * bar)
    for number in range(2 * BARS * len(PATTERN)):
        chord = CHORDS[number // len(PATTERN) % BARS]
        note = _pluck(chord[PATTERN[number % len(PATTERN)]], 1.6, number)
        at = round(number * BEAT_S / 2 * RATE_HZ)
        made[at : at + len(note)] += note[: len(made) - at] * (1.0 if number % 4 == 0 else 0.7)
    for number in range(2 * BARS):
        root = _tone(CHORDS[number % BARS][0] / 2, 4 * BEAT_S, 1.5)
        made[number * bar : number * bar + len(root)] += 0.9 * root[: len(made) - number * bar]
    return made[BARS * bar : 2 * BARS * bar + round(TAIL_S * RATE_HZ)]  # the second time round


def _pluck(hertz: float, seconds: float, seed: int) -> Wave:
    """A plucked string (Karplus and Strong, "Digital Synthesis of Plucked-String and Drum Timbres",
    1983)."""
    length = round(RATE_HZ / hertz)
    string = np.random.default_rng(seed).uniform(-1, 1, length)
    parts = []
    for _ in range(round(seconds * RATE_HZ / length)):
        parts.append(string)
        string = 0.497 * (string + np.roll(string, 1))
    made = np.concatenate(parts)
    return np.asarray(made * np.linspace(1, 0, len(made)) ** 0.5)


def _time(seconds: float) -> Wave:
    return np.arange(round(seconds * RATE_HZ)) / RATE_HZ


def _tone(hertz: float, seconds: float, fall: float) -> Wave:
    """A sine that falls off ``fall`` times a second by a factor of e."""
    t = _time(seconds)
    return np.asarray(np.sin(2 * np.pi * hertz * t) * np.exp(-fall * t) * np.minimum(1, t * 200))


def _sweep(first: float, last: float, seconds: float) -> Wave:
    t = _time(seconds)
    hertz = first * (last / first) ** (t / seconds)
    return np.asarray(np.sin(2 * np.pi * np.cumsum(hertz) / RATE_HZ))


def _noise(low: float, high: float, seconds: float, seed: int = 1) -> Wave:
    band = butter(2, (low, high), "band", fs=RATE_HZ, output="sos")
    return np.asarray(sosfilt(band, np.random.default_rng(seed).normal(size=len(_time(seconds)))))


def _swell(seconds: float, peak: float) -> Wave:
    """A gain that rises until the share ``peak`` of the time, and falls to nothing."""
    share = _time(seconds) / seconds
    return np.where(share < peak, share / peak, (1 - share) / (1 - peak)) ** 2


def _whoosh(seconds: float, low: float, high: float, peak: float) -> Wave:
    return np.asarray(_noise(low, high, seconds) * _swell(seconds, peak))


def _thud() -> Wave:
    return np.asarray(_sweep(140, 45, 0.45) * np.exp(-9 * _time(0.45))
                      + 0.15 * _noise(200, 900, 0.45) * np.exp(-60 * _time(0.45)))


def _shutter() -> Wave:
    made = np.zeros(round(0.22 * RATE_HZ))
    for at_s, size in ((0.0, 1.0), (0.09, 0.7)):
        click = _noise(1500, 7000, 0.06, seed=int(100 * size)) * np.exp(-90 * _time(0.06)) * size
        at = round(at_s * RATE_HZ)
        made[at : at + len(click)] += click
    return made


def _riser() -> Wave:
    t = _time(1.2)
    return np.asarray((0.4 * _sweep(180, 900, 1.2) + 0.6 * _noise(600, 6000, 1.2)) * (t / 1.2) ** 2
                      * np.minimum(1, (1.2 - t) * 40))


def _typing() -> Wave:
    made = np.zeros(round(0.7 * RATE_HZ))
    for number, at_s in enumerate((0.0, 0.13, 0.22, 0.37, 0.48, 0.6)):
        key = _noise(900, 5000, 0.05, seed=number) * np.exp(-110 * _time(0.05))
        at = round(at_s * RATE_HZ)
        made[at : at + len(key)] += key[: len(made) - at] * (0.7 + 0.3 * (number % 2))
    return made


EFFECTS: dict[str, Callable[[], Wave]] = {
    "whoosh": lambda: _whoosh(0.6, 300, 3500, 0.55),
    "short-whoosh": lambda: _whoosh(0.3, 600, 6000, 0.5),
    "tick": lambda: _tone(2400, 0.08, 70),
    "tock": lambda: _tone(1300, 0.1, 55),
    "pop": lambda: np.asarray(_sweep(900, 250, 0.12) * np.exp(-28 * _time(0.12))),
    "thud": _thud,
    "shutter": _shutter,
    "chime": lambda: np.asarray(_tone(1046.5, 1.4, 3) + 0.6 * _tone(1568, 1.4, 3.5)
                                + 0.3 * _tone(2093, 1.4, 5)),
    "two-notes": lambda: np.concatenate([_tone(784, 0.16, 8), _tone(1174.7, 0.6, 5)]),
    "riser": _riser,
    "typing": _typing,
    "swell-back": lambda: np.asarray(_tone(330, 0.9, 4)[::-1] * np.minimum(
        1, (0.9 - _time(0.9)) * 60)),
}


