"""When the window comes closer by itself, and when it does not."""

import numpy as np
import pytest

from caracal.core.analysis.model import Track
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.framing.choice import Keyframe, Punch, ShotChoice, Swap
from caracal.core.framing.flags import FlagKind, flags_of
from caracal.core.framing.motion import Manner, Motion, limits_for
from caracal.core.framing.path import shot_path
from caracal.core.framing.why import why
from caracal.core.specs.sheet_store import find_sheet
from test_properties import film

SQUARE = FramingSpec(Shape(1, 1), None, (1080, 1080))
FRAMES = 250


def person(left, top, width, height, number=1):
    """Somebody whose box moves with ``left`` (n,)."""
    boxes = tuple((float(x), float(top), float(width), float(height)) for x in left)
    return Track(number, "person", 0, number, 0.9, 0, boxes)


def standing(**more):
    return person(np.full(FRAMES, 800.0), **({"top": 600, "width": 120, "height": 300} | more))


def kept(path, track):
    x, y, w, h = path.windows.T
    boxes = np.array(track.boxes)
    return ((x <= boxes[:, 0] + 1) & (x + w >= boxes[:, 0] + boxes[:, 2] - 1)
            & (y <= boxes[:, 1] + 1) & (y + h >= boxes[:, 1] + boxes[:, 3] - 1))


def test_a_small_lead_is_shown_larger_and_whole():
    track = standing()
    found = film([track], FRAMES)
    path = shot_path(found, 0, SQUARE, ShotChoice())
    assert path.still and 1080 / path.windows[0, 3] > 1.3 and kept(path, track).all()
    assert path.closer == pytest.approx(1080 / path.windows[0, 3])
    assert "closer" in why(found, 0, path)


def test_it_never_comes_closer_than_the_picture_bears():
    """1080x1920 from 1080p is enlarged 1.78 already; past 2.0 looks soft (common practice)."""
    found = film([standing()], FRAMES)
    sheet = find_sheet("vertical-short")
    path = shot_path(found, 0, sheet.frame, ShotChoice())
    assert path.closer == 1.0
    path = shot_path(found, 0, SQUARE, ShotChoice())
    flags = flags_of(found, 0, path, find_sheet("square-feed"))
    assert not [flag for flag in flags if flag.kind is FlagKind.ENLARGED]


def test_a_large_lead_is_left_as_it_is():
    found = film([standing(top=200, height=800, width=300)], FRAMES)
    assert shot_path(found, 0, SQUARE, ShotChoice()).closer == 1.0


def test_a_decided_zoom_stays():
    found = film([standing()], FRAMES)
    path = shot_path(found, 0, SQUARE, ShotChoice(zoom=1.0))
    assert (path.windows[:, 2] == 1080).all()
    keys = (Keyframe(0, (860.0, 540.0)),)
    path = shot_path(found, 0, SQUARE, ShotChoice(keyframes=keys))
    assert (path.windows[:, 2] == 1080).all()


def test_middle_and_size_of_a_slow_walk_are_found_together():
    track = person(np.linspace(100, 1300, FRAMES), 600, 120, 300)
    path = shot_path(film([track], FRAMES), 0, SQUARE, ShotChoice())
    x, y, w, h = path.windows.T
    assert path.manner is Manner.GLIDE and path.closer > 1.15 and kept(path, track).all()
    assert np.allclose(w, h) and (x >= -1e-6).all() and (x + w <= 1920 + 1e-6).all()
    assert (y >= -1e-6).all() and (y + h <= 1080 + 1e-6).all()
    assert np.abs(np.diff(w)).max() <= limits_for(Manner.GLIDE, 1080, Motion()).speed + 1e-6


def test_a_sprinter_gets_room_instead():
    track = person(np.linspace(0, 1800, 60), 600, 100, 300)
    path = shot_path(film([track], 60), 0, SQUARE, ShotChoice())
    assert path.manner is Manner.CHASE and path.closer == 1.0


def test_a_face_comes_out_from_under_the_interface():
    """A 2160p master bears it; the clear area begins at a fifth of the canvas."""
    body = Track(1, "person", 0, 1, 0.9, 0, ((1800.0, 330.0, 500.0, 1800.0),) * FRAMES)
    face = Track(2, "face", 0, 1, 0.9, 0, ((1950.0, 450.0, 160.0, 200.0),) * FRAMES)
    found = film([body, face], FRAMES, active=(0, 0, 3840, 2160))
    frame = find_sheet("vertical-short").frame
    wide = shot_path(found, 0, frame, ShotChoice(zoom=1.0)).windows[0]
    near = shot_path(found, 0, frame, ShotChoice()).windows[0]
    (_, _), (top, _) = frame.clear
    assert (450 - wide[1]) / wide[3] < 0.21 <= 0.0 + (450 - near[1]) / near[3]
    assert near[1] + top * near[3] <= 450 - 0.4 * 200


def test_a_punch_in_holds_and_comes_back():
    found = film([standing()], FRAMES)
    punch = Punch(100, 150, (860.0, 700.0), 2.0)
    plain = shot_path(found, 0, SQUARE, ShotChoice()).windows
    path = shot_path(found, 0, SQUARE, ShotChoice(punches=(punch,)))
    assert (path.windows[:100] == plain[:100]).all() and (path.windows[150:] == plain[150:]).all()
    assert (path.windows[100:150] == (860 - 270, 700 - 270, 540, 540)).all()
    assert path.jumps == (100, 150) and path.leads == ((0, 1),)


def test_jumps_are_not_rushed():
    near, far = standing(), person(np.full(FRAMES, 1700.0), 600, 120, 300, number=2)
    found, sheet = film([near, far], FRAMES), find_sheet("square-feed")
    choice = ShotChoice(lead=1, swaps=(Swap(120, 2),), punches=(Punch(60, 90, (300., 500.), 2.0),))
    path = shot_path(found, 0, sheet.frame, choice)
    assert path.jumps == (60, 90, 120) and path.lead_at(119) == 1 and path.lead_at(120) == 2
    assert FlagKind.RUSHED not in [flag.kind for flag in flags_of(found, 0, path, sheet)]


def test_a_version_of_the_master_s_own_shape_stays_as_it_was_made():
    found = film([standing()], FRAMES)
    path = shot_path(found, 0, find_sheet("wide").frame, ShotChoice())
    assert (path.windows == (0, 0, 1920, 1080)).all()
