"""Shot boundaries on filmed pictures and on what looks like one. True cuts are checked by eye."""

from fractions import Fraction

import av
import cv2
import numpy as np
import pytest
from av.video.reformatter import ColorRange, Colorspace
from scenedetect import FrameTimecode
from scenedetect.detectors import ContentDetector

from caracal.core.analysis.cuts.boundary_network import BoundaryNetwork, histograms, in_rgb
from caracal.core.analysis.cuts.cut_finder import CutFinder
from caracal.core.analysis.cuts.gradual import detail
from caracal.core.analysis.model import Transition
from caracal.core.media.planes import Planes
from filmed_clips import pictures, tiny

BIKES_CUTS = [30, 76, 137, 187, 242]


@pytest.fixture(scope="module")
def clips():
    return {name: pictures(name) for name in ("bikes", "bigbuckbunny", "carphone_pristine")}


def boundaries(planes, rate=25):
    """As they become final: asked every ten frames, and at the end."""
    finder, found = CutFinder(Fraction(rate)), []
    for number, plane in enumerate(planes):
        finder.add(number, tiny(plane.y), plane)
        if number % 10 == 0:
            found += finder.settled()
    return [*found, *finder.finish(len(planes))]


def told(found):
    return [(boundary.frame, boundary.kind.value) for boundary in found]


def fitted(planes, size=(640, 360)):
    half = (size[0] // 2, size[1] // 2)
    return [Planes(cv2.resize(plane.y, size), cv2.resize(plane.u, half), cv2.resize(plane.v, half))
            for plane in planes]


def mixed(a, b, share):
    return Planes(*(cv2.addWeighted(getattr(b, part), share, getattr(a, part), 1 - share, 0)
                    for part in "yuv"))


def plain(like, level):
    grey = np.full_like(like.u, 128)
    return Planes(np.full_like(like.y, level), grey, grey)


def test_hard_cuts_of_a_filmed_clip_are_exact_and_no_movement_is_a_dissolve(clips):
    found = boundaries(clips["bikes"])
    assert told(found) == [(number, "cut") for number in BIKES_CUTS]


@pytest.mark.parametrize("name", ["bigbuckbunny", "carphone_pristine"])
def test_nothing_is_invented_where_there_is_one_shot(clips, name):
    assert boundaries(clips[name]) == []


def test_another_detector_agrees_on_the_cuts(clips):
    """PySceneDetect's content detector (hue, saturation and luma) as the outside judge."""
    judge = ContentDetector()
    found = [cut.frame_num for number, clip in enumerate(clips["bikes"])
             for cut in judge.process_frame(
                 FrameTimecode(number, fps=25.0),
                 cv2.cvtColor(np.concatenate([clip.y, clip.u.reshape(-1, clip.y.shape[1]),
                                              clip.v.reshape(-1, clip.y.shape[1])]),
                              cv2.COLOR_YUV2BGR_I420))]
    assert set(found) >= {boundary.frame for boundary in boundaries(clips["bikes"])} - {76}


@pytest.mark.parametrize("length", [10, 25, 40])
def test_a_dissolve_between_filmed_shots_is_found_and_cuts_near_it_stand(clips, length):
    """A hard cut eight frames after the dissolve, and one before it."""
    a, b = fitted(clips["bikes"][80:136]), fitted(clips["bigbuckbunny"][:100])
    c = fitted(clips["bikes"][140:180])
    mix = [mixed(a[40 + k] if 40 + k < len(a) else a[-1], b[k], (k + 1) / (length + 1))
           for k in range(length)]
    film = [*c[:20], *a[:40], *mix, *b[length : length + 8], *c]
    at = 60 + length
    found = boundaries(film)
    assert [boundary.kind.value for boundary in found] == ["cut", "dissolve", "cut"]
    assert (found[0].frame, found[2].frame) == (20, at + 8)
    assert 60 <= found[1].frame < at and abs(found[1].span[0] - 60) <= 2 + length / 4


def wiped(a, b, share, direction):
    """``b`` over ``a`` behind a border that has come so far, 0..1."""
    def plane(first, other):
        rows, columns = np.indices(first.shape)
        along = {"right": columns / first.shape[1], "up": 1 - rows / first.shape[0],
                 "diagonal": (columns / first.shape[1] + rows / first.shape[0]) / 2}[direction]
        return np.where(along < share, other, first)

    return Planes(plane(a.y, b.y), plane(a.u, b.u), plane(a.v, b.v))


@pytest.mark.parametrize("direction", ["right", "up", "diagonal"])
@pytest.mark.parametrize("length", [12, 25])
def test_a_wipe_between_filmed_shots_is_found(clips, direction, length):
    """Both go on moving meanwhile; a hard cut before it stands."""
    a, b = fitted(clips["bikes"][80:136]), fitted(clips["bigbuckbunny"][:80])
    c = fitted(clips["bikes"][140:170])
    border = [wiped(a[30 + k], b[k], (k + 1) / (length + 1), direction) for k in range(length)]
    found = boundaries([*c, *a[:30], *border, *b[length:]])
    assert [boundary.kind for boundary in found] == [Transition.CUT, Transition.WIPE]
    assert found[0].frame == 30 and 60 <= found[1].frame < 60 + length
    assert found[1].span[0] <= 62 and found[1].span[1] >= 58 + length


@pytest.mark.parametrize("level", [16, 235])
def test_a_fade_through_black_or_white_begins_a_shot_between(clips, level):
    a, b = fitted(clips["bikes"][80:130]), fitted(clips["bigbuckbunny"][:60])
    out = [mixed(planes, plain(planes, level), (k + 1) / 12) for k, planes in enumerate(a[-12:])]
    into = [mixed(plain(planes_, level), planes_, (k + 1) / 12) for k, planes_ in enumerate(b[:12])]
    film = [*a[:-12], *out, *[plain(a[0], level)] * 6, *into, *b[12:]]
    found = boundaries(film)
    assert [boundary.kind for boundary in found] == [Transition.FADE]
    assert 48 <= found[0].frame <= 58


def test_flashes_strobes_and_a_hand_before_the_lens_are_no_cuts(clips):
    film = fitted(clips["bigbuckbunny"])
    white = plain(film[0], 235)
    film[30:32] = [white, white]  # a flash
    for at in range(60, 84, 4):  # a strobe
        film[at] = mixed(film[at], white, 0.7)
    for k in range(16):  # something dark passes close by, soft-edged, in two thirds of a second
        edge = np.clip((np.arange(640) - 80 * (k - 4)) / 60, 0, 1) * np.clip(
            (80 * (k + 1) - np.arange(640)) / 60, 0, 1)
        luma = film[100 + k].y * (1 - edge) + 30 * edge
        film[100 + k] = Planes(luma.astype(np.uint8), film[100 + k].u, film[100 + k].v)
    assert boundaries(film) == []


def test_a_whip_pan_a_shaking_camera_and_judder_are_no_cuts(clips):
    wide = np.concatenate([planes_.y for planes_ in fitted(clips["bikes"][::40])[:5]], axis=1)
    grey = np.full((180, 320), 128, np.uint8)
    rng = np.random.default_rng(3)
    at, places = 0.0, []
    for k in range(120):
        at += 60 * np.exp(-(((k - 60) / 6) ** 2)) + 0.5  # stands, whips over, stands
        places.append((at + rng.normal(0, 3), 8 + rng.normal(0, 3)))
    film = [Planes(np.ascontiguousarray(wide[int(y) % 16 : int(y) % 16 + 340,
                                             int(abs(x)) : int(abs(x)) + 620]), grey, grey)
            for x, y in places]
    assert boundaries(film) == []
    twos = [planes for planes in fitted(clips["bikes"])[80:136:2] for _ in range(2)]
    assert boundaries(twos) == []


def test_a_jump_cut_in_one_set_up_stands(clips):
    """The same man before the same window, three seconds later."""
    film = clips["carphone_pristine"]
    assert told(boundaries([*film[:36], *film[84:]])) == [(36, "cut")]


def test_the_network_is_asked_rarely(clips):
    finder = CutFinder(Fraction(25))
    for number, clip in enumerate(clips["bikes"]):
        finder.add(number, tiny(clip.y), clip)
    finder.finish(250)
    assert finder.windows <= 2


def test_pictures_reach_the_network_as_it_wants_them():
    """FFmpeg's conversion and NumPy's own histogram are the judges."""
    rng = np.random.default_rng(1)
    rgb = cv2.resize(rng.integers(0, 255, (6, 8, 3), np.uint8), (48, 28))
    frame = av.VideoFrame.from_ndarray(rgb, format="rgb24").reformat(
        format="yuv444p", dst_colorspace=Colorspace.ITU709,
        dst_color_range=ColorRange.MPEG)
    planes = frame.to_ndarray().transpose(1, 2, 0)
    assert np.abs(in_rgb(planes).astype(int) - rgb).max() <= 4
    counted, _ = np.histogramdd(rgb.reshape(-1, 3), bins=(8, 8, 8), range=[(0, 256)] * 3)
    assert np.array_equal(histograms(rgb[None])[0], counted.ravel())


def test_half_a_mix_has_half_the_squared_gradients():
    """Arithmetic: of two pictures that have nothing in common a quarter each, of both ends' mean
    a half."""
    rng = np.random.default_rng(2)
    a, b = (rng.integers(60, 180, (90, 160), np.uint8) for _ in range(2))
    half = cv2.addWeighted(a, 0.5, b, 0.5, 0)
    assert detail(half) / ((detail(a) + detail(b)) / 2) == pytest.approx(0.5, rel=0.05)


def test_a_network_that_was_not_asked_did_nothing():
    network = BoundaryNetwork(25)
    grey = np.full((27, 48), 128, np.uint8)
    for number in range(120):
        network.add(number, grey, Planes(grey, grey, grey))
    network.finish()
    assert network.windows == 0 and network.said(0, 50) == (0.0, 0.0)
    network.close()


def test_who_passes_close_by_right_after_a_cut_is_no_wipe(clips):
    """Legs walk over all of the picture in half a second: filled to 16:9, as a master has it."""
    film = [_filled(planes) for planes in clips["bikes"][150:242]]
    found = boundaries(film)
    assert [(boundary.frame, boundary.kind) for boundary in found] == [(37, Transition.CUT)]


def _filled(planes):
    """640 x 272, its sides cut off to 16:9."""
    return Planes(np.ascontiguousarray(planes.y[:, 80:564]),
                  *(np.ascontiguousarray(part[:, 40:282]) for part in (planes.u, planes.v)))
