"""Analysis and framing of the demo film against its exact ground truth."""

import numpy as np
import pytest

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.analysis.model import Transition
from caracal.core.base.geometry import FramingSpec, Shape, keeps, overlap
from caracal.core.framing.choice import Keyframe, ShotChoice
from caracal.core.framing.motion import Manner
from caracal.core.framing.path import film_path, shot_path, windows_of
from caracal.core.framing.why import why
from conftest import DEMO, true_boxes

NINE_SIXTEEN = FramingSpec(Shape(9, 16))


def _leads(truth):
    for i, shot in enumerate(truth["shots"]):
        if shot["single_lead"]:
            yield i, shot


def test_every_hard_cut_exact_and_none_invented(demo, truth):
    found = [shot.start for shot in demo.shots if shot.transition_in is Transition.CUT]
    assert found == truth["hard_cuts"]


def test_the_dissolve_lies_within_its_span(demo, truth):
    (found,) = [shot for shot in demo.shots if shot.transition_in is Transition.DISSOLVE]
    span = truth["dissolves"][0]
    assert span["start"] <= found.start < span["end"]
    assert abs(found.transition_span[0] - span["start"]) <= 6
    assert abs(found.transition_span[1] - span["end"]) <= 6


def test_faces_are_where_they_were_drawn(demo, truth):
    hits = total = 0
    for i, shot in _leads(truth):
        faces = [track for track in demo.tracks_in(i) if track.kind == "face"]
        for frame, box in true_boxes(truth, i, shot["lead"], "face").items():
            total += 1
            seen = [face.box_at(frame) for face in faces]
            hits += any(box2 is not None and overlap(box, box2) > 0.4 for box2 in seen)
    assert hits / total > 0.9


def test_the_lead_stays_in_the_tall_window(demo, truth):
    """At least 97 % of the frames of single-lead shots at 9:16."""
    windows, kept = windows_of(film_path(demo, NINE_SIXTEEN)), []
    for i, shot in _leads(truth):
        for kind in ("person", "dog", "bowl"):
            for frame, box in true_boxes(truth, i, shot["lead"], kind).items():
                kept.append(keeps(tuple(windows[frame]), box))
    assert len(kept) > 500 and np.mean(kept) >= 0.97


def test_faces_are_never_cut(demo, truth):
    windows = windows_of(film_path(demo, NINE_SIXTEEN))
    for i, shot in _leads(truth):
        for frame, box in true_boxes(truth, i, shot["lead"], "face").items():
            assert keeps(tuple(windows[frame]), box, slack=2.0), (shot["name"], frame)


@pytest.mark.parametrize("shape", ["9:16", "1:1", "4:5"])
def test_shots_a_still_window_serves_do_not_move(demo, truth, shape):
    paths = film_path(demo, FramingSpec(Shape.parse(shape)))
    for path, shot in zip(paths, truth["shots"], strict=True):
        if shot["still_window_serves"]:
            assert path.still, shot["name"]


def test_windows_jump_on_the_cut_and_stay_in_the_picture(demo):
    paths = film_path(demo, NINE_SIXTEEN)
    assert [path.start for path in paths] == [shot.start for shot in demo.shots]
    windows = windows_of(paths)
    assert len(windows) == demo.master.frames
    assert windows[:, 0].min() >= 0 and (windows[:, 0] + windows[:, 2]).max() <= 1920 + 1e-9


def test_opening_again_is_from_the_cache(demo):
    again = analyse(DEMO)
    assert again == demo


def test_a_chosen_lead_is_followed(demo, truth):
    two = next(i for i, shot in enumerate(truth["shots"]) if shot["name"] == "two talkers")
    for identity in ("Ines", "Tobias"):
        frame, box = next(iter(true_boxes(truth, two, identity, "face").items()))
        chosen = max(demo.tracks_in(two),
                     key=lambda track: overlap(track.box_at(frame) or (0, 0, 1, 1), box))
        path = shot_path(demo, two, NINE_SIXTEEN, ShotChoice(lead=chosen.subject))
        assert keeps(tuple(path.windows[frame - path.start]), box)
        assert why(demo, two, path).endswith("throughout.")


def test_hand_keyframes_hold_exactly(demo):
    keys = (Keyframe(5, (500.0, 540.0)), Keyframe(60, (1200.0, 540.0)))
    path = shot_path(demo, 0, NINE_SIXTEEN, ShotChoice(manner=Manner.BY_HAND, keyframes=keys))
    for key in keys:
        x, _, w, _ = path.windows[key.frame]
        assert x + w / 2 == pytest.approx(key.centre[0])
    assert (np.diff(path.windows[:, 0]) >= -1e-9).all()
