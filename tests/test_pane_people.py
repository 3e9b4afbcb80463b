"""Who gets a pane, and how many panes there are: on drawn tracks, by arithmetic."""

import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.analysis.model import Track
from caracal.core.framing.choice import Keyframe, PaneFraming, ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.placing import solved_layout
from caracal.core.framing.shot_solution import solve_shot
from caracal.core.layout.kinds import kind_called
from caracal.core.layout.model import (
    EVERYWHERE,
    BlendBackdrop,
    Crop,
    Layout,
    Pane,
    Role,
    WholePicture,
)
from caracal.core.specs.sheet_store import find_sheet
from conftest import DEMO
from test_properties import film

FRAMES = 100
SHEETS = {name: find_sheet(name) for name in (
    "vertical-short", "tall-feed", "portrait-feed", "square-feed", "wide", "mast")}
TALL = SHEETS["vertical-short"]


def person(number, x, first=0, count=FRAMES, wide=300.0, high=800.0, face=120.0):
    """An outline whose middle is at ``x``, and its face at the top."""
    body = (x - wide / 2, 1080 - high, wide, high)
    head = (x - face / 2, 1080 - high + 40, face, face * 1.3)
    return [Track(2 * number, "person", 0, number, 0.9, first, (body,) * count),
            Track(2 * number + 1, "face", 0, number, 0.9, first, (head,) * count)]


def solved(tracks, kind="stack", sheet=TALL, **more):
    choice = ShotChoice(layout=kind_called(kind).make(sheet.frame), **more)
    return solve_shot(film(tracks, FRAMES), 0, sheet, choice, Motion(), {})


@pytest.mark.parametrize("name", SHEETS)
def test_who_is_alone_gets_the_whole_canvas_and_that_is_said(name):
    found = solved(person(1, 700), sheet=SHEETS[name])
    assert found.placed.kind == "fill" and found.layout.kind == "stack"
    assert len(found.panes) == 1 and "Nobody is there for another pane" in found.why


@pytest.mark.parametrize("other", [
    person(2, 1500, first=60, count=40),  # there for 40 % of the shot
    person(2, 1500, high=60.0, face=10.0),  # as tall as a finger
    person(2, 720, wide=260.0, high=760.0),  # the same one, found twice
    [Track(8, "person", 0, 8, 0.54, 0, ((1500.0, 700.0, 170.0, 350.0),) * FRAMES)],
    [Track(8, "potted plant", 0, 8, 0.9, 0, ((1400.0, 300.0, 300.0, 700.0),) * FRAMES)],
], ids=["comes late", "tiny", "found twice", "doubtful", "a plant"])
def test_nobody_else_gets_a_pane_who_is_no_second(other):
    assert solved([*person(1, 700), *other]).placed.kind == "fill"


@pytest.mark.parametrize("name", SHEETS)
def test_two_who_are_apart_have_a_pane_each_that_the_other_is_not_in(name):
    places = {1: 500.0, 2: 1400.0}
    found = solved([*person(1, 500), *person(2, 1400)], sheet=SHEETS[name])
    assert found.placed.kind == "stack" and len(found.panes) == 2
    for path in found.panes:
        left, width = path.windows[:, 0], path.windows[:, 2]
        own, other = places[path.lead], places[3 - path.lead]
        assert (left < own - 60).all() and (own + 60 < left + width).all()
        assert ((other + 60 < left) | (other - 60 > left + width)).all(), name


def test_two_who_stand_too_close_share_the_canvas_unless_the_second_was_chosen():
    """The closest window of a half of 1080 x 960 is 540 pixels wide at a zoom of two: 200 pixels
    between two people are less than half of it."""
    pair = [*person(1, 860), *person(2, 1060, wide=200.0)]
    found = solved(pair)
    assert found.placed.kind == "fill" and "too close to be shown apart" in found.why
    assert solved(pair, second=2 if found.path.lead == 1 else 1).placed.kind == "stack"


def test_two_who_walk_past_each_other_share_the_canvas():
    """They are far apart at first and at last, and side by side for a third of the shot."""
    def walker(number, places):
        boxes = tuple((x - 60, 300.0, 120.0, 1.3 * 120) for x in places)
        return Track(number, "face", 0, number, 0.9, 0, boxes)

    to = np.clip(np.linspace(-200, 1200, FRAMES), 0, 1000) + 450
    pair = [walker(1, to), walker(2, 1900 - to)]
    assert solved(pair).placed.kind == "fill"


def test_of_three_roles_as_many_are_shown_as_there_are_people():
    two = [*person(1, 400), *person(2, 1500)]
    assert solved(two, "stack-of-three").placed.kind == "stack"
    three = solved([*two, *person(3, 950)], "stack-of-three")
    assert three.placed.kind == "stack of three"
    assert len({path.lead for path in three.panes}) == 3


def test_a_layout_of_the_second_alone_shows_the_second():
    layout = Layout("second", (Pane(Crop(Role.SECOND)),))
    two = film([*person(1, 500, high=900.0), *person(2, 1400)], FRAMES)
    _, (path,) = solved_layout(two, 0, TALL, ShotChoice(layout=layout))
    assert path.lead == 2
    shown, (path,) = solved_layout(film(person(1, 500), FRAMES), 0, TALL, ShotChoice(layout=layout))
    assert shown.kind == "fill" and path.lead == 1


def test_a_pane_that_was_framed_by_hand_stays():
    by_hand = PaneFraming(Role.SECOND, keyframes=(Keyframe(0, (1500.0, 540.0)),))
    assert solved(person(1, 700), others=(by_hand,)).placed.kind == "stack"


def test_those_are_shown_who_can_be_shown_apart():
    """Of a crowd the next best stands beside the lead; one farther off gets the pane."""
    crowd = [*person(1, 900, high=900.0), *person(2, 1040, high=860.0, wide=200.0),
             *person(3, 1700, high=500.0)]
    assert [path.lead for path in solved(crowd).panes] == [1, 3]


def test_who_is_cut_out_keeps_the_backdrop_when_the_second_is_missing():
    both = ((0.0, 1.0), (0.5, 1.0))
    layout = Layout("two", (Pane(BlendBackdrop("#c9b79c", "#8a6f56")),
                            Pane(Crop(lifted=True), both),
                            Pane(Crop(Role.SECOND, lifted=True), both)))
    shown, paths = solved_layout(film(person(1, 700), FRAMES), 0, TALL, ShotChoice(layout=layout))
    assert len(shown.panes) == 2 and shown.backdrop == layout.backdrop and len(paths) == 1


@pytest.mark.parametrize("name", SHEETS)
def test_the_whole_and_the_lead_are_two_pictures_without_a_gap(name):
    """The lead's pane shows at most three fifths of the picture's width or of its height, and both
    cover the canvas, or lie on a backdrop."""
    found = solved(person(1, 700), "whole-over-lead", SHEETS[name])
    window = found.path.windows[0]
    assert min(window[2] / 1920, window[3] / 1080) < 0.6
    whole = next(pane for pane in found.placed.panes if isinstance(pane.content, WholePicture))
    (left, right), (top, bottom) = whole.region
    width, height = SHEETS[name].canvas
    shape = (right - left) * width / ((bottom - top) * height)
    assert found.placed.backdrop is not None or shape == pytest.approx(16 / 9, rel=0.02)


@pytest.mark.parametrize("name", SHEETS)
def test_halves_lie_so_that_each_is_taller_than_flat(name):
    """Above each other on a tall canvas, else beside each other: half a square lying down is 2:1,
    nearly all of the picture."""
    layout = kind_called("stack").make(SHEETS[name].frame)
    width, height = SHEETS[name].canvas
    beside = all(pane.region[1] == EVERYWHERE[1] for pane in layout.panes)
    assert beside == (width >= height)


def test_heads_in_panes_have_air_above(name="square-feed"):
    """Eyes a third from the top: where more of a body does not fit, its face says how high."""
    close = person(1, 700, wide=700.0, high=980.0, face=260.0)
    window = solved(close, "whole-over-lead", SHEETS[name]).path.windows[0]
    eyes = 1080 - 980 + 40 + 0.4 * 260 * 1.3
    assert 0.2 < (eyes - window[1]) / window[3] < 0.5
    assert np.ptp(window) > 0


def test_a_body_that_the_picture_cuts_does_not_cost_the_head_its_air():
    """Down to the picture's edge nothing ends: eyes lie a third from the window's top, as in a
    window that is too small for the body."""
    half = [*person(1, 1640, high=830.0, wide=500.0, face=190.0)]
    found = solved(half, "whole-over-lead", SHEETS["wide"])
    window = found.path.windows[0]
    eyes = 1080 - 830 + 40 + 0.4 * 190 * 1.3
    assert window[3] < 1000 and 0.25 < (eyes - window[1]) / window[3] < 0.45


def test_the_command_line_tells_shots_with_fewer_panes(tmp_path, capsys):
    """The demo's first seconds: a title, a crowd, and one person in two shots."""
    main(["convert", str(DEMO), "--spec", "vertical-short", "--to", "12", "--layout", "stack",
          "--out", str(tmp_path), "--dry-run"])
    told = capsys.readouterr().out
    assert "because people are missing or too close together: 1, 3, 4." in told
