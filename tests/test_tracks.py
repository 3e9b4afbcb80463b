"""Joining detections: crossings, short hiding, leaving."""

import numpy as np

from caracal.core.analysis.detection import Detection
from caracal.core.analysis.tracking.sightings import Sighting
from caracal.core.analysis.tracking.stitching import follow
from caracal.core.analysis.tracking.subjects import join_faces
from caracal.core.base.geometry import overlap

PICTURE = (1920.0, 1080.0)


def _person(x, y=200.0, w=160.0, h=600.0):
    return Sighting(Detection("person", 0.8, (x, y, w, h)))


def _face(x, y, w=80.0, h=90.0):
    return Sighting(Detection("face", 0.7, (x, y, w, h)))


def test_overlap_of_known_boxes():
    assert overlap((0, 0, 10, 10), (5, 0, 10, 10)) == 50 / 150
    assert overlap((0, 0, 10, 10), (20, 0, 5, 5)) == 0


def test_two_people_who_cross_keep_their_numbers():
    looks = [(f, [_person(100 + 10 * f), _person(1500 - 10 * f, h=500.0)])
             for f in range(0, 140, 5)]
    tracks = follow(looks, 0, 140, 25.0, PICTURE)
    assert len(tracks) == 2
    going_right = min(tracks, key=lambda track: track.boxes[0][0])
    assert going_right.boxes[-1][0] > 1300


def test_hiding_briefly_does_not_make_a_new_person():
    looks = [(f, [] if 40 <= f <= 55 else [_person(300 + 4 * f)]) for f in range(0, 100, 5)]
    assert len(follow(looks, 0, 100, 25.0, PICTURE)) == 1


def test_stopping_at_once_does_not_make_a_new_person():
    looks = [(f, [_person(200 + 22 * f)]) for f in range(0, 60, 4)]
    looks += [(f, [_person(200 + 22 * 56)]) for f in (76, 96)]
    assert len(follow(looks, 0, 100, 25.0, PICTURE)) == 1


def test_boxes_are_filled_in_between_and_to_the_cuts():
    looks = [(f, [_person(300.0)]) for f in (12, 22, 32)]
    (track,) = follow(looks, 10, 40, 25.0, PICTURE)
    assert (track.first_frame, track.end_frame) == (10, 40)
    assert np.allclose([box[0] for box in track.boxes], 300, atol=1)


def test_a_steady_crossing_is_carried_on_to_the_edge():
    looks = [(f, [_person(100 + 30 * f, w=200.0)] if f < 55 else []) for f in range(0, 71, 5)]
    (track,) = follow(looks, 0, 71, 25.0, PICTURE)
    assert track.end_frame > 55 and track.boxes[-1][0] > 1700


def test_a_face_belongs_to_the_body_that_carries_it():
    looks = [(f, [_person(200.0), _person(900.0), _face(940, 220)])
             for f in range(0, 50, 5)]
    tracks = join_faces(follow(looks, 0, 50, 25.0, PICTURE))
    face = next(track for track in tracks if track.kind == "face")
    body = next(track for track in tracks if track.id == face.subject)
    assert body.kind == "person" and body.boxes[0][0] == 900
