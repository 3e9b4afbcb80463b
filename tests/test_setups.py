"""Shots of one set-up, on the demo film and on made pictures."""

import cv2
import numpy as np

from caracal.core.analysis.setups import alike, similar_shots, thumbnail


def _shot(truth, name):
    return next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == name)


def test_the_two_workshop_shots_are_one_set_up(demo, truth):
    """The talker and the talker closer: the same room from the same side."""
    far, near = _shot(truth, "talker"), _shot(truth, "talker closer")
    assert similar_shots(demo, far) == (near,) and similar_shots(demo, near) == (far,)


def test_no_two_other_places_are_taken_for_one(demo, truth):
    """The demo's backdrops by name: only shots of one backdrop may be called alike."""
    places = {"talker": "workshop", "talker closer": "workshop", "title": "marsh",
              "marsh": "marsh", "walker": "promenade", "dog": "promenade", "runner": "promenade",
              "cyclist": "promenade"}
    for i, shot in enumerate(truth["shots"]):
        for j in similar_shots(demo, i):
            other = truth["shots"][j]["name"]
            assert places.get(shot["name"], shot["name"]) == places.get(other, other)


def _room(seed):
    rough = np.random.default_rng(seed).integers(20, 230, (9, 16), np.uint8)
    return cv2.resize(rough, (480, 270), interpolation=cv2.INTER_CUBIC)


def test_somebody_who_walks_through_does_not_change_the_set_up():
    empty = _room(1)
    walked = empty.copy()
    walked[110:270, 210:240] = 110
    assert alike(thumbnail(empty), thumbnail(walked))
    assert not alike(thumbnail(empty), thumbnail(_room(2)))


def test_grey_pictures_and_missing_ones_are_like_nothing():
    grey = thumbnail(np.full((270, 480), 90, np.uint8))
    assert not alike(grey, grey) and not alike(b"", grey)
