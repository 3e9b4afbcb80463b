"""Edits make new projects; undo is the list."""

from caracal.core.framing.choice import Keyframe, ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.project.edits import (
    automatic_again,
    copied,
    with_accepted,
    with_ignored,
    with_lead,
    with_manner,
    with_second,
)
from caracal.core.project.history import History
from caracal.core.project.keyframe_edits import (
    moved_keyframe,
    with_keyframe,
    with_zoom,
    without_keyframe,
)
from caracal.core.project.model import Cast, first_project


def test_a_lead_holds_in_every_version_and_a_manner_in_one():
    project = with_manner(with_lead(first_project(100), 3, 17), "B", 3, Manner.GLIDE)
    assert project.choice("A", 3).lead == project.choice("C", 3).lead == 17
    assert project.choice("B", 3).manner is Manner.GLIDE
    assert project.choice("A", 3).manner is Manner.AUTO
    assert set(project.choices_for("A")) == {3}


def test_keyframes_are_sorted_and_replaced():
    project = first_project(100)
    for frame, x in ((30, 1.0), (10, 2.0), (30, 3.0)):
        project = with_keyframe(project, "A", 0, Keyframe(frame, (x, 0.0)))
    assert [(k.frame, k.centre[0]) for k in project.choice("A", 0).keyframes] == [(10, 2), (30, 3)]
    assert project.choice("A", 0).manner is Manner.BY_HAND


def test_zoom_is_held_and_everything_can_be_forgotten():
    project = with_zoom(with_lead(first_project(9), 0, 4), "A", 0, 99)
    assert project.choice("A", 0).zoom == 3.0
    reset = automatic_again(project, "A", 0)
    assert reset.choice("A", 0) == ShotChoice() and reset.cast(0, "B").lead == 4
    for letter in "BC":
        reset = automatic_again(reset, letter, 0)
    assert reset == first_project(9)


def test_undo_and_redo():
    history = History([first_project(100)])
    history.push(with_lead(history.now, 0, 1), "lead")
    history.push(with_lead(history.now, 0, 2), "other lead")
    assert history.undo() == "other lead" and history.now.choice("A", 0).lead == 1
    assert history.redo() == "other lead" and history.redo() is None
    history.undo()
    history.push(with_lead(history.now, 0, 9), "third")
    assert history.redo() is None and history.now.choice("A", 0).lead == 9


def test_core_imports_without_qt():
    import pkgutil
    import subprocess
    import sys

    import caracal.core

    names = [m.name for m in pkgutil.walk_packages(caracal.core.__path__, "caracal.core.")]
    code = "import sys; sys.modules['PySide6'] = None\n" + "\n".join(f"import {n}" for n in names)
    assert len(names) > 30
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_roles_exclude_each_other():
    project = with_second(with_lead(first_project(100), 2, 5), 2, 6)
    assert (project.cast(2).lead, project.cast(2).second) == (5, 6)
    assert with_lead(project, 2, 6).cast(2) == Cast(2, lead=6)
    ignored = with_ignored(project, 2, 5)
    assert ignored.cast(2) == Cast(2, second=6, ignored=(5,))
    assert with_ignored(ignored, 2, 5, False).cast(2) == Cast(2, second=6)
    assert with_lead(ignored, 2, 5).cast(2).ignored == ()


def test_keyframes_move_and_go():
    project = with_keyframe(first_project(100), "A", 0, Keyframe(10, (1.0, 2.0)))
    moved = moved_keyframe(project, "A", 0, 10, Keyframe(20, (3.0, 2.0)))
    assert [k.frame for k in moved.choice("A", 0).keyframes] == [20]
    gone = without_keyframe(moved, "A", 0, 20)
    assert gone == first_project(100)


def test_a_keyframe_leaves_a_chosen_manner_alone():
    project = with_keyframe(first_project(100), "A", 0, Keyframe(10, (1.0, 2.0)))
    project = with_manner(project, "A", 0, Manner.CHASE)
    again = with_keyframe(project, "A", 0, Keyframe(30, (1.0, 2.0)))
    assert again.choice("A", 0).manner is Manner.CHASE


def test_framing_is_copied_to_versions_and_shots():
    project = with_keyframe(first_project(100), "A", 0, Keyframe(10, (1.0, 2.0)))
    project = with_zoom(project, "A", 0, 1.5)
    made = copied(project, ("A", 0), [("B", 0), ("A", 4)])
    assert made.choice("B", 0) == project.choice("A", 0)
    assert made.choice("A", 4).zoom == 1.5 and made.choice("A", 4).keyframes == ()


def test_accepted_flags_are_kept_with_their_reason_and_can_be_forgotten():
    project = with_accepted(first_project(100), "A", 1, "lost", "she leaves on purpose")
    assert project.accepted_kinds("A", 1) == {"lost": "she leaves on purpose"}
    assert project.accepted_kinds("B", 1) == {}
    assert automatic_again(project, "A", 1) == first_project(100)


def test_one_drag_is_one_step_back():
    history = History([first_project(100)])
    for x in (1.0, 2.0, 3.0):
        key = Keyframe(10, (x, 0.0))
        history.push(with_keyframe(history.now, "A", 0, key), "drag", gesture=("drag", 1))
    assert history.now.choice("A", 0).keyframes[0].centre[0] == 3.0
    history.undo()
    assert history.now == first_project(100)
