"""Who leads, where a window rests without a lead, and what is flagged."""

import numpy as np
import pytest

from caracal.core.analysis.model import (
    ATTENTION_SHAPE,
    VERSION,
    Analysis,
    FoundShot,
    SoundOutline,
    Track,
    Transition,
)
from caracal.core.base.geometry import FramingSpec, Shape
from caracal.core.framing.attention import best_place
from caracal.core.framing.choice import Interpolation, Keyframe, ShotChoice, Swap
from caracal.core.framing.flags import FlagKind, flags_of
from caracal.core.framing.lead import choose_lead, company, subjects
from caracal.core.framing.motion import Manner
from caracal.core.framing.path import shot_path
from caracal.core.framing.why import lead_name, why
from caracal.core.media.master import Colour, Master
from caracal.core.specs.sheet_store import find_sheet

FRAMES = 50
TALL = FramingSpec(Shape(9, 16))
SHORT = find_sheet("vertical-short")


def _track(number, kind, box, subject=None, frames=FRAMES):
    return Track(number, kind, 0, number if subject is None else subject, 0.8, 0, (box,) * frames)


def _film(*tracks, attention=()):
    master = Master("film.mp4", "mp4", "h264", "High", 40, 1920, 1080, "1/1", 0, 1920, 1080,
                    "25/1", False, FRAMES, 0.0, 2.0, "yuv420p", 8, False,
                    Colour(1, 1, 1, False), 8000, (), ())
    shot = FoundShot(0, FRAMES, Transition.START, None, tuple(attention), 25)
    return Analysis(VERSION, "key", master, (0, 0, 1920, 1080), (shot,), tuple(tracks),
                    SoundOutline(()))


BIG = _track(1, "person", (300, 150, 400, 930))
SIDE = _track(2, "person", (1500, 300, 250, 780))


def test_the_larger_person_leads_and_a_chosen_one_overrides():
    film = _film(BIG, SIDE)
    assert choose_lead(film, 0).id == 1
    assert choose_lead(film, 0, chosen=2).id == 2
    assert choose_lead(film, 0, chosen=99) is None


def test_the_score_s_parts_are_shown():
    parts = subjects(_film(BIG), 0)[0].parts
    assert set(parts) == {"size", "centre", "duration", "face", "motion", "speech",
                          "focus"} and parts["duration"] == 1.0


def test_a_face_raises_the_score():
    face = _track(3, "face", (1560, 330, 120, 140), subject=2)
    plain, with_face = subjects(_film(BIG, SIDE), 0), subjects(_film(BIG, SIDE, face), 0)
    score = {subject.id: subject.score for subject in plain}
    assert {subject.id: subject.score for subject in with_face}[2] > score[2]


def test_small_people_and_several_things_do_not_lead():
    crowd = [_track(i, "person", (200 + 300 * i, 600, 50, 150)) for i in range(4)]
    pots = [_track(i, "vase", (450 + 400 * i, 400, 300, 500)) for i in range(3)]
    assert choose_lead(_film(*crowd), 0) is None
    assert choose_lead(_film(*pots), 0) is None
    assert choose_lead(_film(pots[1]), 0).kind == "vase"  # it fills the middle
    assert choose_lead(_film(pots[2]), 0) is None  # it stands at the side


def test_passers_by_do_not_lead():
    assert choose_lead(_film(_track(1, "person", (300, 100, 400, 900), frames=5)), 0) is None


def test_company_is_kept_where_it_fits():
    near = _track(2, "person", (760, 180, 380, 900))
    film = _film(BIG, near)
    assert [subject.id for subject in company(film, 0, choose_lead(film, 0, 1))] == [2]
    x, _, w, _ = shot_path(film, 0, FramingSpec(Shape(1, 1)), ShotChoice(lead=1)).windows[0]
    assert x <= 300 and x + w >= 1140


def test_without_a_lead_the_window_goes_where_the_picture_tells_most():
    even = np.full(ATTENTION_SHAPE, 1 / 576)
    right = np.zeros(ATTENTION_SHAPE)
    right[:, 24:28] = 1 / 72
    assert best_place(_film(attention=even.ravel()), 0, (607.5, 1080))[0] == pytest.approx(656.25)
    place = best_place(_film(attention=right.ravel()), 0, (607.5, 1080))[0]
    assert place <= 24 * 60 and place + 607.5 >= 28 * 60
    assert best_place(_film(), 0, (607.5, 1080)) == (656.25, 0.0)


def test_a_good_path_has_no_flags_and_says_why():
    film = _film(BIG)
    path = shot_path(film, 0, TALL, ShotChoice())
    assert flags_of(film, 0, path, SHORT) == ()
    assert why(film, 0, path) == "Locked: keeps the person throughout."
    assert lead_name(_film(BIG, SIDE), 0, 2) == "person 2"


def test_a_lost_and_a_blown_up_lead_are_flagged():
    runs = tuple((20.0 + 34 * i, 200.0, 200.0, 800.0) for i in range(FRAMES))
    film = _film(Track(1, "person", 0, 1, 0.8, 0, runs))
    locked = shot_path(film, 0, TALL, ShotChoice(manner=Manner.LOCKED))
    assert flags_of(film, 0, locked, SHORT)[0].kind is FlagKind.LOST
    near = shot_path(film, 0, TALL, ShotChoice(zoom=1.5))
    assert FlagKind.ENLARGED in {flag.kind for flag in flags_of(film, 0, near, SHORT)}


@pytest.mark.parametrize("zoom", [1.0, 1.4, 2.5])
@pytest.mark.parametrize("shape", ["9:16", "4:5", "16:9"])
def test_zoomed_windows_stay_in_shape_and_picture(zoom, shape):
    path = shot_path(_film(BIG), 0, FramingSpec(Shape.parse(shape)), ShotChoice(zoom=zoom))
    x, y, w, h = path.windows.T
    assert np.allclose(w / h, float(Shape.parse(shape).ratio))
    assert (x >= -1e-9).all() and (x + w <= 1920 + 1e-6).all()
    assert (y >= -1e-9).all() and (y + h <= 1080 + 1e-6).all()


def test_a_zoomed_window_keeps_the_top_of_the_head():
    face = _track(3, "face", (420, 200, 160, 180), subject=1)
    path = shot_path(_film(BIG, face), 0, TALL, ShotChoice(zoom=1.6))
    assert (path.windows[:, 1] <= 200).all()


def test_a_face_under_a_cover_is_flagged_and_feet_are_not():
    low = _track(3, "face", (430, 900, 120, 140), subject=1)
    film = _film(BIG, low)
    path = shot_path(film, 0, TALL, ShotChoice())
    assert [flag.kind for flag in flags_of(film, 0, path, SHORT)] == [FlagKind.COVERED]
    assert flags_of(_film(BIG), 0, path, SHORT) == ()


def test_ignored_subjects_are_never_followed_and_a_second_is_kept():
    film = _film(BIG, SIDE)
    assert choose_lead(film, 0, ignored=(1,)).id == 2
    near = _track(4, "bottle", (720, 600, 60, 200))
    film = _film(BIG, near)
    path = shot_path(film, 0, TALL, ShotChoice(second=4))
    x, _, w, _ = path.windows[0]
    assert x <= 300 and x + w >= 780


def test_a_swap_is_a_clean_jump():
    film = _film(BIG, SIDE)
    path = shot_path(film, 0, TALL, ShotChoice(lead=1, swaps=(Swap(20, 2),)))
    assert np.ptp(path.windows[:20, 0]) == 0 and np.ptp(path.windows[20:, 0]) == 0
    assert path.windows[20, 0] - path.windows[19, 0] > 600
    assert (path.lead_at(19), path.lead_at(20)) == (1, 2)
    assert flags_of(film, 0, path, SHORT) == ()


@pytest.mark.parametrize(("joint", "middle"), [
    (Interpolation.STRAIGHT, 700), (Interpolation.EASED, 700), (Interpolation.HOLD, 500)])
def test_joints_between_keyframes(joint, middle):
    keys = (Keyframe(10, (500.0, 540.0), interpolation=joint), Keyframe(30, (900.0, 540.0), 2.0))
    choice = ShotChoice(manner=Manner.BY_HAND, keyframes=keys)
    windows = shot_path(_film(BIG), 0, TALL, choice).windows
    centres = windows[:, 0] + windows[:, 2] / 2
    assert centres[20] == pytest.approx(middle) and centres[30:] == pytest.approx(900)
    assert windows[5, 2] == pytest.approx(607.5) and windows[40, 2] == pytest.approx(303.75)


def test_keyframes_hold_and_the_rest_is_solved_around_them():
    left = tuple((200.0 + 20 * i, 150.0, 300.0, 900.0) for i in range(FRAMES))
    film = _film(Track(1, "person", 0, 1, 0.8, 0, left))
    key = Keyframe(25, (640.0, 540.0))
    path = shot_path(film, 0, TALL, ShotChoice(manner=Manner.CHASE, keyframes=(key,)))
    middle = path.windows[:, 0] + path.windows[:, 2] / 2
    assert middle[25] == pytest.approx(640) and middle[45] > 900


def test_a_lead_that_moves_has_room_to_go_into():
    """Common practice: look room in the direction of motion, here in a window with slack."""
    def walk(way):
        boxes = tuple((800.0 + way * 6 * i, 200.0, 160.0, 800.0) for i in range(FRAMES))
        film = _film(Track(1, "person", 0, 1, 0.8, 0, boxes))
        path = shot_path(film, 0, FramingSpec(Shape(1, 1)), ShotChoice(manner=Manner.CHASE))
        return float(np.mean(path.windows[:, 0] + 540 - np.array([b[0] + 80 for b in boxes])))

    assert walk(1) > 20 and walk(-1) < -20
