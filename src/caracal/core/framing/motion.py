"""How the window may move: every limit in one place, with its unit and reason."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

import msgspec

from caracal.core.base.translation import mark


class Manner(StrEnum):
    """The five manners in which a window may follow its lead."""

    AUTO = mark("auto")
    LOCKED = mark("locked")
    GLIDE = mark("glide")
    CHASE = mark("chase")
    BY_HAND = mark("by hand")


Length = Annotated[float, msgspec.Meta(gt=0)]
Share = Annotated[float, msgspec.Meta(ge=0)]
Frames = Annotated[int, msgspec.Meta(ge=1)]


class Motion(msgspec.Struct, frozen=True):
    """Limits and tolerances of all manners; a project may carry its own.

    A thing should take about 7 s to cross the frame at 24 fps before judder shows (common
    practice): 168 frames, whatever the rate. A sprint across the picture takes about 18 frames.
    Shares are of the window's length along the axis.
    """

    glide_crossing_frames: Length = 168
    glide_ease_frames: Length = 14  # to reach full speed
    chase_crossing_frames: Length = 18
    chase_ease_frames: Length = 7
    least_rest_frames: Frames = 18  # between two moves: a shorter stop looks like a mistake
    least_turn_s: Length = 1.0  # between two moves that go opposite ways
    still_tolerance: Share = 0.03  # jitter of found boxes that a still window forgives
    still_want: Share = 0.06  # how far swinging arms may leave a still window
    still_lead: Share = 0.035  # of the picture's width: a lead that moves less stands still
    missed: Share = 0.01  # a demand missed by less is kept
    glide_misses: Share = 0.02  # share of frames a glide may miss before it must become a chase
    closest: Length = 1.5  # zoom that the window may reach by itself
    enlarged_past: Length = 2.0  # canvas pixels a master pixel: 1.78 is usual, more looks soft
    least_lead: Length = 0.4  # of the window's height: a smaller lead is worth coming closer
    stride_frames: Frames = 6  # either side: arms and legs swing out and in again within a stride


@dataclass(frozen=True)
class Limits:
    """How the window may move. Speeds in pixels a frame, acceleration in pixels a frame squared.

    The weights price a pixel of first, second and third difference in a frame; ``must``, ``want``,
    ``clear`` and ``words`` price a pixel by which a demand is missed in one frame; ``wish`` gently
    pulls to the best place. ``knot_frames`` lie between the path's control points.
    """

    speed: float
    acceleration: float
    weights: tuple[float, float, float]
    must: float
    want: float
    wish: float
    clear: float = 0.0
    words: float = 0.0
    knot_frames: int = 1


FINE_FRAMES = 600  # a longer shot's chase has coarser knots: solving it stays under half a second


def limits_for(manner: Manner, size: float, motion: Motion, frames: int = 0) -> Limits:
    """The solver's limits for glide and chase in a shot of ``frames``, for a window ``size`` long.

    Knots stand so close that a move can start and stop within its ease; measured: half as many
    knots cost a fifth more, twice as many take three times as long. The prices of a chase are
    measured on the demo: a third of the price of third differences shakes a sixth more, a fifth
    of that of ``must`` loses the lead in twice as many frames.
    """
    if manner is Manner.CHASE:
        speed = size / motion.chase_crossing_frames
        return Limits(speed, speed / motion.chase_ease_frames, (0.3, 6.0, 1800.0), must=640.0,
                      want=60.0, wish=0.02, clear=20.0, words=30.0,
                      knot_frames=2 if frames <= FINE_FRAMES else 3)
    speed = size / motion.glide_crossing_frames
    return Limits(speed, speed / motion.glide_ease_frames, (1.0, 30.0, 120.0), must=40.0, want=8.0,
                  wish=0.001, clear=6.0, words=12.0, knot_frames=6)
