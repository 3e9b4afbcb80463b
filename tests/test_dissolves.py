"""Ranges that dissolve into each other: pictures and levels on paper, by FFmpeg's decoder."""

from fractions import Fraction

import numpy as np
import pytest

from caracal.core.base.time import FrameRange, with_speeds
from caracal.core.base.timeline import cut, timeline
from caracal.core.media.probe import probe
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Fades, first_project
from caracal.core.render.dissolves import outgoing_frames, share_left
from caracal.core.sound.mix import mix_of_file, mix_of_film
from caracal.core.sound.mixer import mixed
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffmpeg, write_film
from test_clips import brightness, loud, number_in, ramp
from test_speed import made


def test_only_ranges_that_do_not_touch_dissolve():
    project = first_project(300)
    ranges = (FrameRange(0, 50), FrameRange(100, 150), FrameRange(150, 155), FrameRange(200, 204))
    project = changed_version(project, "A", ranges=ranges, fades=Fades(joint=10, dissolves=True))
    assert [each.dissolve for each in project.ranges_of("A")] == [0, 10, 0, 4]
    assert not project.overlays_of("A")  # and no colour lies over the joints
    slow = with_speeds(project.ranges_of("A"), (FrameRange(105, 110, 50),))
    assert [each.dissolve for each in slow] == [0, 10, 0, 0, 0, 4]
    # A part that begins later is in the middle of it: nothing dissolves there.
    assert [each.dissolve for each in cut(project.ranges_of("A"), 60, 120)] == [0, 0, 4]


def test_what_goes_on_keeps_its_pace_and_ends_with_its_shot():
    before, span = FrameRange(10, 20, 200), FrameRange(50, 80, dissolve=6)
    assert outgoing_frames(before, span, 40) == (20, 22, 24, 26, 28, 30)
    assert outgoing_frames(before, span, 24) == (20, 22, 23, 23, 23, 23)
    # On paper: four steps from all to nothing, of which the ends are not shown.
    assert [share_left(3, at) for at in range(3)] == pytest.approx([0.75, 0.5, 0.25])


@pytest.mark.parametrize("rate", [None, 30])
def test_a_file_dissolves_from_one_range_into_the_next(tmp_path, rate):
    film = write_film(tmp_path / "film.mp4", frames=50, picture=ramp)
    ranges = (FrameRange(0, 10), FrameRange(30, 48, dissolve=8))
    change = () if rate is None else (("rates.only", (rate,)), ("rates.change", "blend"))
    (result,) = made(film, tmp_path / "out", ranges, change=change)
    assert result.proof.right, result.proof
    numbers = np.array([number_in(level) for level in brightness(result.file)])
    meant = [*range(10), *range(30, 48)]
    for at in range(8):
        # Brightness goes with the number, so a mixture has a number between the two.
        left = 1 - (at + 1) / 9
        meant[10 + at] = left * (10 + at) + (1 - left) * (30 + at)
    if rate is not None:
        places = np.arange(len(numbers)) * 25 / rate
        meant = np.interp(places, np.arange(len(meant)), meant)
        joint = (places > 9) & (places < 10)  # nothing is mixed over a joint
        meant[joint] = 9
    assert len(numbers) == len(meant)
    assert np.abs(numbers - meant).max() <= 0.7, numbers - meant


def test_its_sound_goes_over_into_the_next(tmp_path):
    """A low tone for two seconds and a high one after it: each alone, then both, then one."""
    film = tmp_path / "film.mp4"
    ffmpeg("-f", "lavfi", "-i", "color=c=gray:s=320x180:r=25:d=4", "-f", "lavfi", "-i",
           "aevalsrc='0.3*sin(2*PI*if(lt(t,2),400,1000)*t)':d=4", "-ac", "2", film)
    (result,) = made(film, tmp_path / "out",
                     (FrameRange(0, 25), FrameRange(60, 85, dissolve=20)),
                     change=(("sound.loudness_lufs", None),))
    assert result.proof.right, result.proof
    before, middle, after = (tones(result.file, at, tmp_path) for at in (0.5, 1.4, 1.9))
    assert before[0] > 0.1 > 20 * before[1] and after[1] > 0.1 > 20 * after[0]
    # In its middle both have half their level.
    assert middle[0] == pytest.approx(before[0] / 2, rel=0.12)
    assert middle[1] == pytest.approx(after[1] / 2, rel=0.12)
    assert loud(result.file, 0.95, 1.0, tmp_path) > 0.1


def tones(file, at, folder):
    """How strong 400 and 1000 Hz are in a tenth of a second round ``at``."""
    raw = folder / "part.raw"
    ffmpeg("-ss", str(at - 0.05), "-i", file, "-t", "0.1", "-vn", "-ac", "1", "-ar", "48000",
           "-f", "f32le", raw)
    wave = np.fromfile(raw, np.float32)
    places = np.arange(len(wave)) / 48000
    return [2 * abs(np.mean(wave * np.exp(-2j * np.pi * pitch * places))) for pitch in (400, 1000)]


def test_a_dissolve_is_played_as_the_file_has_it(tmp_path):
    film = probe(write_film(tmp_path / "film.mp4", frames=150))
    ranges = (FrameRange(0, 50), FrameRange(80, 150, dissolve=20))
    played = mix_of_film(film, ranges, 48000, 2)
    file = mix_of_file(film, find_sheet("vertical-short").sound, timeline(ranges, Fraction(25)))
    ours, theirs = (np.concatenate(list(mixed(mix))) for mix in (played, file))
    second = 80 * 1920
    assert np.abs(ours[:50 * 1920] - theirs[:50 * 1920]).max() < 1e-6
    assert np.abs(ours[second:] - theirs[50 * 1920:]).max() < 1e-6


def test_a_dissolve_into_another_speed_is_no_hard_cut():
    """It lasts as long as at the film's own speed: twice the frames at 200 %, half at 50 %."""
    project = first_project(300)
    ranges = (FrameRange(0, 50), FrameRange(100, 150), FrameRange(200, 250))
    project = changed_version(project, "A", ranges=ranges, fades=Fades(joint=10, dissolves=True),
                              speeds=(FrameRange(90, 120, 50), FrameRange(200, 250, 200)))
    assert [(each.percent, each.dissolve) for each in project.ranges_of("A")] == [
        (100, 0), (50, 5), (100, 0), (200, 20)]
