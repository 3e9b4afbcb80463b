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
from caracal.core.framing.attention import best_place
from caracal.core.framing.flags import FlagKind, flags_of
from caracal.core.framing.geometry import Shape
from caracal.core.framing.lead import choose_lead, company, subjects
from caracal.core.framing.manners import Manner
from caracal.core.framing.path import ShotChoice, shot_path
from caracal.core.framing.why import lead_name, why
from caracal.core.media.look import Colour, Master

FRAMES = 50
TALL = Shape(9, 16)


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
    assert set(parts) == {"size", "centre", "duration", "face"} and parts["duration"] == 1.0


def test_a_face_raises_the_score():
    face = _track(3, "face", (1560, 330, 120, 140), subject=2)
    plain, with_face = subjects(_film(BIG, SIDE), 0), subjects(_film(BIG, SIDE, face), 0)
    score = {one.id: one.score for one in plain}
    assert {one.id: one.score for one in with_face}[2] > score[2]


def test_small_people_and_several_things_do_not_lead():
    crowd = [_track(i, "person", (200 + 300 * i, 600, 50, 150)) for i in range(4)]
    pots = [_track(i, "vase", (200 + 400 * i, 400, 200, 400)) for i in range(3)]
    assert choose_lead(_film(*crowd), 0) is None
    assert choose_lead(_film(*pots), 0) is None
    assert choose_lead(_film(pots[0]), 0).kind == "vase"


def test_passers_by_do_not_lead():
    assert choose_lead(_film(_track(1, "person", (300, 100, 400, 900), frames=5)), 0) is None


def test_company_is_kept_where_it_fits():
    near = _track(2, "person", (760, 180, 380, 900))
    film = _film(BIG, near)
    assert [one.id for one in company(film, 0, choose_lead(film, 0, 1))] == [2]
    x, _, w, _ = shot_path(film, 0, Shape(1, 1), ShotChoice(lead=1)).windows[0]
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
    assert flags_of(film, 0, path, (1080, 1920)) == ()
    assert why(film, 0, path) == "One still window keeps the person throughout."
    assert lead_name(_film(BIG, SIDE), 0, 2) == "person 2"


def test_a_lost_and_a_blown_up_lead_are_flagged():
    runs = tuple((20.0 + 34 * i, 200.0, 200.0, 800.0) for i in range(FRAMES))
    film = _film(Track(1, "person", 0, 1, 0.8, 0, runs))
    locked = shot_path(film, 0, TALL, ShotChoice(manner=Manner.LOCKED))
    assert flags_of(film, 0, locked, (1080, 1920))[0].kind is FlagKind.LOST
    near = shot_path(film, 0, TALL, ShotChoice(zoom=1.5))
    assert FlagKind.ENLARGED in {one.kind for one in flags_of(film, 0, near, (1080, 1920))}


@pytest.mark.parametrize("zoom", [1.0, 1.4, 2.5])
@pytest.mark.parametrize("shape", ["9:16", "4:5", "16:9"])
def test_zoomed_windows_stay_in_shape_and_picture(zoom, shape):
    path = shot_path(_film(BIG), 0, Shape.parse(shape), ShotChoice(zoom=zoom))
    x, y, w, h = path.windows.T
    assert np.allclose(w / h, float(Shape.parse(shape).ratio))
    assert (x >= -1e-9).all() and (x + w <= 1920 + 1e-6).all()
    assert (y >= -1e-9).all() and (y + h <= 1080 + 1e-6).all()


def test_a_zoomed_window_keeps_the_top_of_the_head():
    face = _track(3, "face", (420, 200, 160, 180), subject=1)
    path = shot_path(_film(BIG, face), 0, TALL, ShotChoice(zoom=1.6))
    assert (path.windows[:, 1] <= 200).all()
