"""What is encoded is what was decided: windows, jumps and shots, measured in the finished files."""

import msgspec
import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.framing.choice import Interpolation, Keyframe, ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.media.decode import frames
from caracal.core.media.probe import probe
from caracal.core.project.model import DrawnBox, ShotStart
from caracal.core.specs.sheet_store import find_sheet
from conftest import write_film

SHEET = msgspec.structs.replace(find_sheet("square-feed"), canvas=(540, 540))
COUNT = 80


def _ramp(number, y):
    """Luma grows from left to right, so that brightness tells where the window is."""
    return np.tile(np.linspace(40, 220, y.shape[1]).astype(np.uint8), (y.shape[0], 1))


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("film") / "ramp.mp4", size=(640, 360), frames=COUNT,
                      picture=_ramp, sound=False)


def _middles(path):
    """Where the window's middle was in each frame, in master pixels, from the brightness."""
    from pathlib import Path

    luma = [float(planes.y.mean()) for _, planes in frames(probe(Path(path)))]
    return np.interp(luma, [40, 220], [0, 640])


def _made(film, folder, choice, **more):
    (result,) = convert(film, [Recipe(SHEET, {0: choice} if choice else {},
                                   ranges=(FrameRange(0, COUNT),), **more)], folder)
    assert result.proof.right
    return _middles(result.file)


def test_a_held_keyframe_jumps_exactly_on_the_next(film, tmp_path):
    keys = (
        Keyframe(0, (200.0, 180.0), interpolation=Interpolation.HOLD),
        Keyframe(33, (440.0, 180.0)),
    )
    found = _made(film, tmp_path, ShotChoice(manner=Manner.BY_HAND, keyframes=keys))
    assert found[:33] == pytest.approx(200, abs=6) and found[33:] == pytest.approx(440, abs=6)


def test_a_straight_joint_moves_by_fractions_of_a_pixel(film, tmp_path):
    keys = (
        Keyframe(0, (250.0, 180.0), interpolation=Interpolation.STRAIGHT),
        Keyframe(79, (270.0, 180.0)),
    )
    found = _made(film, tmp_path, ShotChoice(manner=Manner.BY_HAND, keyframes=keys))
    steps = np.diff(np.convolve(found, np.ones(9) / 9, "valid"))
    assert found[0] == pytest.approx(250, abs=4) and found[-1] == pytest.approx(270, abs=4)
    assert steps.max() < 1.2  # a quarter of a pixel a frame, and no step of a whole one


def test_shots_of_the_project_are_the_shots_of_the_file(film, tmp_path):
    keys = (Keyframe(50, (420.0, 180.0)),)
    choices = {1: ShotChoice(manner=Manner.BY_HAND, keyframes=keys)}
    (result,) = convert(film, [Recipe(SHEET, choices, ranges=(FrameRange(0, COUNT),),
                                   starts=(ShotStart(0), ShotStart(45)))], tmp_path)
    found = _middles(result.file)
    assert found[:45] == pytest.approx(found[0], abs=6) and found[45:] == pytest.approx(420, abs=6)
    assert abs(found[44] - found[45]) > 50


def test_a_drawn_box_leads_in_the_file(film, tmp_path):
    boxes = tuple((430.0, 100.0, 120.0, 160.0) for _ in range(COUNT))
    drawn = (DrawnBox(1_000_000, "box 1", 0, boxes),)
    found = _made(film, tmp_path, ShotChoice(lead=1_000_000), drawn=drawn)
    assert (found >= 430 + 120 - 180 - 6).all() and (found <= 640 - 180 + 6).all()


def test_zoom_shows_less_of_the_picture(film, tmp_path):
    keys = (Keyframe(0, (320.0, 180.0), zoom=2.0),)
    (result,) = convert(film, [Recipe(SHEET, {0: ShotChoice(manner=Manner.BY_HAND, keyframes=keys)},
                                   ranges=(FrameRange(0, COUNT),))], tmp_path)
    from pathlib import Path

    _, planes = next(frames(probe(Path(result.file))))
    columns = np.interp(planes.y.mean(axis=0), [40, 220], [0, 640])
    assert columns[-20] - columns[20] == pytest.approx(180 * 500 / 540, abs=6)
