"""Two calm clips to lie behind pictures; each ends as it begins."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from caracal.core.media.encode import EncoderSettings, MovieWriter
from caracal.core.render.assets.pictures import planes_of

SIDE, FRAMES, FPS = 720, 200, 25
SETTINGS = EncoderSettings(
    width=SIDE, height=SIDE, frame_rate=f"{FPS}/1", encoder="libx264", pixel_format="yuv420p",
    gop_frames=2 * FPS, options={"preset": "slow", "crf": "17", "aq-mode": "3", "tune": "grain"},
    container_options={"movflags": "+faststart"})
DEEP, LOW, HIGH = ((0.07, 0.10, 0.11), (0.13, 0.24, 0.25), (0.30, 0.27, 0.20))
NIGHT, GLOW = (0.075, 0.062, 0.055), (0.78, 0.44, 0.18)
SPARKS = 26
DITHER, HUES = 1.5 / 255, 3 / 255  # noise at most, so that slow slopes are no steps of 8 bit
LUMA = np.array((0.2126, 0.7152, 0.0722), np.float32)  # of red, green, blue: ITU-R BT.709-6, 3.2
Rgb = NDArray[np.float32]


def make_backdrops(folder: Path) -> None:
    """Write the clips into ``folder``."""
    folder.mkdir(parents=True, exist_ok=True)
    noise = _noise()
    for name, drawn in (("tide", _tide), ("embers", _embers())):
        writer = MovieWriter(folder / f"{name}.mp4", SETTINGS)
        for number in range(FRAMES):
            picture = np.clip(drawn(number / FRAMES) + noise, 0, 1)
            writer.write_picture(planes_of(np.asarray(picture, np.float32)))
        writer.finish()


def _noise() -> Rgb:
    """Triangular noise (SIDE, SIDE, 3), the same in every frame: so it costs few bits.

    That of hues has no luma, and is as coarse as chroma is kept.
    """
    light, hues = _triangular(SIDE, 1) * DITHER, _triangular(SIDE // 2, 3) * HUES
    hues = (hues - (hues @ LUMA)[..., None]).repeat(2, 0).repeat(2, 1)
    return np.asarray(light + hues, np.float32)


def _triangular(side: int, channels: int) -> Rgb:
    """Noise (side, side, channels) from -1 to 1, mostly near 0."""
    random = np.random.default_rng(5)
    one, other = (random.random((side, side, channels), np.float32) for _ in range(2))
    return one - other


def _places() -> tuple[Rgb, Rgb]:
    down, across = np.mgrid[0:SIDE, 0:SIDE].astype(np.float32) / SIDE
    return across, down


def _tide(turn: float) -> Rgb:
    """Slow swells of three colours, after ``turn`` (0..1) of their round."""
    x, y = _places()
    round_ = 2 * np.pi * turn
    swell = (np.sin(2.2 * x + 3.1 * y + round_) + np.sin(-3.3 * x + 1.7 * y - round_ + 1.0)
             + np.sin(1.1 * x - 4.0 * y + 2 * round_ + 2.2)) / 6 + 0.5
    ridge = np.sin(4.0 * (y + 0.12 * np.sin(2.5 * x + round_)) + round_) / 2 + 0.5
    deep, low, high = (np.array(colour, np.float32) for colour in (DEEP, LOW, HIGH))
    share, light = swell[..., None], (0.35 * ridge * swell)[..., None]
    return np.asarray(np.clip(deep + (low - deep) * share + (high - deep) * light, 0, 1),
                      np.float32)


def _embers() -> Callable[[float], Rgb]:
    """Sparks out of focus that rise; those that leave above come again below."""
    random = np.random.default_rng(71)
    at, high, wide = random.random(SPARKS), random.random(SPARKS), random.random(SPARKS)
    phase, bright = random.random(SPARKS), 0.25 + 0.5 * random.random(SPARKS)
    times = random.integers(1, 3, SPARKS)  # how often each rises in a round
    x, y = _places()

    def drawn(turn: float) -> Rgb:
        light = np.zeros((SIDE, SIDE), np.float32)
        for i in range(SPARKS):
            size = 0.012 + 0.03 * wide[i]
            across = at[i] + 0.03 * np.sin(2 * np.pi * (turn + phase[i]))
            down = (high[i] - times[i] * turn) % 1.0 * (1 + 4 * size) - 2 * size
            gone = np.hypot(x - across, y - down) / size
            seen = bright[i] * (0.7 + 0.3 * np.sin(2 * np.pi * (2 * turn + phase[i])))
            light += np.float32(seen) / (1 + np.exp(np.clip((gone - 1) * 9, -30, 30)))
        floor = np.array(NIGHT, np.float32) * (1.25 - 0.5 * y)[..., None]
        return np.asarray(np.clip(floor + light[..., None] * np.array(GLOW), 0, 1), np.float32)

    return drawn
