"""The camera's motion, and what is read against the scene because of it."""

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter, shift

from caracal.core.analysis.detection import Detection
from caracal.core.analysis.detectors.attention import AttentionMaker
from caracal.core.analysis.detectors.faces import _gaze
from caracal.core.analysis.model import Track
from caracal.core.analysis.tracking.flow import FlowFinder
from caracal.core.analysis.tracking.global_motion import GlobalMotion, global_move
from caracal.core.analysis.tracking.sightings import Sighting
from caracal.core.analysis.tracking.stitching import follow
from caracal.core.framing.demand import LOOK_ROOM, demand_along
from caracal.core.framing.lead import subjects
from test_properties import film

PICTURE = (1920, 1080)


def scenery(seed=0):
    rng = np.random.default_rng(seed)
    return np.clip(128 + 900 * gaussian_filter(rng.normal(0, 1, (90, 160)), 2.5), 0, 255)


@pytest.mark.parametrize("step", [(1.6, 0.0), (-2.0, 0.7), (0.0, 0.0)])
def test_the_background_is_followed_past_people_who_move(step):
    """A block that runs the other way covers a fifth of the picture."""
    finder, ground = FlowFinder(160, 90), scenery()
    block = scenery(1)[:50, :55]
    for i in range(5):
        picture = shift(ground, (step[1] * i, step[0] * i), order=1, mode="wrap")
        left = 40 + 3 * i
        picture[20:70, left : left + 55] = block
        tiny = picture.astype(np.uint8)
        field = finder.add(tiny)
        found = global_move(field, tiny, [(left, 20, 55, 50)])
    assert found == pytest.approx(step, abs=0.35)


def test_an_empty_sky_says_nothing():
    field = np.full((90, 160, 2), 3.0, np.float32)
    assert global_move(field, np.full((90, 160), 200, np.uint8), []) == (0.0, 0.0)


def test_the_pan_of_the_demo_is_the_true_one(demo, truth):
    """Frame by frame against the things on the shelf that the pan passes."""
    moves = np.frombuffer(demo.camera, np.float32).reshape(-1, 2)
    assert len(moves) == 1500
    true = {}
    for track in truth["tracks"]:
        if track["shot"] == 9:
            left = {int(row[0]): row[1] for row in track["boxes"] if 5 < row[1] < 1700}
            true |= {f: left[f] - left[f - 1] for f in left if f - 1 in left}
    errors = [abs(moves[f, 0] - step) for f, step in true.items() if f < 990]
    assert len(errors) > 80 and np.median(errors) < 0.8 and np.max(errors) < 2.5
    assert np.abs(moves[200:250]).max() < 1.0  # a talker before a still camera


def _looks(lefts, frames, height=400.0):
    return [(frame, [Sighting(Detection("person", 0.8, (left[i], 300.0, 150.0, height)))
                     for left in lefts])
            for i, frame in enumerate(frames)]


def test_people_are_matched_against_the_scene_in_a_whip_pan():
    """Three stand in a row; between looks the camera goes as far as they stand apart."""
    frames = list(range(0, 60, 10))
    places = [np.array([200.0, 500.0, 800.0]) + number * 300 for number in range(3)]
    pan = -300.0
    lefts = [[1800 + 300 * number + pan * i for i in range(len(frames))] for number in range(3)]
    assert len(places) == 3
    moves = np.zeros((60, 2))
    moves[1:, 0] = pan / 10
    looks = _looks(lefts, frames)
    with_camera = follow(looks, 0, 60, 25.0, (6000.0, 1080.0), GlobalMotion.over(moves, 0, 60))
    whole = [track for track in with_camera if len(track.boxes) > 45]
    assert len(whole) == 3
    for track in whole:  # each goes with the scene: nobody took another's place
        assert track.boxes[40][0] - track.boxes[0][0] == pytest.approx(pan * 4, abs=30)


def test_who_walks_with_the_camera_has_room_ahead():
    """In the picture the walker stands still; against the scene it goes right."""
    frames = 100
    track = Track(1, "person", 0, 1, 0.9, 0, ((800.0, 300.0, 200.0, 600.0),) * frames)
    found = film([track], frames)
    (lead,) = subjects(found, 0)
    moves = np.zeros((frames, 2))
    moves[:, 0] = -12.0
    sizes = np.full(frames, 607.5)
    followed = demand_along(0, found.shots[0], lead, (), sizes,
                            camera=GlobalMotion.over(moves, 0, frames))
    resting = demand_along(0, found.shots[0], lead, (), sizes)
    assert followed.wish_share[50] == pytest.approx(LOOK_ROOM)
    assert resting.wish_share[50] == 0


def test_motion_in_the_score_is_motion_in_the_scene():
    import msgspec

    frames = 100
    left = 1400 - 8.0 * np.arange(frames)
    thing = Track(1, "person", 0, 1, 0.9, 0,
                  tuple((float(x), 300.0, 200.0, 600.0) for x in left))
    found = film([thing], frames)
    moves = np.zeros((frames, 2), np.float32)
    moves[:, 0] = -8.0
    panned = msgspec.structs.replace(found, camera=moves.tobytes())
    assert subjects(found, 0)[0].parts["motion"] > 0.5
    assert subjects(panned, 0)[0].parts["motion"] < 0.05


def test_a_pan_makes_nothing_of_the_scenery():
    ground = scenery()
    shifted = shift(ground, (0, 12), order=1, mode="wrap").astype(np.uint8)
    quiet = AttentionMaker().score(shifted)  # nothing before it: no motion
    blind, knowing = AttentionMaker(), AttentionMaker()
    for attention_maker in (blind, knowing):
        attention_maker.score(ground.astype(np.uint8))
    seen, known = blind.score(shifted), knowing.score(shifted, (12.0, 0.0))
    assert seen.sum() == pytest.approx(1.0) and known.sum() == pytest.approx(1.0)
    assert np.abs(known - quiet).sum() < 0.5 * np.abs(seen - quiet).sum()


@pytest.mark.parametrize(("nose", "expected"), [(0.5, 0.0), (0.42, -0.4), (0.58, 0.4), (0.9, 1.0)])
def test_a_turned_face_has_its_nose_off_the_middle(nose, expected):
    marks = np.array([0.4, 0.25, 0.4, 0.75, 0.6, nose, 0.75, 0.35, 0.75, 0.65])
    assert _gaze(marks) == pytest.approx(expected, abs=0.01)


def test_two_talkers_look_at_each_other(demo):
    """They are drawn so; the real landmarks find it."""
    left, right = sorted((subject for subject in subjects(demo, 5) if subject.face is not None),
                         key=lambda subject: subject.main.boxes[0][0])
    looks = [
        float(np.median([value for _, value in subject.face.gaze])) for subject in (left, right)
    ]
    assert looks[0] > 0.15 and looks[1] < -0.15
    shot, sizes = demo.shots[5], np.full(demo.shots[5].frames, 607.5)
    room = [
        demand_along(0, shot, subject, (), sizes).wish_share.mean() for subject in (left, right)
    ]
    assert room[0] > 0.01 and room[1] < -0.01


def test_who_speaks_scores_for_it(demo):
    """In the toast one of three speaks; the cyclist and the dog say nothing."""
    shares = sorted(
        subject.parts["speech"] for subject in subjects(demo, 14) if subject.face is not None
    )
    assert shares[-1] > 0.4 and shares[-2] < 0.1
    (speaker,) = (subject for subject in subjects(demo, 14) if subject.parts["speech"] > 0.4)
    assert speaker.id == subjects(demo, 14)[0].id
    assert max(subject.parts["speech"] for subject in subjects(demo, 12)) < 0.1
