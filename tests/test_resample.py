"""Resampling against Pillow's Lanczos with a fractional box (an independent implementation)."""

import itertools

import numpy as np
import pytest
from PIL import Image

from caracal.core.media.planes import LEFT, Planes, turned
from caracal.core.render.painters.fill import filled
from caracal.core.render.painters.resample import resample


def _texture(height=216, width=384):
    y, x = np.mgrid[:height, :width]
    wave = np.sin(x / 5.0) * np.cos(y / 7.0) + np.sin((x + y) / 11.0)
    return np.clip(128 + 50 * wave, 0, 255).astype(np.uint8)


@pytest.mark.parametrize(("window", "size"), [
    ((100.25, 0, 121.5, 216), (216, 384)), ((10.7, 20.3, 200.2, 150.1), (100, 76)),
    ((50, 30, 90, 160), (90, 160)), ((0, 0, 384, 216), (96, 54)),
])
def test_agrees_with_pillow(window, size):
    plane = _texture()
    x, y, w, h = window
    judge = Image.fromarray(plane).resize(size, Image.Resampling.LANCZOS, box=(x, y, x + w, y + h))
    apart = np.abs(resample(plane, window, size).astype(int) - np.asarray(judge).astype(int))
    assert apart[3:-3, 3:-3].max() <= 2  # Pillow clips its kernel at the box, we see beyond


def test_whole_pixels_are_copied():
    plane = _texture()
    assert (resample(plane, (37, 11, 100, 80), (100, 80)) == plane[11:91, 37:137]).all()


def test_movement_has_no_steps():
    """A soft wave moved by a tenth of a pixel: every tenth changes the picture about equally."""
    wave = (128 + 100 * np.sin(np.arange(400) / 9.0)).round().astype(np.uint8)
    plane = np.tile(wave, (64, 1))
    moved = [resample(plane, (100 + k / 10, 0, 60, 32), (120, 64)).astype(float)
             for k in range(11)]
    steps = [np.abs(b - a).mean() for a, b in itertools.pairwise(moved)]
    assert min(steps) > 0.3 * max(steps) > 0


def test_flat_pictures_stay_flat_at_the_edges():
    flat = np.full((90, 160), 201, np.uint8)
    assert (resample(flat, (0, 0, 50.6, 90), (108, 192)) == 201).all()


def test_chroma_follows_luma():
    """An edge lies at the same place in luma and chroma after composing (left siting)."""
    y = np.full((180, 320), 40, np.uint8)
    y[:, 160:] = 200
    centres = 2 * np.arange(160) + LEFT[0]
    u = np.broadcast_to(np.where(centres >= 159.5, 200, 40).astype(np.uint8), (90, 160))
    luma, chroma, _ = filled(Planes(y, u, u), (100.0, 0.0, 101.25, 180.0), (216, 384))
    middle = (40 + 200) / 2
    at_luma = np.argmax(luma[200] > middle)
    at_chroma = np.argmax(chroma[100] > middle) * 2
    assert abs(at_luma - at_chroma) <= 3


def test_turning_four_times_is_nothing():
    y = _texture(60, 80)
    c = _texture(30, 40)
    planes = Planes(y, c, c)
    there = planes
    for _ in range(4):
        there = turned(there, 90)
    assert (there.y == y).all() and there.siting == LEFT
    assert turned(planes, 90).siting == (0.5, 0.0)
    assert turned(planes, 90).y[0, -1] == y[0, 0]
