"""Scenes as data, and the compositor that makes them."""

import msgspec
import numpy as np
import pytest

from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.layout.kinds import whole_plain
from caracal.core.layout.model import FILL
from caracal.core.media.planes import Planes
from caracal.core.render.compositor import compose_pictures
from caracal.core.render.layers import ColourLayer, PictureLayer, ZonesLayer
from caracal.core.render.painters.fill import filled
from caracal.core.render.painters.zones import review_overlay
from caracal.core.render.scene_track import SceneTrack
from caracal.core.specs.sheet_store import find_sheet

SHEET = find_sheet("vertical-short")
SHARP = Finish(sharpen=0.5)
WINDOWS = np.array([[(10.0 * i, 0.0, 607.5, 1080.0)] for i in range(6)])
WHOLE = whole_plain()
PICTURE = (0.0, 0.0, 1920.0, 1080.0)
TRACK = SceneTrack.of((108, 192), WINDOWS, [PLAIN, PLAIN, SHARP, SHARP, SHARP, PLAIN],
                      [FILL, FILL, FILL, FILL, WHOLE, WHOLE], PICTURE)
ALL = (0, 0, 108, 192)


def picture():
    rng = np.random.default_rng(5)
    y = rng.integers(16, 235, (1080, 1920), np.uint8)
    half = rng.integers(16, 240, (540, 960), np.uint8)
    return Planes(y, half, half[::-1].copy())


def test_a_track_gives_back_every_scene():
    assert len(TRACK) == 6
    assert TRACK.finishes == ((0, PLAIN), (2, SHARP), (5, PLAIN))
    assert TRACK.layouts == ((0, FILL), (4, WHOLE))
    assert TRACK.scene(3).layers == (PictureLayer((30.0, 0.0, 607.5, 1080.0), ALL, SHARP),)
    # 108 x 9 / 16 = 60.75 pixels high, in even numbers in the middle of 192.
    assert TRACK.scene(5).layers == (ColourLayer((0x1c, 0x1a, 0x18), ALL),
                                     PictureLayer(PICTURE, (0, 66, 108, 60)))
    again = msgspec.msgpack.decode(msgspec.msgpack.encode(TRACK), type=SceneTrack)
    assert [again.scene(i) for i in range(6)] == [TRACK.scene(i) for i in range(6)]


@pytest.mark.parametrize("frames", [range(1, 4), [5, 0, 0, 3], np.array([2, 2])])
def test_any_frames_of_it_are_a_track(frames):
    part = TRACK.select(frames)
    assert [part.scene(i) for i in range(len(part))] == [TRACK.scene(int(i)) for i in frames]


def test_another_canvas_shows_the_same():
    small, planes = TRACK.scaled((54, 96)).scene(0), picture()
    luma, u, v = compose_pictures(small, planes)
    assert luma.shape == (96, 54) and u.shape == v.shape == (48, 27)
    large = compose_pictures(TRACK.scene(0), planes)[0]
    halved = large.reshape(96, 2, 54, 2).mean((1, 3))
    assert np.abs(halved - luma).mean() < 4  # noise, the hardest there is


def test_zones_lie_over_the_picture():
    zoned = msgspec.structs.replace(TRACK, zones=SHEET)
    scene, planes = zoned.scene(2), picture()
    assert scene.layers[1] == ZonesLayer(SHEET)
    plain = filled(planes, (20.0, 0.0, 607.5, 1080.0), (108, 192), SHARP)
    expected = review_overlay(SHEET, (108, 192)).over(plain)
    for made, meant in zip(compose_pictures(scene, planes), expected, strict=True):
        assert (made == meant).all()
