"""When a crop comes closer by itself: cases worked out on paper, on a 1920x1080 picture."""

import numpy as np
import pytest

from caracal.core.framing.auto_zoom import Room, auto_zoom
from caracal.core.framing.demand import Demand, Interval
from caracal.core.framing.manners import Move
from caracal.core.framing.motion import Manner, Motion

FRAMES = 50
WIDEST = (607.5, 1080.0)  # a 9:16 crop of the whole height
PICTURE = (0.0, 0.0, 1920.0, 1080.0)


def holding(low, high):
    """A crop must hold [low, high]: its middle is between high - size / 2 and low + size / 2."""
    half = np.full(FRAMES, 0.5)
    return Interval(np.full(FRAMES, high), half, np.full(FRAMES, low), half)


def demand(low, high, clear=None):
    nothing, none = Interval.nothing(FRAMES), np.full(FRAMES, np.nan)
    span = np.tile([low, high], (FRAMES, 1)).astype(float)
    held = holding(low, high)
    return Demand(must=held, want=held, clear=clear or nothing,
                  wish=np.full(FRAMES, (low + high) / 2), wish_share=np.zeros(FRAMES), extent=span,
                  words=nothing, essential=span, after=none)


def zoomed(top, bottom, manner=Manner.LOCKED, closest=2.0, clear=None, left=900.0, right=1000.0):
    """What becomes of a lead in [left, right] x [top, bottom]."""
    room = Room(PICTURE, np.tile(WIDEST, (FRAMES, 1)), (1.0, 1.0), closest)
    demands = demand(left, right), demand(top, bottom, clear)
    middle = (left + right) / 2
    moves = (Move(np.full(FRAMES, middle), manner), Move(np.full(FRAMES, 540.0), manner))
    return auto_zoom(demands, room, moves, np.full(FRAMES, bottom - top), Motion())


def test_a_small_lead_brings_the_crop_as_close_as_it_may_come():
    """200 of the 432 pixels that it should have (0.4 of 1080): 0.46 of the size, but 1/2 is least.
    """
    window = zoomed(440.0, 640.0)
    assert window.sizes[0] == pytest.approx((303.75, 540.0))
    left, top = window.middles[0] - window.sizes[0] / 2
    assert left <= 900 and top <= 440 and left + 303.75 >= 1000 and top + 540 >= 640
    assert np.ptp(window.middles, axis=0).max() == 0  # it rests


def test_the_crop_comes_no_closer_than_the_lead_needs():
    """320 of 432 pixels: 0.74 of the size; of the nine sizes from 1 to 1/2 the widest that is at
    most 0.74 + 0.056 is 0.75."""
    window = zoomed(380.0, 700.0)
    assert window.sizes[0, 1] / 1080 == pytest.approx(0.75)


@pytest.mark.parametrize(("case", "closest", "manner"), [
    ((140.0, 940.0), 2.0, Manner.LOCKED),  # large enough
    ((440.0, 640.0), 1.1, Manner.LOCKED),  # it would turn soft
    ((440.0, 640.0), 2.0, Manner.CHASE)])  # a quick lead needs the room around it
def test_the_widest_crop_stays_where_coming_closer_brings_nothing(case, closest, manner):
    assert zoomed(*case, manner=manner, closest=closest) is None


def test_a_face_comes_out_from_under_the_destination_s_interface():
    """The clear area is the upper 60 %: a face at 700 to 800 of 1080 is below it while the crop has
    the whole height. In one of 0.5 (540 pixels) it can stand higher."""
    clear = Interval(np.full(FRAMES, 800.0), np.full(FRAMES, 0.1), np.full(FRAMES, 700.0),
                     np.full(FRAMES, 0.5))  # top of the crop to 0.6 of its height
    window = zoomed(500.0, 940.0, clear=clear)
    size, middle = window.sizes[0, 1], window.middles[0, 1]
    assert size < 1080 and middle >= 800 - 0.1 * size - 0.005 * size
    assert middle - size / 2 >= -1e-6 and middle + size / 2 <= 1080 + 1e-6


def test_a_lead_that_would_be_lost_keeps_the_crop_wide():
    """A small lead that walks through the whole picture fits no closer still crop."""
    assert zoomed(440.0, 640.0, left=100.0, right=1800.0) is None
