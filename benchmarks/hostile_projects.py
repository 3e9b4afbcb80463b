"""A project of everything that a project can hold, its numbers replaced by impossible ones.

Used by hostile.py and by tests/test_storage.py.
"""

from __future__ import annotations

import copy
import json
import random
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import msgspec

from caracal.core.analysis.film_pass.analyse import analysed_before
from caracal.core.analysis.model import Analysis
from caracal.core.base.resources import shipped
from caracal.core.base.time import FrameRange
from caracal.core.framing.choice import Interpolation, Keyframe, ShotChoice, Swap
from caracal.core.framing.motion import Manner, Motion
from caracal.core.layout.kinds import whole_soft
from caracal.core.project.caption_edits import with_captions
from caracal.core.project.edits import (
    with_accepted,
    with_cast,
    with_choice,
    with_layout,
    with_range,
)
from caracal.core.project.model import Cast, DrawnBox, Project, ShotStart, first_project
from caracal.core.project.speed_edits import with_speed
from caracal.core.project.storage import document
from caracal.core.project.template import read_template, with_template
from caracal.core.text.cues import Cue
from hostile_case import Place, Trial, run_forked, wrong_end

NUMBERS = (0, -1, 1, 2, 10**9, -(10**9), 2**63 - 1, -(2**63), 2**70, 0.0, -0.5, 1e-300, 1e300, 1e18,
           -1e18, 0.999999, 75, 74, 76)


def full_project(frames: int, rate: Fraction) -> Project:
    """A project in which nothing is left as it begins; for a film of one shot at least."""
    choice = ShotChoice(manner=Manner.GLIDE, zoom=1.3, swaps=(Swap(10, 3),), push=1.2,
                        keyframes=(Keyframe(4, (150.0, 90.0), 1.5, Interpolation.HOLD),
                                   Keyframe(20, (200.0, 90.0), 1.2)))
    made = with_choice(first_project(frames), "A", 1, choice)
    made = with_cast(made, Cast(0, lead=7, second=9, ignored=(1, 4)))
    made = with_accepted(made, "A", 0, "text cut", "it is repeated below")
    made = with_layout(made, "B", 0, whole_soft())
    made = with_captions(made, [Cue(0.2, 1.0, "Kiln day"), Cue(1.2, 2.4, "on the quay")], "a.srt")
    made = with_range(made, "B", FrameRange(5, frames - 5))
    made = with_speed(made, "A", FrameRange(30, 50, 50))
    made = with_template(made, "A", read_template(shipped("templates", "Episode.toml")), rate,
                         (1080, 1920), 3)
    third = frames // 3
    return msgspec.structs.replace(
        made, starts=(ShotStart(0), ShotStart(third), ShotStart(2 * third, found_after=third)),
        motion=Motion(glide_crossing_frames=200), drawn=(
            DrawnBox(9, "cup", 3, ((10.0, 10.0, 40.0, 30.0),) * 8, ((6, 8),)),))


def number_places(value: Any, at: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Where the numbers of a JSON value are, as keys from the top."""
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from number_places(inner, (*at, key))
    elif isinstance(value, list):
        for number, inner in enumerate(value):
            yield from number_places(inner, (*at, number))
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield at


def changed(value: Any, at: tuple[Any, ...], number: float) -> Any:
    """A copy of ``value`` with ``number`` at ``at``."""
    made = copy.deepcopy(value)
    inner = made
    for key in at[:-1]:
        inner = inner[key]
    inner[at[-1]] = number
    return made


def full_document(analysis: Analysis) -> dict[str, Any]:
    """A project file with everything in it, as JSON says it."""
    project = full_project(analysis.master.frames, analysis.master.rate)
    found: dict[str, Any] = json.loads(msgspec.json.encode(document(analysis, project)))
    return found


def numbers(place: Place, chance: random.Random) -> Iterator[Trial]:
    """Each number of a project replaced by one beyond reason: refused, or files that are proved."""
    # Where it is analysed threads of FFmpeg are left, and this process is copied again and again.
    run_forked(("analyse", str(place.base)), place.new("said"), place.variables())
    analysis = analysed_before(place.base)
    assert analysis is not None
    good = full_document(analysis)
    places = list(number_places(good))
    while True:
        at, number = chance.choice(places), chance.choice(NUMBERS)
        yield _made(place, changed(good, at, number), f"{'/'.join(map(str, at))} = {number}")


def _made(place: Place, data: Any, name: str) -> Trial:
    def run() -> str:
        path = place.fresh("numbers") / "p.caracal"
        path.write_text(json.dumps(data))
        end, said = run_forked(("batch", str(path), "--spec", str(place.sheet), "--out",
                                str(path.parent / "out")), place.new("said"), place.variables())
        return wrong_end(end, said, 2)

    return Trial("numbers", name, run)

