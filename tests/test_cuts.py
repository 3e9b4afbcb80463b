"""Cuts and dissolves on drawn streams: exact, none invented."""

from fractions import Fraction

import cv2
import numpy as np
import pytest

from caracal.core.analysis.cuts.cut_finder import CutFinder
from caracal.core.analysis.detectors.attention import AttentionMaker
from caracal.core.analysis.detectors.downscale import downscaled, proxy_size
from caracal.core.analysis.model import ATTENTION_SHAPE, Transition
from caracal.core.media.planes import Planes

SIZE = (320, 180)
TINY = (160, 90)  # what analysis hands on


def _scene(seed):
    """A smooth random picture (180, 320), always the same for a seed."""
    rough = np.random.default_rng(seed).integers(30, 220, (6, 10)).astype(np.float32)
    return cv2.resize(rough, SIZE, interpolation=cv2.INTER_CUBIC).clip(16, 235)


GREY = np.full((90, 160), 128, np.uint8)


def _boundaries(pictures, rate=25):
    """What the finder says of grey ``pictures`` (180, 320), with the real network behind it."""
    finder, found = CutFinder(Fraction(rate)), []
    for number, picture in enumerate(pictures):
        luma = np.asarray(picture).clip(0, 255).astype(np.uint8)
        finder.add(number, cv2.resize(luma, TINY, interpolation=cv2.INTER_AREA),
                   Planes(luma, GREY, GREY))
        if number % 10 == 0:
            found += finder.settled()
    return [*found, *finder.finish(len(pictures))]


def _still(scene, count, noise=1.0, seed=0):
    rng = np.random.default_rng(seed)
    return [scene + rng.normal(0, noise, scene.shape) for _ in range(count)]


def test_hard_cuts_are_exact():
    pictures = [*_still(_scene(1), 40), *_still(_scene(2), 33), *_still(_scene(3), 50)]
    found = _boundaries(pictures)
    assert [(boundary.frame, boundary.kind) for boundary in found] == [
        (40, Transition.CUT), (73, Transition.CUT)]


@pytest.mark.parametrize("length", [12, 24, 40])
def test_dissolves_are_found_in_their_span(length):
    first, second = _scene(4), _scene(5)
    mix = [first + (second - first) * (k + 1) / (length + 1) for k in range(length)]
    found = _boundaries([*_still(first, 60), *mix, *_still(second, 60)])
    assert [boundary.kind for boundary in found] == [Transition.DISSOLVE]
    assert 60 <= found[0].frame < 60 + length


def test_a_pan_is_no_cut():
    rough = np.random.default_rng(6).integers(30, 220, (18, 96)).astype(np.float32)
    wide = cv2.resize(rough, (960, 180), interpolation=cv2.INTER_CUBIC).clip(16, 235)
    assert _boundaries([wide[:, 4 * k : 4 * k + 320] for k in range(150)]) == []


def test_a_fade_to_black_belongs_to_its_shot():
    scene = _scene(7)
    fade = [16 + (scene - 16) * (1 - (k + 1) / 25) for k in range(25)]
    assert _boundaries([*_still(scene, 60), *fade, *[np.full_like(scene, 16)] * 20]) == []


def test_attention_goes_to_what_moves():
    maker, total = AttentionMaker(), 0
    for number in range(6):
        luma = np.full((180, 320), 90, np.uint8)
        luma[60:120, 220 + 8 * number : 250 + 8 * number] = 200
        total = total + maker.score(luma)
    assert total.shape == ATTENTION_SHAPE
    assert total[:, 20:].sum() > 0.9 * total.sum()


@pytest.mark.parametrize(("master", "small"), [
    ((1920, 1080), (960, 540)), ((1080, 1920), (540, 960)), ((3840, 1608), (960, 402)),
    ((320, 180), (320, 180)),
])
def test_small_pictures_keep_the_shape(master, small):
    assert proxy_size(*master) == small


def test_shrinking_keeps_brightness():
    y = np.random.default_rng(1).integers(16, 235, (1080, 1920), dtype=np.uint8)
    c = np.full((540, 960), 90, np.uint8)
    made = downscaled(Planes(y, c, c), (640, 360))
    assert made.y.shape == (360, 640) and made.u.shape == (180, 320)
    assert abs(float(made.y.mean()) - float(y.mean())) < 1 and (made.u == 90).all()
