"""Tracks made whole: colours at crossings, pieces joined, doubles dropped, weak sightings used."""

import cv2
import numpy as np
import pytest

from caracal.core.analysis.detection import SURE_SCORE, Detection
from caracal.core.analysis.detectors.network import brightened
from caracal.core.analysis.film_pass.sampling import LEAST_S, MOST_S, AdaptiveSampling
from caracal.core.analysis.model import Track
from caracal.core.analysis.tracking.sightings import Sighting
from caracal.core.analysis.tracking.stitching import follow, without_doubles
from caracal.core.analysis.tracking.tracks import alike

PICTURE = (1920.0, 1080.0)
RED, GREEN = (45.0, 40.0, 25.0), (50.0, -30.0, 20.0)


def person(x, colour=(), score=0.8, y=200.0, w=160.0, h=600.0, drift=()):
    path = np.asarray(drift, np.float32).reshape(-1, 2)
    return Sighting(Detection("person", score, (x, y, w, h), colour), path)


def test_colours_tell_apart_two_who_meet_and_turn_back():
    """Both walk to the middle, meet, and walk back: speed alone would swap them."""
    def place(f, side):
        return 900 + side * (30 + 12 * abs(f - 40))

    looks = [(f, [person(place(f, -1), RED), person(place(f, 1), GREEN)])
             for f in range(0, 81, 5)]
    tracks = follow(looks, 0, 81, 25.0, PICTURE)
    assert len(tracks) == 2
    left = min(tracks, key=lambda track: track.boxes[0][0])
    assert left.boxes[-1][0] < 700


def test_a_longer_hiding_is_stitched_by_place_and_colour():
    looks = [(f, [] if 30 < f < 68 else [person(200 + 8 * f, RED)]) for f in range(0, 121, 5)]
    assert len(follow(looks, 0, 121, 25.0, PICTURE)) == 1


def test_another_colour_behind_the_post_is_another_person():
    looks = [(f, [] if 30 < f < 66 else [person(200 + 8 * f, RED if f <= 30 else GREEN)])
             for f in range(0, 121, 5)]
    assert len(follow(looks, 0, 121, 25.0, PICTURE)) == 2


def test_weak_sightings_continue_a_track_and_never_begin_one():
    weak = SURE_SCORE - 0.08
    looks = [(f, [person(300.0, score=0.7 if f < 30 else weak), person(1400.0, score=weak)])
             for f in range(0, 101, 10)]
    (track,) = follow(looks, 0, 101, 25.0, PICTURE)
    assert track.end_frame >= 100 and track.boxes[0][0] == pytest.approx(300, abs=2)
    assert track.score == pytest.approx(0.7)


def test_flow_carries_on_what_is_no_longer_seen():
    drift = [(4.0 * k, 0.0) for k in range(1, 21)]
    looks = [(0, [person(300.0)]), (10, [person(340.0)]), (20, [person(380.0, drift=drift)]),
             (45, []), (60, [])]
    (track,) = follow(looks, 0, 61, 25.0, PICTURE)
    assert track.end_frame == 41
    assert track.boxes[-1][0] == pytest.approx(460, abs=2)


def _track(number, x, score=0.8, frames=50, first=0):
    return Track(number, "person", 0, number, score, first, ((x, 200.0, 160.0, 600.0),) * frames)


def test_doubles_of_one_person_are_dropped():
    kept = without_doubles([_track(0, 300), _track(1, 320, 0.5), _track(2, 900)], [(), (), ()])
    assert [track.id for track in kept] == [0, 2]


def test_two_people_in_one_place_with_different_clothes_stay_two():
    assert len(without_doubles([_track(0, 300), _track(1, 320, 0.5)], [RED, GREEN])) == 2


def test_likeness_of_colours():
    assert alike(RED, RED) == 1 and alike(RED, GREEN) < 0.1
    assert alike(RED, ()) == alike((), ()) == 1 and alike((1.0,) * 9, RED) == 1


def test_dark_pictures_are_brightened_and_others_left_alone():
    dark = np.full((64, 64, 3), 20, np.uint8)
    dark[:32, :32] = 70
    assert brightened(dark).max() > 200
    bright = np.full((64, 64, 3), 120, np.uint8)
    bright[:32, :32] = 230
    assert brightened(bright) is bright


def _looked(pictures, rate=25.0):
    rhythm = AdaptiveSampling(rate)
    return [n for n, picture in enumerate(pictures) if rhythm.at(n, picture)[0]]


def test_grain_alone_calls_for_no_looks():
    rng = np.random.default_rng(0)
    pictures = [(100 + rng.normal(0, 0.6, (90, 160))).round().astype(np.uint8) for _ in range(100)]
    assert np.diff(_looked(pictures)).min() >= MOST_S * 25


def test_motion_calls_for_looks_even_in_the_dark():
    def film(light):
        for n in range(100):
            picture = np.full((90, 160), 16 + round(40 * light), np.uint8)
            picture[20:70, n : n + 25] = 16 + round(200 * light)
            yield picture

    for light in (1.0, 0.3):
        gaps = np.diff(_looked(film(light)))
        assert gaps.max() <= 1.5 * LEAST_S * 25


def test_a_jump_asks_for_the_frame_before_too():
    rhythm = AdaptiveSampling(25.0)
    still = np.full((90, 160), 80, np.uint8)
    for n in range(20):
        assert rhythm.at(n, still)[1] is False
    assert rhythm.at(20, np.full((90, 160), 120, np.uint8)) == (True, True)


def test_pictures_that_stand_for_two_frames_are_no_row_of_cuts():
    """Drawn on twos, as much cartoon is (common practice): few looks, and none missed at a cut."""
    rng = np.random.default_rng(2)
    wide = cv2.GaussianBlur(rng.integers(0, 255, (90, 1200), np.uint8), (0, 0), 4) * 2
    pictures = [wide[:, 8 * (n // 2) : 8 * (n // 2) + 160] for n in range(150)]
    pictures += [255 - wide[:, 8 * (n // 2) : 8 * (n // 2) + 160] for n in range(50)]
    rhythm = AdaptiveSampling(25.0)
    said = [rhythm.at(n, picture) for n, picture in enumerate(pictures)]
    looks = {n for n, (due, _) in enumerate(said) if due} | {
        n - 1 for n, (_, before) in enumerate(said) if before}
    assert len(looks) < 0.3 * len(pictures)
    assert {149, 150} <= looks


# Leaps: quicker than detectors look

FAIR = (70.0, 5.0, 20.0, 65.0, 15.0, 18.0, 40.0, 0.0, 0.0)  # hair, skin, clothes: L*, a*, b*
DARK = (15.0, 2.0, 3.0, 35.0, 12.0, 15.0, 40.0, 0.0, 0.0)


def face(x, colour=FAIR, h=200.0):
    return Sighting(Detection("face", 0.9, (x, 260.0, h * 0.8, h), colour))


def leaping(before, after, more=lambda _: []):
    """Looks with ``before`` until frame 60 and ``after`` from frame 70 on, and with ``more``."""
    return [(f, [*(before if f <= 60 else after if f >= 70 else []), *more(f)])
            for f in range(0, 131, 5)]


def test_who_leaps_across_the_picture_is_one_and_so_is_the_outline():
    """1,000 pixels in ten frames: the clothes' colour is that of the ground, and another one."""
    tanned = (*FAIR[:6], 80.0, 20.0, 30.0)
    looks = leaping([face(300), person(200, RED, w=360.0)],
                    [face(1300, tanned), person(1200, RED, w=360.0)])
    tracks = follow(looks, 0, 131, 25.0, PICTURE)
    assert sorted((track.kind, len(track.boxes)) for track in tracks) == [
        ("face", 131), ("person", 131)]
    assert all(abs(track.boxes[58][0] - track.boxes[0][0]) < 30 for track in tracks)
    assert all(abs(track.boxes[75][0] - track.boxes[0][0] - 1000) < 30 for track in tracks)


@pytest.mark.parametrize(("before", "after", "more"), [
    ([face(300)], [face(1300, DARK)], lambda _: []),  # they do not look alike
    ([face(300)], [face(1300, h=120.0)], lambda _: []),  # farther off
    ([face(20)], [face(1300)], lambda _: []),  # one leaves over the edge
    ([face(300)], [face(1300), face(800)], lambda _: []),  # two come
    ([face(300)], [face(1300)], lambda _: [person(220, w=360.0)]),  # the body stays: turned away
    ([face(300)], [face(1300)], lambda _: [person(1220, w=360.0)]),  # somebody turns to the camera
], ids=["other", "smaller", "leaves", "two", "stays", "was there"])
def test_where_it_may_be_another_it_is_another(before, after, more):
    tracks = follow(leaping(before, after, more), 0, 131, 25.0, PICTURE)
    faces = [track for track in tracks if track.kind == "face"]
    assert len(faces) >= 2 and all(len(track.boxes) < 131 for track in faces)
