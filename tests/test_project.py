"""Edits make new projects; undo is the list."""

from caracal.core.framing.choice import Keyframe
from caracal.core.framing.motion import Manner
from caracal.core.project.model import (
    History,
    automatic_again,
    first_project,
    with_keyframe,
    with_lead,
    with_manner,
    with_zoom,
)


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
    assert automatic_again(project, "A", 0) == first_project(9)


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
