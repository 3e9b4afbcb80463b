"""All that one version is made from, in one value."""

import msgspec
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Manner, Motion
from caracal.core.project.edits import changed_version, with_manner
from caracal.core.project.model import DrawnBox, ShotStart, first_project
from caracal.core.project.recipe import Recipe, recipe_of
from caracal.core.project.requested import requested_beside
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet

SHEET = find_sheet("square-feed")
FULL = msgspec.structs.replace(
    with_manner(first_project(500), "B", 1, Manner.LOCKED), span=FrameRange(20, 400), sound=1,
    starts=(ShotStart(0), ShotStart(90)), motion=Motion(closest=2.0),
    drawn=(DrawnBox(1_000_000, "box 1", 5, ((0.0, 0.0, 40.0, 40.0),)),))


def test_everything_a_project_decides_is_in_it():
    made = recipe_of(FULL, "B", SHEET, review=True)
    assert made == Recipe(SHEET, FULL.choices_for("B"), FULL.motion, (FrameRange(20, 400),),
                          FULL.starts, FULL.drawn, 1, "B", True)
    named = changed_version(FULL, "B", name="Teaser", ranges=(FrameRange(30, 60),))
    other = recipe_of(named, "B", SHEET)
    assert other.label == "Teaser" and other.ranges == (FrameRange(30, 60),)


@pytest.mark.parametrize("change", [
    {"choices": {1: ShotChoice(manner=Manner.CHASE)}}, {"motion": Motion()},
    {"ranges": (FrameRange(20, 401),)}, {"starts": ()}, {"drawn": ()}, {"sound": 0},
    {"review": True}, {"sheet": find_sheet("portrait-feed")},
    {"sheet": with_value(SHEET, "video.gop_s", 1.0)},
])
def test_no_two_recipes_have_one_digest(change):
    made = recipe_of(FULL, "B", SHEET)
    assert msgspec.structs.replace(made, **change).digest != made.digest
    assert msgspec.msgpack.decode(msgspec.msgpack.encode(made), type=Recipe).digest == made.digest


@pytest.mark.parametrize("change", [
    {"label": "C"}, {"captions_file": "other.srt"}, *({"sheet": with_value(SHEET, name, value)}
    for name, value in (("checked", "2026-11-30"), ("title", "Another"), ("source", "a letter"),
                        ("name", "another"), ("file.names", "{film}"))),
])
def test_what_is_neither_seen_nor_heard_changes_no_digest(change):
    made = recipe_of(FULL, "B", SHEET)
    assert msgspec.structs.replace(made, **change).digest == made.digest


def test_a_sheet_of_no_version_takes_the_film_and_who_leads():
    made = requested_beside(FULL, find_sheet("wide")).recipe()
    assert made.choices == FULL.choices_for("") and made.ranges == (FULL.span,)
    assert made.captions == FULL.captions  # what is said holds for it, too
    assert Recipe(SHEET).ranges_in(75) == (FrameRange(0, 75),)
