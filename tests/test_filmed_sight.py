"""What is seen of filmed people and things, and where the eye goes: on numbers."""

import cv2
import numpy as np
import pytest

from caracal.core.analysis.detection import Detection
from caracal.core.analysis.detectors.attention import AttentionMaker
from caracal.core.analysis.detectors.focus import sharpness
from caracal.core.analysis.model import Track
from caracal.core.analysis.tracking.sightings import Sighting
from caracal.core.analysis.tracking.stitching import follow
from caracal.core.analysis.tracking.subjects import join_faces, without_parts
from caracal.core.analysis.tracking.track_interpolation import _as_it_went
from caracal.core.framing.attention import best_place
from test_filmed_leads import track
from test_lead_flags import _film as short_film


def test_an_edge_is_sharp_and_a_slope_is_not():
    """Arithmetic: a step changes by as much in one pixel as in four; a slope of twelve pixels by a
    quarter, the square of it a sixteenth, four times that is a quarter."""
    steps = np.tile(np.repeat([60, 180], 20), (120, 3)).astype(np.uint8)
    slopes = cv2.blur(steps, (13, 1))
    assert sharpness(steps, (0, 0, 120, 120)) == pytest.approx(1.0, abs=0.02)
    assert sharpness(slopes, (0, 0, 120, 120)) == pytest.approx(0.25, abs=0.06)
    assert sharpness(np.full((120, 120), 90, np.uint8), (0, 0, 120, 120)) is None


def test_attention_goes_to_what_is_in_focus_and_to_another_colour():
    rng = np.random.default_rng(5)
    ground = cv2.GaussianBlur(rng.integers(60, 180, (180, 320), np.uint8), (0, 0), 6)
    ground[60:120, 200:260] = rng.integers(60, 180, (60, 60), np.uint8)
    seen = AttentionMaker().score(ground)
    assert seen[6:12, 20:26].sum() > 5 * 36 / 576
    u = np.full((90, 160), 128, np.uint8)
    v = u.copy()
    v[30:60, 20:50] = 180
    seen = AttentionMaker().score(np.full((180, 320), 90, np.uint8), colour=(u, v))
    assert seen[6:12, 4:10].sum() > 0.9


def test_without_a_lead_no_edge_cuts_a_thing_in_two():
    """Two things, one of them where the middle window's edge would be."""
    pots = [Track(i, "vase", 0, i, 0.6, 0, ((x, 300.0, 300.0, 500.0),) * 50)
            for i, x in ((1, 400.0), (2, 1150.0))]
    even = tuple(np.full(18 * 32, 1 / 576))
    x, _ = best_place(short_film(*pots, attention=even), 0, (607.5, 1080.0))
    for low in (400.0, 1150.0):
        assert not low + 24 < x < low + 276 and not low + 24 < x + 607.5 < low + 276


def test_one_person_close_up_is_one():
    """Head and shoulders, all of it, and a face lower than half of the smaller: one subject."""
    face = track(0, "face", (700, 186, 480, 700))
    head = track(1, "person", (660, 150, 560, 900), score=0.9)
    whole = track(2, "person", (480, 20, 960, 1050), score=0.5)
    made = without_parts(join_faces([face, head, whole]))
    assert {track.subject for track in made} == {1} and len(made) == 2
    child = track(3, "person", (700, 500, 300, 560), score=0.8)
    assert len(without_parts(join_faces([head, child]))) == 2


def sighted(x, width=200.0):
    return Sighting(Detection("person", 0.9, (x, 200.0, width, 700.0)))


def test_who_has_left_the_picture_does_not_come_back_as_somebody_else():
    looks = [(f, [sighted(1300.0 + 40 * f)] if f <= 10 else []) for f in range(0, 31, 5)]
    looks += [(35, [sighted(1500.0)]), (40, [sighted(1500.0)]), (45, [sighted(1500.0)])]
    found = follow(looks, 0, 50, 25.0, (1920.0, 1080.0))
    assert len(found) == 2 and min(track.end_frame for track in found) < 25


def test_flow_that_runs_away_with_what_passes_is_not_followed():
    """Pixels a frame, by hand: it stood, and after five frames the flow goes off by 20 each."""
    drift = np.zeros((20, 2), np.float32)
    drift[5:, 0] = 20.0 * np.arange(1, 16)
    assert len(_as_it_went(drift, np.zeros(2), 100.0)) == 8  # 60 is as far as it may stray
    stopped = np.zeros((20, 2), np.float32)
    assert len(_as_it_went(stopped, np.array([15.0, 0.0]), 100.0)) == 20
