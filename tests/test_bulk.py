"""The same edit in many places: the same result as one by one, and no square of the shots."""

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.framing.motion import Manner
from caracal.core.project.bulk import changed_in
from caracal.core.project.edits import automatic_again, copied, with_lead, with_manner
from caracal.core.project.keyframe_edits import with_zoom
from caracal.core.project.model import Accepted, first_project

PROJECT = msgspec.structs.replace(first_project(1000), accepted=(
    Accepted("B", 4, "clipped", "meant"), Accepted("A", 1, "clipped", "meant")))
CHANGES = {
    "manner": lambda project, letter, shot: with_manner(project, letter, shot, Manner.GLIDE),
    "zoom": lambda project, letter, shot: with_zoom(project, letter, shot, 1.5),
    "lead": lambda project, letter, shot: with_lead(project, shot, 3, letter),
    "lead of all": lambda project, _, shot: with_lead(project, shot, 2),
    "reset": automatic_again,
}
PLACES = st.lists(st.tuples(st.sampled_from("ABC"), st.integers(0, 6)), max_size=12, unique=True)


def one_by_one(project, places, change):
    """Shot by shot, as the bulk edit does."""
    for shot in dict.fromkeys(shot for _, shot in places):
        for letter in (letter for letter, at in places if at == shot):
            project = change(project, letter, shot)
    return project


@given(steps=st.lists(st.tuples(PLACES, st.sampled_from(sorted(CHANGES))), max_size=6))
def test_many_places_at_once_are_as_one_after_the_other(steps):
    slow = quick = PROJECT
    for places, name in steps:
        slow = one_by_one(slow, places, CHANGES[name])
        quick = changed_in(quick, places, CHANGES[name])
    assert quick == slow


def test_what_touches_more_than_its_shot_is_made_in_the_whole_project():
    def note(project, letter, shot):
        return msgspec.structs.replace(project, names=(*project.names, f"{letter}{shot}"))

    def to_the_next_shot(project, letter, shot):
        return with_lead(project, shot + 1, shot, letter)

    places = [("A", 0), ("A", 1), ("B", 2)]
    for change in (note, to_the_next_shot):
        assert changed_in(PROJECT, places, change) == one_by_one(PROJECT, places, change)


def test_a_change_sees_only_the_decisions_of_its_shot():
    project = changed_in(PROJECT, [("A", shot) for shot in range(500)], CHANGES["manner"])
    seen = []

    def look(project, letter, shot):
        seen.append(len(project.decisions))
        return CHANGES["zoom"](project, letter, shot)

    made = changed_in(project, [("A", shot) for shot in range(500)], look)
    assert set(seen) == {1} and len(made.decisions) == 500


@pytest.mark.parametrize("letters", ["A", "ABC"])
def test_framing_copied_to_many_shots_is_the_same_in_each(letters):
    project = with_zoom(with_manner(PROJECT, "A", 0, Manner.CHASE), "A", 0, 1.7)
    made = copied(project, ("A", 0), [(letter, shot) for letter in letters for shot in range(40)])
    assert {made.choice(letter, shot).zoom for letter in letters for shot in range(40)} == {1.7}
    assert len(made.decisions) == 40 * len(letters)
