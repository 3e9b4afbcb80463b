"""Shots of one set-up, on the demo film and on made pictures."""

import cv2
import msgspec
import numpy as np

from caracal.core.analysis.film_pass import setups
from caracal.core.analysis.film_pass.setups import alike, same_ground, similar_shots, thumbnail

PLACES = {"talker": "workshop", "talker closer": "workshop", "title": "marsh", "marsh": "marsh",
          "hands": "table", "still life": "table", "two talkers": "wall", "lower third": "wall",
          "walker": "promenade", "dog": "promenade", "runner": "promenade", "cyclist": "promenade"}


def test_shots_before_the_same_backdrop_are_similar_wherever_people_are(demo, truth):
    """All of them and no others: the demo's backdrops are known by name (demo/shots.py)."""
    names = [PLACES.get(shot["name"], shot["name"]) for shot in truth["shots"]]
    for i, name in enumerate(names):
        same = tuple(j for j, other in enumerate(names) if j != i and other == name)
        assert similar_shots(demo, i) == same


def test_grounds_are_compared_only_where_both_are_seen():
    ground = np.ones((18, 32), bool)
    mine = _room(1)
    other = mine.copy()
    other[:, 240:] = 128
    free = ground.copy()
    free[:, 16:] = False
    assert same_ground(thumbnail(mine), thumbnail(other), free)
    assert not same_ground(thumbnail(mine), thumbnail(other), ground)
    free[:, 8:] = False
    assert not same_ground(thumbnail(mine), thumbnail(mine), free)  # too little to go by


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


def test_all_shots_at_once_are_compared_as_two_by_two(demo):
    """The vectors against the comparison of pairs."""
    similar = setups._comparison(demo)
    for shot in range(len(demo.shots)):
        assert setups.similar_shots(demo, shot) == tuple(
            other for other in range(len(demo.shots)) if other != shot and similar(shot, other))


def test_a_shot_without_a_thumbnail_is_like_no_other(demo):
    bare = msgspec.structs.replace(demo, shots=tuple(
        msgspec.structs.replace(shot, thumbnail=b"") if number == 5 else shot
        for number, shot in enumerate(demo.shots)))
    assert setups.similar_shots(bare, 5) == ()
    assert all(5 not in setups.similar_shots(bare, shot) for shot in range(len(bare.shots)))
