"""Who speaks when, on the demo film: two talkers at opposite edges who cannot both fit."""

import numpy as np
import pytest

from caracal.core.analysis.cache import AnalysisStore
from caracal.core.analysis.detectors.mouths import mouth_activity
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.path import shot_path
from caracal.core.framing.swaps import left_out, proposed_swaps
from caracal.core.specs.sheet_store import find_sheet
from conftest import true_boxes
from demo.script import LINES, line_end_s

SHORT = find_sheet("vertical-short")
FPS = 25


@pytest.fixture(scope="module")
def talkers(demo, truth):
    shot = next(i for i, row in enumerate(truth["shots"]) if row["name"] == "two talkers")
    path = shot_path(demo, shot, SHORT.frame, ShotChoice())
    return shot, path, left_out(demo, shot, path)


@pytest.fixture(scope="module")
def activity(demo, talkers):
    shot, _, people = talkers
    span = demo.shots[shot]
    return mouth_activity(AnalysisStore(demo.content_key).proxy, demo,
                          [person.face for person in people], span.start, span.end)


def _side(demo, truth, shot, who):
    box = next(iter(true_boxes(truth, shot, who, "person").values()))
    return box[0] + box[2] / 2


def test_the_two_who_cannot_both_fit_are_named(talkers):
    _, path, people = talkers
    assert len(people) == 2 and people[0].id == path.lead


def test_nobody_is_left_out_where_all_fit(demo, truth):
    shot = next(i for i, row in enumerate(truth["shots"]) if row["name"] == "talker")
    assert left_out(demo, shot, shot_path(demo, shot, SHORT.frame, ShotChoice())) == ()


def test_the_mouth_that_moves_is_the_speaker_s(demo, truth, talkers, activity):
    """Against the script that drew the mouths and spoke the lines."""
    shot, _, people = talkers
    span = demo.shots[shot]
    order = sorted(range(2), key=lambda i: people[i].face.boxes[0][0])
    for line in LINES:
        middle = (line.start_s + line_end_s(line)) / 2
        frame = round(middle * FPS)
        if span.start + 10 < frame < span.end - 10:
            expected = order[0] if line.who == "Ines" else order[1]
            assert activity[frame - span.start].argmax() == expected, line.text


def test_the_jump_lies_between_the_two_lines(demo, talkers, activity):
    shot, _, people = talkers
    first, swaps = proposed_swaps(demo, shot, [person.id for person in people], activity)
    left, right = sorted(people, key=lambda person: person.face.boxes[0][0])
    (swap,) = swaps
    assert (first, swap.lead) == (left.id, right.id)
    ines, tobias = [line for line in LINES if demo.shots[shot].start / FPS <= line.start_s
                    < demo.shots[shot].end / FPS]
    assert line_end_s(ines) * FPS - 3 <= swap.frame <= tobias.start_s * FPS + 3


def test_the_swapped_path_shows_each_and_crosses_nothing(demo, talkers, activity):
    shot, _, people = talkers
    first, swaps = proposed_swaps(demo, shot, [person.id for person in people], activity)
    path = shot_path(demo, shot, SHORT.frame, ShotChoice(lead=first, swaps=swaps))
    steps = np.abs(np.diff(path.windows[:, 0]))
    assert (steps > 1).sum() == 1 and steps.argmax() + 1 == swaps[0].frame - path.start


def test_silence_proposes_nothing(demo, talkers):
    shot, _, people = talkers
    span = demo.shots[shot]
    still = np.zeros((span.frames, 2))
    assert proposed_swaps(demo, shot, [person.id for person in people], still) == (people[0].id, ())
