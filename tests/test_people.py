"""The same person across the demo film's shots, against its true identities."""

import numpy as np
import pytest

from caracal.core.analysis.detectors.appearance import describe, name_people
from caracal.core.analysis.model import Track
from caracal.core.base.geometry import overlap
from caracal.core.framing.lead import people_of, subjects


def _true_identity(truth, track):
    middle = track.first_frame + len(track.boxes) // 2
    best = (0.0, "")
    for drawn in truth["tracks"]:
        if drawn["kind"] == "face" and drawn["shot"] == track.shot:
            boxes = {int(row[0]): tuple(row[1:]) for row in drawn["boxes"]}
            if middle in boxes:
                best = max(best, (overlap(boxes[middle], track.box_at(middle)), drawn["identity"]))
    return best[1] if best[0] > 0.3 else None


def test_each_person_of_the_demo_is_one_and_no_two_are(demo, truth):
    named = {}
    for track in demo.tracks:
        if track.kind == "face" and track.person is not None:
            named.setdefault(_true_identity(truth, track), set()).add(track.person)
    assert {"Ines", "Tobias", "Wren", "Otto", "Mira"} <= set(named)
    for who in ("Ines", "Tobias", "Wren", "Otto", "Mira"):
        assert len(named[who]) == 1, who
    numbers = [next(iter(named[who])) for who in ("Ines", "Tobias", "Wren", "Otto", "Mira")]
    assert len(set(numbers)) == 5


def test_a_body_has_the_number_of_its_face(demo):
    faces = {track.subject: track.person for track in demo.tracks if track.kind == "face"}
    bodies = [track for track in demo.tracks if track.kind == "person" and track.subject in faces]
    assert bodies and all(body.person == faces[body.subject] for body in bodies)


def _face(number, shot, look):
    return Track(number, "face", shot, number, 0.9, 0, ((0, 0, 10, 10),), look)


RED, BLUE = (20.0, 5, 5, 60, 15, 20, 40, 40, 20), (20.0, 5, 5, 60, 15, 20, 40, 0, -40)


def test_people_seen_side_by_side_are_never_one():
    made = name_people([_face(0, 0, RED), _face(1, 0, RED), _face(2, 1, BLUE)])
    assert len({track.person for track in made}) == 3
    apart = name_people([_face(0, 0, RED), _face(1, 1, RED), _face(2, 1, BLUE)])
    assert apart[0].person == apart[1].person != apart[2].person


def test_faces_nobody_could_describe_stay_unnamed():
    made = name_people([_face(0, 0, ()), _face(1, 0, RED)])
    assert made[0].person is None and made[1].person == 0
    assert name_people([_face(0, 0, ())])[0].person is None


def test_a_description_is_lab_colour_and_needs_room():
    """sRGB red is L*a*b* (53.2, 80.1, 67.2): CIE 1976, D65."""
    picture = np.zeros((200, 200, 3), np.uint8)
    picture[:] = (255, 0, 0)
    found = describe(picture, (80, 60, 40, 50))
    assert found == pytest.approx((53.2, 80.1, 67.2) * 3, abs=0.2)
    assert describe(picture, (80, 170, 40, 50)) == ()


@pytest.mark.parametrize(("clothes", "people"), [(19.6, {0}), (19.95, {0, 1})])
def test_people_are_told_apart_by_the_weighted_difference(clothes, people):
    """On paper: the root of 1.3 / 3 of the square of 19.75, with all else alike, is 13."""
    grey = (50.0, 0.0, 0.0)
    made = name_people([_face(0, 0, grey * 3), _face(1, 1, (*grey, *grey, 50 + clothes, 0.0, 0.0))])
    assert {track.person for track in made} == people


def test_persons_are_told_without_scores_as_with_them(demo):
    for shot in range(len(demo.shots)):
        assert people_of(demo, shot) == {each.id: each.person for each in subjects(demo, shot)}
