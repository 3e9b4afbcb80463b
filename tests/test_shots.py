"""Shots split, joined, and replaced by cut lists; decisions and tracks follow."""

import warnings
from fractions import Fraction

import opentimelineio as otio
import pytest

from caracal.core.analysis.model import Transition
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.exchange.cut_lists import read_cut_list
from caracal.core.framing.choice import Keyframe, ShotChoice, Swap
from caracal.core.framing.motion import Manner
from caracal.core.framing.path import film_path, windows_of
from caracal.core.project.edits import with_choice, with_lead, with_manner
from caracal.core.project.model import ShotStart, first_project
from caracal.core.project.shots import (
    joined_to_previous,
    reshot,
    split_at,
    starts_of,
    with_starts,
)
from conftest import DEMO

EDL = DEMO.with_suffix(".edl")


@pytest.fixture
def project(demo):
    return first_project(demo.master.frames)


def test_a_split_makes_two_shots_that_both_keep_the_lead(demo, project):
    lead = demo.tracks_in(6)[0].subject
    made = split_at(demo, with_lead(project, 6, lead), 620)
    now = reshot(demo, made.starts)
    assert len(now.shots) == len(demo.shots) + 1
    assert [(found_shot.start, found_shot.end) for found_shot in now.shots[6:8]] == [
        (561, 620),
        (620, 691),
    ]
    assert made.cast(6).lead == made.cast(7).lead == lead
    for shot in (6, 7):
        track = next(track for track in now.tracks_in(shot) if track.subject == lead)
        span = now.shots[shot]
        assert span.start <= track.first_frame and track.end_frame <= span.end
        assert track.box_at(span.start + 5) == next(
            other for other in demo.tracks_in(6)
            if other.subject == lead and other.kind == track.kind
        ).box_at(span.start + 5)


def test_later_decisions_move_along(demo, project):
    made = split_at(demo, with_manner(project, "A", 8, Manner.LOCKED), 620)
    assert made.choice("A", 9).manner is Manner.LOCKED
    assert made.choice("A", 8).manner is Manner.AUTO


def test_joining_what_was_split_gives_the_found_shots_again(demo, project):
    made = joined_to_previous(demo, split_at(demo, project, 620), 7)
    assert made == project and reshot(demo, made.starts) is demo


def test_joined_shots_have_one_track_for_one_being(demo, project):
    """The still talker split in two and joined again through other starts."""
    cut = split_at(demo, project, 620)
    again = [start for start in starts_of(demo, cut) if start.frame not in (620, 691)]
    now = reshot(demo, tuple(again))
    bodies = [track for track in now.tracks_in(6) if track.kind == "person"]
    assert len(bodies) == 1 and len(now.shots) == len(demo.shots) - 1


def test_keyframes_and_swaps_stay_with_their_part(demo, project):
    choice = ShotChoice(manner=Manner.BY_HAND, swaps=(Swap(600, 1), Swap(650, 2)),
                        keyframes=(Keyframe(570, (500.0, 540.0)), Keyframe(640, (900.0, 540.0))))
    made = split_at(demo, with_choice(project, "A", 6, choice), 620)
    first, second = made.choice("A", 6), made.choice("A", 7)
    assert [k.frame for k in first.keyframes] == [570] and len(first.swaps) == 1
    assert [k.frame for k in second.keyframes] == [640] and second.swaps[0].frame == 650


def test_the_window_jumps_on_the_new_shot_s_first_frame(demo, project):
    made = split_at(demo, with_manner(project, "A", 6, Manner.LOCKED), 620)
    windows = windows_of(film_path(reshot(demo, made.starts), FramingSpec(Shape(9, 16)),
                                   made.choices_for("A")))
    assert len(windows) == demo.master.frames
    assert (windows[561:620] == windows[561]).all() and (windows[620:691] == windows[620]).all()
    assert windows[620, 0] != windows[619, 0]


@pytest.mark.parametrize("starts", [[], [5], [0, 5, 5], [0, 1500]])
def test_shots_that_do_not_cover_the_film_are_refused(demo, project, starts):
    with pytest.raises(InputError, match="cover"):
        with_starts(demo, project, [ShotStart(start) for start in starts])


def test_refusals(demo, project):
    with pytest.raises(InputError, match="already"):
        split_at(demo, project, 561)
    with pytest.raises(InputError, match="before the first"):
        joined_to_previous(demo, project, 0)


def test_the_demo_s_edl_gives_its_true_shots(demo, truth):
    """CMX 3600, read by OpenTimelineIO; the dissolve's middle is the truth's, too."""
    starts = read_cut_list(EDL, Fraction(25), demo.master.frames)
    assert [start.frame for start in starts] == [row["start"] for row in truth["shots"]]
    soft = [
        shot_start.frame for shot_start in starts if shot_start.transition is Transition.DISSOLVE
    ]
    (dissolve,) = truth["dissolves"]
    assert soft == [(dissolve["start"] + dissolve["end"]) // 2]


def test_an_opentimelineio_file_says_the_same(demo, tmp_path):
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        timeline = otio.adapters.read_from_file(str(EDL), rate=25)
        otio.adapters.write_to_file(timeline, str(tmp_path / "cut.otio"))
    assert read_cut_list(tmp_path / "cut.otio", Fraction(25), 1500) == read_cut_list(
        EDL, Fraction(25), 1500)


def test_cut_lists_that_do_not_fit_are_refused(tmp_path):
    broken = tmp_path / "broken.otio"
    broken.write_text("{")
    for path, frames, word in ((EDL, 700, "does not fit"), (broken, 1500, "cannot be read"),
                               (tmp_path / "none.edl", 1500, "no such file"),
                               (DEMO, 1500, "not a cut list")):
        with pytest.raises(InputError, match=word):
            read_cut_list(path, Fraction(25), frames)
