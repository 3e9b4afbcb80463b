"""Edits of punch-ins, swaps and finishes, and projects of older versions."""

import json

import msgspec
import pytest

from caracal.core.base.errors import InputError
from caracal.core.framing.choice import Finish, Keyframe, Punch, ShotChoice, Swap
from caracal.core.framing.motion import Manner
from caracal.core.project.edits import (
    automatic_again,
    copied,
    with_choice,
    with_finish,
    with_ignored,
    with_lead,
    with_swap_at,
    with_version,
    without_version,
)
from caracal.core.project.keyframe_edits import (
    with_punch,
    with_zoom,
    without_punch_at,
)
from caracal.core.project.model import first_project
from caracal.core.project.shots import with_starts
from caracal.core.project.storage import (
    FORMAT,
    VERSION,
    Document,
    FilmReference,
    document,
    read_document,
    write_document,
)

PLACE = (900.0, 500.0)


@pytest.fixture
def project():
    return first_project(1500)


def punches(project):
    return [(punch.frame, punch.end_exclusive) for punch in project.choice("A", 3).punches]


def test_a_punch_in_ends_where_another_begins(project):
    made = with_punch(project, "A", 3, Punch(100, 200, PLACE, 1.5))
    made = with_punch(made, "A", 3, Punch(150, 200, PLACE, 2.0))
    assert punches(made) == [(100, 150), (150, 200)]
    earlier = with_punch(made, "A", 3, Punch(50, 200, PLACE, 9.0))
    assert punches(earlier) == [(50, 100), (100, 150), (150, 200)]
    assert earlier.choice("A", 3).punches[0].zoom == 3.0  # no closer than anybody may


def test_coming_back_ends_a_punch_in_and_at_its_first_frame_forgets_it(project):
    made = with_punch(project, "A", 3, Punch(100, 200, PLACE, 1.5))
    assert punches(without_punch_at(made, "A", 3, 130)) == [(100, 130)]
    assert without_punch_at(made, "A", 3, 100) == project
    assert without_punch_at(made, "A", 3, 250) == made


def test_a_swap_at_a_frame_replaces_the_one_that_was_there(project):
    made = with_swap_at(project, "A", 3, Swap(120, 7))
    made = with_swap_at(made, "A", 3, Swap(60, 8))
    made = with_swap_at(made, "A", 3, Swap(120, 9))
    assert made.choice("A", 3).swaps == (Swap(60, 8), Swap(120, 9))


def test_a_finish_is_held_within_what_can_be_done(project):
    made = with_finish(project, "B", 2, Finish(5, 40.0, 3.0)).choice("B", 2).finish
    assert made == Finish(1, 15.0, 1.0)
    assert with_finish(project, "B", 2, Finish()) == project


def test_zoom_is_left_open_again(project):
    held = with_zoom(project, "A", 1, 1.0)
    assert held.choice("A", 1).zoom == 1.0 and held.choice("A", 1).touched
    assert with_zoom(held, "A", 1, None) == project


def test_framing_is_copied_with_its_finish_and_without_frames_of_another_shot(project):
    choice = ShotChoice(manner=Manner.GLIDE, zoom=1.2, finish=Finish(0, 2.0, 0.3),
                        punches=(Punch(10, 20, PLACE, 1.5),), keyframes=(Keyframe(5, PLACE),))
    made = copied(with_choice(project, "A", 0, choice), ("A", 0), [("B", 0), ("A", 4)])
    assert made.choice("B", 0) == choice
    assert made.choice("A", 4) == ShotChoice(manner=Manner.GLIDE, zoom=1.2,
                                             finish=Finish(0, 2.0, 0.3))


def test_punch_ins_are_shared_out_when_a_shot_is_split(demo):
    from caracal.core.project.model import ShotStart

    project = first_project(1500)
    first = demo.shots[0]
    made = with_punch(project, "A", 0, Punch(first.start + 20, first.end, PLACE, 1.5))
    starts = sorted([*(ShotStart(shot.start, shot.transition_in) for shot in demo.shots),
                     ShotStart(40)], key=lambda start: start.frame)
    split = with_starts(demo, made, starts)
    ends = [[(punch.frame, punch.end_exclusive) for punch in split.choice("A", shot).punches]
            for shot in (0, 1)]
    assert ends == [[(20, 40)], [(40, first.end)]]


def test_versions_take_the_first_free_letter_and_go_with_their_decisions(project):
    made = with_version(without_version(project, "B"), "wide")
    assert [(version.letter, version.sheet) for version in made.versions][1] == ("B", "wide")
    decided = with_zoom(made, "B", 0, 2.0)
    assert without_version(decided, "B").decisions == ()
    left = without_version(without_version(made, "B"), "C")
    with pytest.raises(InputError, match="at least one version"):
        without_version(left, "A")


def test_a_project_of_the_first_format_is_read(demo, project, tmp_path):
    """There a zoom of 1 was what nobody had decided; other zooms were."""
    made = with_choice(project, "A", 0, ShotChoice(manner=Manner.GLIDE, zoom=1.0))
    made = with_choice(made, "A", 1, ShotChoice(zoom=1.5))
    import msgspec

    data = msgspec.to_builtins(document(demo, made))
    data["version"] = 1
    for decision in data["project"]["decisions"]:
        for name in ("punches", "finish"):
            del decision["choice"][name]
    path = tmp_path / "old.caracal"
    path.write_text(json.dumps(data))
    read = read_document(path).project
    assert read.choice("A", 0) == ShotChoice(manner=Manner.GLIDE)
    assert read.choice("A", 1).zoom == 1.5


def test_a_lead_of_one_version_leaves_the_others_as_they_are(project):
    made = with_lead(with_lead(project, 3, 5), 3, 8, "B")
    assert [made.choice(letter, 3).lead for letter in "ABC"] == [5, 8, 5]
    assert made.choices_for("B")[3].lead == 8 and 3 in made.choices_for("A")


def test_a_lead_of_all_versions_replaces_those_of_single_ones(project):
    made = with_ignored(with_lead(project, 3, 8, "B"), 3, 2, letter="B")
    every = with_lead(made, 3, 5)
    assert [every.choice(letter, 3).lead for letter in "ABC"] == [5, 5, 5]
    assert every.choice("B", 3).ignored == (2,) and every.choice("A", 3).ignored == ()


def test_a_lead_that_every_version_has_is_that_of_versions_added_later_too(project):
    made = project
    for letter in "ABC":
        made = with_lead(made, 3, 5, letter)
    assert made == with_lead(project, 3, 5)
    assert with_version(made, "square-feed").choice("D", 3).lead == 5


def test_one_version_is_automatic_again_while_the_lead_of_the_others_stays(project):
    made = automatic_again(with_lead(project, 3, 5), "A", 3)
    assert [made.choice(letter, 3).lead for letter in "ABC"] == [None, 5, 5]
    assert without_version(made, "A").casts == with_lead(project, 3, 5).casts


def test_a_lead_of_one_version_is_written_to_the_project_and_read_again(tmp_path, project):
    made = with_lead(project, 3, 5, "B")
    film = FilmReference("/films/kiln.mp4", "0" * 32, 1500, "25/1")
    write_document(tmp_path / "a.caracal", Document(FORMAT, VERSION, film, made))
    assert read_document(tmp_path / "a.caracal").project == made
    torn = without_version(made, "B")
    torn = msgspec.structs.replace(torn, casts=made.casts)
    write_document(tmp_path / "b.caracal", Document(FORMAT, VERSION, film, torn))
    with pytest.raises(InputError, match="a lead belongs to a version that is not there"):
        read_document(tmp_path / "b.caracal")
