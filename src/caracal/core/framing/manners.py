"""How the window may move in a shot: locked, glide, chase, by hand; auto picks the calmest."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, minimum_filter1d

from caracal.core.framing.demand import Demand
from caracal.core.framing.solver import Limits, build, solve

Array = NDArray[np.float64]


class Manner(StrEnum):
    """The five manners."""

    AUTO = "auto"
    LOCKED = "locked"
    GLIDE = "glide"
    CHASE = "chase"
    BY_HAND = "by hand"


# A thing should take about 7 s to cross the frame at 24 fps before judder shows, sooner at higher
# rates (common practice): 7 * 24 = 168 frames.
GLIDE_CROSSING_FRAMES = 168
CHASE_CROSSING_FRAMES = 18  # a sprint across the picture is about this quick
GLIDE_EASE_FRAMES = 14  # to reach full speed
CHASE_EASE_FRAMES = 7
STILL_TOLERANCE = 0.03  # of the window: jitter of found boxes that a still window forgives
STILL_WANT = 0.10  # of the window: how far swinging arms may leave a still window
MISSED = 0.01  # of the window: a demand missed by less is kept
STRIDE_FRAMES = 8  # either side: arms and legs swing out and in again within a stride
GLIDE_MISSES = 0.02  # share of frames a glide may miss before it must become a chase


@dataclass(frozen=True)
class Move:
    """Positions (n,) along one axis and the manner that made them."""

    positions: Array
    manner: Manner


def limits_for(manner: Manner, size: float) -> Limits:
    """The solver's limits for glide and chase, for a window ``size`` pixels long."""
    if manner is Manner.CHASE:
        speed = size / CHASE_CROSSING_FRAMES
        return Limits(speed, speed / CHASE_EASE_FRAMES, (0.3, 12.0, 60.0), 120.0, 60.0, 0.02)
    speed = size / GLIDE_CROSSING_FRAMES
    return Limits(speed, speed / GLIDE_EASE_FRAMES, (1.0, 30.0, 120.0), 40.0, 8.0, 0.001)


def move_along(demand: Demand, low: float, high: float, size: float, manner: Manner) -> Move:
    """The best positions within [low, high] for the asked manner (auto: the calmest that keeps)."""
    if high - low < 1e-6 or np.isnan(demand.wish).all():
        at = low if high - low < 1e-6 else _settled((low + high) / 2, low, high)
        return Move(np.full(len(demand.wish), at), Manner.LOCKED)
    still = _still(demand, low, high, size)
    if manner is Manner.LOCKED or (manner is Manner.AUTO and still.serves):
        return Move(np.full(len(demand.wish), _settled(still.at, low, high)), Manner.LOCKED)
    if manner in (Manner.GLIDE, Manner.AUTO):
        glide = _solved(demand, low, high, limits_for(Manner.GLIDE, size))
        kept = _misses(demand.must, glide, size, low, high) <= GLIDE_MISSES
        if manner is Manner.GLIDE or (kept and _misses(demand.want, glide, 3 * size, low, high)
                                      <= GLIDE_MISSES):
            return Move(glide, Manner.GLIDE)
    chase = _solved(demand, low, high, limits_for(Manner.CHASE, size))
    return Move(chase, Manner.CHASE)


@dataclass(frozen=True)
class _Still:
    at: float
    serves: bool


def _still(demand: Demand, low: float, high: float, size: float) -> _Still:
    """The best still window, and whether it keeps the lead through the whole shot."""
    wish = float(np.clip(np.nanmedian(demand.wish), low, high))
    want = _common(np.clip(demand.want, low, high))
    must = _common(np.clip(demand.must, low, high))
    if want[0] - want[1] <= STILL_TOLERANCE * size:
        both = (max(want[0], must[0]), min(want[1], must[1]))
        room = both if both[0] <= both[1] else want
        return _Still(_nearest(wish, room), True)
    apart = want[0] - want[1]
    at = _nearest(wish, must)
    serves = must[0] <= must[1] and apart / 2 <= STILL_WANT * size
    if serves:
        at = float(np.clip((want[0] + want[1]) / 2, *must))
    return _Still(at, serves)


def _settled(at: float, low: float, high: float) -> float:
    """``at`` on an even pixel: nobody sees the difference, and unscaled pixels stay untouched."""
    even = 2.0 * round(at / 2)
    return even if low <= even <= high else at


def _common(allowed: Array) -> tuple[float, float]:
    """Highest of the lows and lowest of the highs."""
    return float(np.nanmax(allowed[:, 0])), float(np.nanmin(allowed[:, 1]))


def _nearest(wish: float, room: tuple[float, float]) -> float:
    least, most = room
    return (least + most) / 2 if least > most else min(max(wish, least), most)


def _solved(demand: Demand, low: float, high: float, limits: Limits) -> Array:
    must = np.clip(demand.must, low, high)
    want = np.clip(_for_strides(demand.want), low, high)
    wish = np.clip(demand.wish, low, high)
    positions, _ = solve(build(must, want, wish, low, high, limits))
    return np.clip(positions, low, high)


def _for_strides(allowed: Array) -> Array:
    """``allowed`` positions (n, 2) narrowed so that limbs which swing out soon fit already.

    The room at each side of the lead's calmed middle becomes the least of the frames around it, so
    that the window follows the body and not each step.
    """
    asked = np.flatnonzero(~np.isnan(allowed[:, 0]))
    if len(asked) < 3:
        return allowed
    low, high = allowed[asked, 0], allowed[asked, 1]
    middle = gaussian_filter1d((low + high) / 2, STRIDE_FRAMES / 2, mode="nearest")
    least = minimum_filter1d(middle - low, 2 * STRIDE_FRAMES + 1, mode="nearest")
    most = minimum_filter1d(high - middle, 2 * STRIDE_FRAMES + 1, mode="nearest")
    short = np.maximum(0.0, -(least + most)) / 2  # no room is left: aim between the two
    narrowed = allowed.copy()
    narrowed[asked, 0] = middle - least - short
    narrowed[asked, 1] = middle + most + short
    return narrowed


def _misses(allowed: Array, positions: Array, size: float, low: float, high: float) -> float:
    """Share of asked frames in which ``positions`` lie outside by more than a little."""
    room = np.clip(allowed, low, high)
    asked = ~np.isnan(allowed[:, 0])
    if not asked.any():
        return 0.0
    below = room[asked, 0] - positions[asked]
    above = positions[asked] - room[asked, 1]
    return float((np.maximum(below, above) > MISSED * size).mean())
