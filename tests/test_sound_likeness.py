"""A file's sound beside its sources, decoded apart: files that FFmpeg makes, right and wrong."""

import subprocess

import numpy as np
import pytest

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.encoding.sound_likeness import _faded, heard_beside_sources
from caracal.core.plan.planner import Planner
from caracal.core.project.recipe import Recipe
from caracal.core.sound.mix import SoundFade
from caracal.core.specs.sheet_store import find_sheet
from conftest import smaller, write_film


@pytest.fixture(scope="module")
def planned(tmp_path_factory):
    """The plan of a film of eight seconds whose tone comes and goes."""
    folder = tmp_path_factory.mktemp("likeness")
    film = write_film(folder / "film.mp4", frames=200)
    (plan,) = Planner(analyse(film), no_progress, CancelToken()).add(
        0, Recipe(smaller(find_sheet("square-feed"))), folder / "out")
    (folder / "out").mkdir()
    return film, plan


def heard(planned, *filters):
    film, plan = planned
    sound = ("-af", *filters) if filters else ()
    subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", film, *sound, "-c:v", "copy", "-c:a",
                    "aac", "-f", "mp4", plan.part_file], check=True)
    return heard_beside_sources(plan)


def test_the_master_s_own_sound_is_right(planned):
    found = heard(planned)
    assert found.right and found.lost == 0 and abs(found.late_s) < 0.05


def test_sound_that_is_late_is_late_by_as_much(planned):
    """It is all there (``right``): lateness is a line of the proof of its own."""
    found = heard(planned, "adelay=300:all=1")
    assert found.late_s == pytest.approx(0.3, abs=0.04) and found.right


def test_half_seconds_without_their_sound_are_lost(planned):
    found = heard(planned, "volume=0:enable='between(t,2,5)'")
    assert not found.right and 3 <= found.lost <= 6


def test_a_file_without_sound_has_none_to_compare(planned):
    film, plan = planned
    subprocess.run(["ffmpeg", "-v", "error", "-y", "-i", film, "-an", "-c:v", "copy", "-f", "mp4",
                    plan.part_file], check=True)
    assert heard_beside_sources(plan) is None


def test_a_fade_is_a_ramp_over_its_frames():
    """By arithmetic: at 25 fps frames 50 to 100 are 2 to 4 s."""
    times = np.array([1.9, 2.0, 3.0, 3.9, 4.0])
    assert np.allclose(_faded(SoundFade(50, 100, True), times, 25.0), [1, 0, 0.5, 0.95, 1])
    assert np.allclose(_faded(SoundFade(50, 100, False), times, 25.0), [1, 1, 0.5, 0.05, 1])
