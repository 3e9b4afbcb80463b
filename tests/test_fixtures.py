"""Files that older versions of Caracal wrote still open, and mean what they meant."""

import shutil
from pathlib import Path

import pytest

from caracal.core.base.time import FrameRange
from caracal.core.batch.batch_list import VERSION as LIST_VERSION
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import State
from caracal.core.framing.motion import Manner
from caracal.core.layout.entrance import Entry, PaneTiming
from caracal.core.layout.model import Clip, Still
from caracal.core.layout.overlay import OwnSound, ShapeKind
from caracal.core.project.model import Fades
from caracal.core.project.storage import VERSION, read_document
from caracal.core.text.caption_look import CaptionManner
from caracal.core.text.cues import Cue

FIXTURES = Path(__file__).parent / "fixtures"


@pytest.mark.parametrize("version", range(1, VERSION))
def test_projects_of_every_older_version_open(version):
    found = read_document(FIXTURES / f"project-{version}.caracal")
    project = found.project
    assert found.version == VERSION and found.film.frames == 1500
    (decision,) = project.decisions
    assert decision.choice.manner is Manner.BY_HAND
    assert decision.choice.zoom == (None if version == 1 else 1.25)  # 1 was: nobody decided
    assert decision.choice.keyframes[0].centre == (900.0, 540.0)
    assert [start.frame for start in project.starts] == [0, 30, 166]
    assert project.cast(2).lead == 5 and project.cast(2).ignored == (7,)
    assert project.drawn[0].boxes == ((1.0, 2.0, 30.0, 40.0),)
    assert project.accepted_kinds("B", 1) and project.sound == 0


def test_what_lay_over_versions_still_does():
    version = read_document(FIXTURES / "project-7.caracal").project.version("B")
    (arrow,) = version.overlays
    assert (arrow.content.kind, arrow.start, arrow.end_exclusive) == (ShapeKind.ARROW, 40, 90)
    assert (arrow.entry, version.fades) == (Entry.SLIDE, Fades(10, 20, 6, "#102030"))
    assert version.opening is None and version.burnt is None


def test_words_that_were_written_are_still_there():
    project = read_document(FIXTURES / "project-8.caracal").project
    version = project.version("B")
    assert version.opening.frames == 40 and version.opening.overlays[0].content.text == "Kiln Day"
    assert (version.look.manner, version.burnt) == (CaptionManner.GROUPS, False)
    assert project.captions == (Cue(1.0, 2.5, "once a year"),) and project.names == ("Tobias",)
    assert version.speeds == ()


def test_clips_and_speeds_are_as_they_were():
    version = read_document(FIXTURES / "project-9.caracal").project.version("B")
    still, clip = version.overlays[-2:]
    assert still.content == Still("/films/kiln.mp4", 1.5) and still.hidden and still.beats == ()
    assert clip.content == Clip("/films/sea.mp4", start_s=2.0, loops=False)
    assert clip.sound is OwnSound.LOW and not version.fades.dissolves
    assert version.speeds == (FrameRange(200, 260, 50, muted=True),)


@pytest.mark.parametrize("version", range(2, LIST_VERSION))
def test_batch_lists_of_older_versions_open_with_everything_that_was_decided(tmp_path, version):
    path = tmp_path / "list.sqlite"
    shutil.copy(FIXTURES / f"batch-list-{version}.sqlite", path)
    for _ in range(2):  # upgraded once, then read as it is
        with BatchList(path) as jobs:
            first, second = jobs.items()
            assert jobs.paused and first.state is State.WAITING is second.state
    work, recipe = first.job, first.job.recipe
    assert (work.master, work.replace, work.expected_mb) == ("/films/kiln.mp4", True, 2.5)
    assert recipe.ranges == (FrameRange(0, 40), FrameRange(60, 90)) and recipe.label == "Teaser"
    assert recipe.choices[2].manner is Manner.CHASE and recipe.sound == 1
    assert [start.frame for start in recipe.starts] == [0, 50] and recipe.drawn[0].first_frame == 3
    assert second.job.recipe.ranges == (FrameRange(10, 700),)  # the project's own range
    assert second.job.recipe.review and not second.job.replace


def test_who_was_cut_out_comes_and_goes_as_before():
    project = read_document(FIXTURES / "project-10.caracal").project
    pane = project.decisions[0].choice.layout.panes[1]
    assert pane.lifted and pane.stay == PaneTiming(1.0, 2.5, Entry.SLIDE)
    assert project.version("B").fades.dissolves
    assert project.brand is None and project.version("B").look.stretches == ()


def test_a_lead_that_was_decided_leads_in_every_version():
    project = read_document(FIXTURES / "project-11.caracal").project
    assert [project.choice(version.letter, 3).lead for version in project.versions] == (
        [5] * len(project.versions))
    assert project.cast(1, "B").ignored == (2,) and project.cast(3, "A").second == 7
