"""Steps between pictures: which stand as cuts, which are asked about, which are movement."""

import cv2
import numpy as np
import pytest

from caracal.core.analysis.cuts.hard_cuts import ROUND, HardCutFinder, Step, Verdict

SIZE = (160, 90)


def texture(seed):
    rough = np.random.default_rng(seed).integers(30, 220, (9, 40)).astype(np.float32)
    return cv2.resize(rough, (4 * SIZE[0], SIZE[1]), interpolation=cv2.INTER_CUBIC).clip(16, 235)


def still(seed, noise=1.0):
    rng = np.random.default_rng(seed)
    whole = texture(seed)[:, : SIZE[0]]
    return lambda: (whole + rng.normal(0, noise, whole.shape)).clip(0, 255).astype(np.uint8)


def cuts(pictures):
    """(frame, verdict) of every step that is looked at closely, in order."""
    finder, found = HardCutFinder(), []
    for image in pictures:
        step = finder.add(image)
        found += [step] if step is not None else []
    return [(frame, step.verdict) for frame, step in [*found, *finder.rest()]]


def test_a_cut_is_found_at_its_frame_and_alone():
    one, other = still(1), still(2)
    found = cuts([one() for _ in range(30)] + [other() for _ in range(30)])
    assert found == [(30, Verdict.CUT)]


@pytest.mark.parametrize("before_the_end", [1, 2, ROUND - 1])
def test_a_cut_near_the_end_is_found_when_no_more_comes(before_the_end):
    one, other = still(1), still(2)
    found = cuts([one() for _ in range(40)] + [other() for _ in range(before_the_end)])
    assert (40, Verdict.CUT) in found


def test_a_pan_a_flash_and_a_change_of_light_are_no_cuts():
    wide, one = texture(3), still(1)
    pan = [wide[:, 4 * n : 4 * n + SIZE[0]].astype(np.uint8) for n in range(100)]
    flash = [one() for _ in range(30)] + [np.full(SIZE[::-1], 235, np.uint8)] + [
        one() for _ in range(30)]
    light = [np.clip(one().astype(int) + (20 if n >= 30 else 0), 0, 255).astype(np.uint8)
             for n in range(60)]
    for pictures in (pan, flash, light):
        assert Verdict.CUT not in [verdict for _, verdict in cuts(pictures)]


@pytest.mark.parametrize(("step", "verdict"), [
    (Step(9.0, 2.0, 3.0, 3.0, 12.0), Verdict.CUT),
    (Step(1.7, 9.0, 9.0, 9.0, 50.0), Verdict.NONE),  # less than 1.8 times its neighbours
    (Step(9.0, 9.0, 9.0, 9.0, 2.9), Verdict.NONE),  # too little changes across it
    (Step(2.0, 0.8, 1.2, 1.0, 8.0), Verdict.DOUBTFUL),
    (Step(2.0, 0.6, 1.2, 1.0, 8.0), Verdict.NONE),
])
def test_verdicts_follow_from_the_numbers(step, verdict):
    assert step.verdict is verdict
