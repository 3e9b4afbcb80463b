"""Turned, straightened and sharpened pictures, against pictures that are known in closed form."""

from pathlib import Path

import msgspec
import numpy as np
import pytest

from caracal.core.base.geometry import (
    FramingSpec,
    Shape,
    region_in_window,
    rotated_extent,
    window_size,
)
from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.framing.choice import Finish, ShotChoice, zooms
from caracal.core.framing.path import shot_path
from caracal.core.media.decode import frames
from caracal.core.media.planes import Planes
from caracal.core.media.probe import probe
from caracal.core.render.painters.fill import filled
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film
from test_properties import film

WIDE, HIGH = 240, 200


def picture(value):
    """Planes whose luma and chroma are ``value(x, y)`` at their own places, chroma left-sited."""
    x, y = np.meshgrid(np.arange(WIDE) + 0.5, np.arange(HIGH) + 0.5)
    cx, cy = np.meshgrid(np.arange(WIDE // 2) * 2 + 0.5, np.arange(HIGH // 2) * 2 + 1.0)
    luma, chroma = (np.rint(value(*at)).astype(np.uint8) for at in ((x, y), (cx, cy)))
    return Planes(luma, chroma, chroma, (0.0, 0.5))


def chroma_error(made):
    """How far chroma is from the luma at the place where left-sited chroma belongs."""
    luma, u, _ = (plane.astype(float) for plane in made)
    there = (luma[0::2, 0::2] + luma[1::2, 0::2]) / 2
    return float(np.abs((u - there)[4:-4, 4:-4]).mean())


@pytest.mark.parametrize("quarters", [0, 1, 2, 3])
@pytest.mark.parametrize("axis", [0, 1])
def test_turned_luma_and_chroma_stay_together(quarters, axis):
    """Siting: ITU-T H.264 figure E-1 (from memory), left chroma lies on the left luma column."""
    ramp = picture(lambda x, y: np.minimum(9 + 2 * (x, y)[axis], 255))
    made = filled(ramp, (10.0, 10.0, 100.0, 80.0), (80, 100) if quarters % 2 else (100, 80),
                   Finish(quarters))
    assert chroma_error(made) < 0.3


def test_a_quarter_turn_is_clockwise():
    ramp = picture(lambda x, y: 10 + x)
    luma, _, _ = filled(ramp, (0.0, 0.0, 160.0, 120.0), (120, 160), Finish(1))
    assert luma.shape == (160, 120)
    assert luma[0].mean() < luma[-1].mean() - 100  # what was at the left is on top


def test_a_straightened_picture_is_the_turned_one():
    """Against the picture's own formula at the turned places."""
    def value(x, y):
        return 128 + 60 * np.sin(x / 9.0) * np.cos(y / 11.0)

    degrees, window, canvas = 7.0, (60.0, 50.0, 120.0, 90.0), (120, 90)
    luma, u, v = filled(picture(value), window, canvas, Finish(0, degrees))
    x, y = np.meshgrid(np.arange(120) - 59.5, np.arange(90) - 44.5)
    turn = np.radians(degrees)
    expected = value(120 + np.cos(turn) * x + np.sin(turn) * y,
                     95 - np.sin(turn) * x + np.cos(turn) * y)
    assert np.abs(luma - expected).mean() < 0.8
    assert chroma_error((luma, u, v)) < 0.8


def test_sharpening_makes_edges_stronger_and_leaves_flat_parts():
    step = picture(lambda x, y: np.where(x < 120, 80, 160))
    plain, _, _ = filled(step, (90.0, 70.0, 60.0, 60.0), (120, 120))
    sharp, _, _ = filled(step, (90.0, 70.0, 60.0, 60.0), (120, 120), Finish(sharpen=0.5))
    assert np.abs(np.diff(sharp.astype(int))).max() > np.abs(np.diff(plain.astype(int))).max() + 5
    assert (sharp[:, :20] == 80).all() and (sharp[:, -20:] == 160).all()


@pytest.mark.parametrize(("low", "high"), [(80, 160), (16, 235), (20, 230), (5, 250)])
@pytest.mark.parametrize("scale", [0.5, 1.0, 3.0])
def test_sharpening_makes_no_seam_and_stays_within_video_range(low, high, scale):
    """Step, line and corner: never more than a tenth of their height beyond their sides."""
    drawn = picture(lambda x, y: np.where((x < 120) | ((x > 150) & (x < 153)) | (y > 140), low,
                                          high))
    side = round(120 * scale)
    sharp, _, _ = filled(drawn, (70.0, 60.0, 120.0, 120.0), (side, side), Finish(sharpen=1.0))
    plain, _, _ = filled(drawn, (70.0, 60.0, 120.0, 120.0), (side, side))
    height = int(plain.max()) - int(plain.min())
    assert plain.min() - sharp.min().astype(int) <= 0.1 * height
    assert sharp.max().astype(int) - plain.max() <= 0.1 * height
    assert sharp.min() >= min(16, plain.min()) and sharp.max() <= max(235, plain.max())


def test_turning_a_wide_film_shows_all_of_it_in_a_tall_canvas():
    """83.33 % for 900x1600 (arithmetic): the whole picture, lying on its side."""
    path = shot_path(film(), 0, FramingSpec(Shape(9, 16)), ShotChoice(finish=Finish(1)))
    assert tuple(path.windows[0]) == (0, 0, 1920, 1080)
    assert 1600 / path.windows[0, 2] == pytest.approx(0.8333, abs=1e-4)


@pytest.mark.parametrize("quarters", range(4))
def test_parts_of_the_canvas_are_found_in_the_window(quarters):
    """A mark at the canvas's top left corner, followed back by turning a small array."""
    window = np.zeros((10, 10))
    (left, right), (top, bottom) = region_in_window(((0.0, 0.2), (0.0, 0.4)), quarters)
    window[round(top * 10) : round(bottom * 10), round(left * 10) : round(right * 10)] = 1
    canvas = np.rot90(window, -quarters)
    assert canvas[:4, :2].all() and canvas.sum() == 8


@pytest.mark.parametrize("degrees", [-15.0, -3.0, 0.5, 10.0])
def test_the_corners_of_a_leaning_window_stay_in_the_picture(degrees):
    shape = Shape(9, 16)
    w, h = window_size(shape, (0, 0, 1920, 1080), 1.0, degrees)
    across, down = rotated_extent(shape, degrees)
    turn = np.radians(degrees)
    corners = [abs(w / 2 * np.cos(turn)) + abs(h / 2 * np.sin(turn)),
               abs(w / 2 * np.sin(turn)) + abs(h / 2 * np.cos(turn))]
    assert corners == pytest.approx([w * across / 2, h * down / 2])
    assert 2 * corners[1] <= 1080 + 1e-6 and 2 * corners[0] <= 1920 + 1e-6
    assert w / h == pytest.approx(9 / 16)


def test_the_finish_is_in_the_file(tmp_path):
    def ramp(number, y):
        return np.tile(np.linspace(40, 220, y.shape[1]).astype(np.uint8), (y.shape[0], 1))

    master = write_film(tmp_path / "ramp.mp4", size=(640, 360), frames=80, picture=ramp,
                        sound=False)
    sheet = msgspec.structs.replace(find_sheet("vertical-short"), canvas=(270, 480))
    (made,) = convert(master, [Recipe(sheet, {0: ShotChoice(finish=Finish(3))},
                                      ranges=(FrameRange(0, 80),))], tmp_path)
    _, planes = next(frames(probe(Path(made.file))))
    assert made.proof.right
    rows = planes.y.mean(axis=1)
    assert rows[5] == pytest.approx(218, abs=5) and rows[-5] == pytest.approx(42, abs=5)


def test_a_push_comes_closer_gently_over_the_shot_and_goes_back_below_one():
    """Hermite's 3 t^2 - 2 t^3: a quarter of the way is 0.15625, half is half; on paper."""
    made = zooms(ShotChoice(push=1.2), 10, 101, (10, 111))
    assert made[[0, 25, 50, 100]] == pytest.approx([1, 1 + 0.2 * 0.15625, 1.1, 1.2])
    back = zooms(ShotChoice(push=1 / 1.2), 10, 101, (10, 111))
    assert back == pytest.approx(made[::-1])
    half = zooms(ShotChoice(zoom=1.5, push=1.2), 60, 51, (10, 111))  # what follows a swap
    assert half[[0, -1]] == pytest.approx([1.65, 1.8])


def test_a_pushed_window_keeps_its_lead_and_its_shape(demo):
    frame = FramingSpec(Shape.parse("9:16"))
    plain = shot_path(demo, 3, frame, ShotChoice(zoom=1.0))
    path = shot_path(demo, 3, frame, ShotChoice(push=1.2))
    wide = path.windows[:, 2]
    assert wide[[0, -1]] == pytest.approx([plain.windows[0, 2], plain.windows[0, 2] / 1.2])
    assert (np.diff(wide) < 1e-9).all()
    assert path.windows[:, 3] / wide == pytest.approx(16 / 9)
    left, right = path.windows[:, 0], path.windows[:, 0] + wide
    assert (left >= -1e-6).all() and (right <= 1920 + 1e-6).all()
    middles = path.windows[:, 0] + wide / 2
    assert np.abs(np.diff(middles)).max() < 8  # it comes closer without a jerk
