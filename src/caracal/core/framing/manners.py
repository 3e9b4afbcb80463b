"""How the window moves along one axis: locked, glide or chase; auto picks the calmest."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, minimum_filter1d

from caracal.core.framing.demand import Demand, Interval, allowed
from caracal.core.framing.minimum_dwell import turns, with_minimum_dwell
from caracal.core.framing.motion import Limits, Manner, Motion, limits_for
from caracal.core.framing.reach import best_coverage
from caracal.core.framing.solver import Channel, Problem, Soft

Array = NDArray[np.float64]

CALM_FRAMES = 8  # standard deviation over which places are averaged: detectors jitter between looks
MORE_KEPT = 0.01  # share of the frames for which a chase is solved once more
SPARE = 0.03  # of the window, at its edges: what lies there may be cut between two looks
SEEN_TURN = 0.02  # of a glide's fastest speed: slower movement does not look like turning round
HEAD_COUNTS = 0.5  # of a frame that keeps what is essential: for one that keeps the air, too
ROUNDING = 1.0  # pixels
KEPT = 0.99  # share of the frames in which a chase should keep its lead


@dataclass(frozen=True)
class Bounds:
    """The range of the window's middle: ``low``, ``high`` (n,), for windows ``sizes`` (n,) long.

    It does not turn round within ``turn_frames``.
    """

    low: Array
    high: Array
    sizes: Array
    turn_frames: int = 0

    @property
    def narrow(self) -> bool:
        """Whether there is no room to move at all."""
        return bool((self.high - self.low < 1e-6).all())

    @property
    def size(self) -> float:
        """The usual length of the window."""
        return float(np.median(self.sizes))


@dataclass(frozen=True)
class Move:
    """Places (n,) of the middle along one axis and the manner that made them.

    ``outrun`` says that the lead is quicker than any window within the limits.
    """

    places: Array
    manner: Manner
    outrun: bool = False


def move_along(
    demand: Demand, bounds: Bounds, manner: Manner, motion: Motion,
    pins: dict[int, float] | None = None,
) -> Move:
    """The best places inside ``bounds`` for the asked manner (auto: the calmest that keeps).

    ``pins`` hold exactly, by frame counted from the shot's first.
    """
    held = pins or {}
    middle = (bounds.low + bounds.high) / 2
    nothing_asked = np.isnan(demand.wish).all() and not held
    if bounds.narrow or nothing_asked:
        return Move(middle if bounds.narrow else settled(float(np.median(middle)), bounds),
                    Manner.LOCKED)
    still = best_still(demand, bounds, motion, held)
    if manner is Manner.LOCKED or (manner is Manner.AUTO and still.serves):
        return Move(settled(still.at, bounds), Manner.LOCKED)
    demand = demand.gone_after()
    if manner in (Manner.GLIDE, Manner.AUTO):
        glide = _solved(demand, bounds, Manner.GLIDE, motion, held)
        keeps = _glide_keeps(demand, glide, bounds, motion) and not _turns(glide, bounds, motion)
        if manner is Manner.GLIDE or keeps:
            return Move(glide, Manner.GLIDE)
    return _chase(demand, bounds, motion, held)


def _chase(demand: Demand, bounds: Bounds, motion: Motion, pins: dict[int, float]) -> Move:
    """A chase; where it loses the lead and another window would not, the way that one takes.

    What is essential counts first, then the head with the air round it: a window that waits for a
    leap does not wait with the head cut.
    """
    places = _solved(demand, bounds, Manner.CHASE, motion, pins)
    seen = _in_picture(demand.essential, bounds)[:, None]
    essentials, heads = (np.where(seen, _inside(keep, bounds), np.nan)
                     for keep in (allowed(demand.essential, bounds.sizes, 0.0), demand.must))
    kept = _kept(essentials, heads, places)
    if min(_share_inside(essentials, places), _share_inside(heads, places)) >= KEPT or pins:
        return Move(places, Manner.CHASE)
    speed = limits_for(Manner.CHASE, bounds.size, motion).speed
    guide = best_coverage(((essentials, 1.0), (heads, HEAD_COUNTS)), bounds.low, bounds.high, speed)
    possible = _share_inside(essentials, guide)
    if _kept(essentials, heads, guide) > kept + MORE_KEPT:
        followed = follow_guide(demand, essentials, heads, guide)
        again = _solved(followed, bounds, Manner.CHASE, motion, pins)
        if _kept(essentials, heads, again) > kept:
            places = again
    return Move(places, Manner.CHASE, possible < KEPT)


def _in_picture(extent: Array, bounds: Bounds) -> NDArray[np.bool_]:
    """The frames (n,) in which the middle of ``extent`` (n, 2) is in the picture."""
    middle, half = extent.mean(axis=1), bounds.sizes / 2
    return np.asarray((middle >= bounds.low - half) & (middle <= bounds.high + half))


def _kept(essentials: Array, heads: Array, places: Array) -> float:
    """How well ``places`` (n,) keep the lead: shares of the frames, added."""
    return _share_inside(essentials, places) + HEAD_COUNTS * _share_inside(heads, places)


def follow_guide(demand: Demand, essentials: Array, heads: Array, guide: Array) -> Demand:
    """``demand`` with only the head asked for, or what is essential, where the ``guide`` keeps it.

    Elsewhere the window goes where the guide goes: it cannot be in time, and must not be late.
    """
    asked = np.full_like(essentials, np.nan)
    for rooms in (essentials, heads):
        inside = (guide >= rooms[:, 0] - ROUNDING) & (guide <= rooms[:, 1] + ROUNDING)
        asked = np.where(inside[:, None], rooms, asked)
    nothing = Interval.nothing(len(guide))
    return replace(demand, must=Interval.between(asked), want=nothing, clear=nothing, wish=guide,
                   wish_share=np.zeros(len(guide)))


def _share_inside(rooms: Array, places: Array) -> float:
    """Share of the asked frames in which ``places`` (n,) lie in ``rooms`` (n, 2)."""
    asked = ~np.isnan(rooms[:, 0])
    inside = (places >= rooms[:, 0] - ROUNDING) & (places <= rooms[:, 1] + ROUNDING)
    return float(inside[asked].mean()) if asked.any() else 1.0


def _turns(places: Array, bounds: Bounds, motion: Motion) -> bool:
    """Whether ``places`` turn round at once: what is quick enough to wait does better."""
    speed = SEEN_TURN * limits_for(Manner.GLIDE, bounds.size, motion).speed
    return bool(turns(places, 1, speed, bounds.turn_frames))


def _glide_keeps(demand: Demand, glide: Array, bounds: Bounds, motion: Motion) -> bool:
    must = misses(demand.must, glide, bounds, motion.missed * bounds.size)
    want = misses(demand.want, glide, bounds, motion.missed * bounds.size)
    return max(must, want) <= motion.glide_misses


@dataclass(frozen=True)
class Still:
    """A still window: where its middle is, and whether it keeps the lead through the shot."""

    at: float
    serves: bool


def best_still(
    demand: Demand, bounds: Bounds, motion: Motion, pins: dict[int, float] | None = None
) -> Still:
    """The best still window, and whether it keeps the lead through the whole shot."""
    size = bounds.size
    low, high = float(bounds.low.max()), float(bounds.high.min())
    if low > high:  # the zoom changes so much that no one place stays inside the picture
        return Still((low + high) / 2, False)
    if pins:
        places = list(pins.values())
        return Still(float(np.clip(places[0], low, high)), max(places) - min(places) < 0.5)
    wish = float(np.clip(np.nanmedian(demand.wished(bounds.sizes)), low, high))
    want = _common(_inside(demand.want, bounds))
    must = _common(_inside(demand.must, bounds))
    better = _better(demand, bounds)
    if max(want[0] - want[1], must[0] - must[1]) <= motion.still_tolerance * size:
        both = _both(want, must)
        room = both if both[0] <= both[1] else want
        return Still(_nearest(wish, _narrowed(room, better)), True)
    apart = want[0] - want[1]
    serves = must[0] <= must[1] and apart / 2 <= motion.still_want * size and apart > -np.inf
    if not serves and _stands(demand, bounds, motion):
        serves = must[0] - must[1] <= 2 * motion.still_want * size
    if serves:
        middle = (want[0] + want[1]) / 2
        return Still(_nearest(middle, _narrowed(must, better)), True)
    return Still(_nearest(wish, must), False)


def _stands(demand: Demand, bounds: Bounds, motion: Motion) -> bool:
    """Whether the lead hardly moves; what detectors add to that from look to look is calmed."""
    seen = np.flatnonzero(~np.isnan(demand.essential[:, 0]))
    if len(seen) < 2:
        return False
    middle = demand.essential[seen].mean(axis=1)
    calm = gaussian_filter1d(middle, min(CALM_FRAMES, len(seen) / 4), mode="nearest")
    length = float((bounds.high - bounds.low + bounds.sizes).max())
    return float(np.ptp(calm)) <= motion.still_lead * length


def _better(demand: Demand, bounds: Bounds) -> list[tuple[float, float]]:
    """What a still window may consider beyond the lead: whole words, then the clear area."""
    return [_common(_inside(keep, bounds)) for keep in (demand.words, demand.clear)
            if keep.asked.any()]


def _narrowed(
    room: tuple[float, float], wishes: list[tuple[float, float]]
) -> tuple[float, float]:
    """``room`` narrowed by each of ``wishes`` that leaves something of it."""
    for wish in wishes:
        both = _both(room, wish)
        room = both if both[0] <= both[1] else room
    return room


def _both(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float]:
    return max(a[0], b[0]), min(a[1], b[1])


def settled(at: float, bounds: Bounds) -> Array:
    """A still window at ``at``, its edge on an even pixel where its size does not change.

    Nobody sees the difference, and unscaled pixels stay untouched.
    """
    if np.ptp(bounds.sizes) == 0:
        half = bounds.size / 2
        even = 2.0 * round((at - half) / 2) + half
        if bounds.low[0] <= even <= bounds.high[0]:
            at = even
    return np.asarray(np.clip(np.full(len(bounds.sizes), at), bounds.low, bounds.high))


def _common(allowed: Array) -> tuple[float, float]:
    """Highest of the lows and lowest of the highs; everything where nothing is asked."""
    asked = allowed[~np.isnan(allowed[:, 0])]
    return (float(asked[:, 0].max(initial=-np.inf)), float(asked[:, 1].min(initial=np.inf)))


def _nearest(wish: float, room: tuple[float, float]) -> float:
    least, most = room
    return (least + most) / 2 if least > most else min(max(wish, least), most)


def _inside(keep: Interval, bounds: Bounds) -> Array:
    """The places (n, 2) that ``keep`` allows, moved into the bounds where they lie outside."""
    return np.asarray(
        np.clip(keep.places(bounds.sizes), bounds.low[:, None], bounds.high[:, None]))


def _solved(
    demand: Demand, bounds: Bounds, manner: Manner, motion: Motion, pins: dict[int, float]
) -> Array:
    limits = limits_for(manner, bounds.size, motion, len(bounds.sizes))
    channel = Channel(bounds.low, bounds.high, limits, pins)
    problem = Problem(len(bounds.sizes), (channel,), asked_along(demand, bounds, limits, motion))
    solved = with_minimum_dwell(
        problem, motion.least_rest_frames, bounds.turn_frames,
        (lambda found: _lost(demand, found[0], bounds),
         lambda found: _nearly_cut(demand.essential, found[0], bounds).mean()))
    return np.asarray(np.clip(solved.places[0], bounds.low, bounds.high))


def _lost(demand: Demand, places: Array, bounds: Bounds) -> float:
    """Share of the frames in which what must be seen, or a lead that would fit, is nearly cut."""
    return float((_nearly_cut(demand.essential, places, bounds)
                  | _nearly_cut(demand.extent, places, bounds)).mean())


def _nearly_cut(extent: Array, places: Array, bounds: Bounds) -> NDArray[np.bool_]:
    """Where an ``extent`` (n, 2) that would fit reaches the window's edge or lies beyond it, (n,).
    """
    half = (0.5 - SPARE) * bounds.sizes
    low, high = extent[:, 0], extent[:, 1]
    cut = (low < places - half) | (high > places + half)
    return np.asarray(cut & (high - low <= 2 * half))


def asked_along(
    demand: Demand, bounds: Bounds, limits: Limits, motion: Motion
) -> tuple[Soft, ...]:
    """The demand's rows for the solver, for windows of the bounds's sizes."""
    ones = {0: np.ones(len(bounds.sizes))}
    want = for_strides(demand.want, bounds.sizes, motion.stride_frames)
    made = []
    for keep, price in ((demand.must, limits.must), (want, limits.want),
                        (demand.clear, limits.clear), (demand.words, limits.words)):
        if price and keep.asked.any():
            inside = np.sort(_inside(keep, bounds), axis=1)  # never crossed: no row could be met
            made.append(Soft(ones, inside[:, 0], inside[:, 1], price))
    wish = np.clip(demand.wished(bounds.sizes), bounds.low, bounds.high)
    if not np.isnan(wish).all():
        made.append(Soft(ones, wish, wish, limits.wish, every=3 * limits.knot_frames))
    return tuple(made)


def for_strides(keep: Interval, sizes: Array, stride: int) -> Interval:
    """``keep`` narrowed so that limbs which swing out soon fit already.

    The room at each side of the lead's calmed middle becomes the least of the frames around it, so
    that the window follows the body and not each step.
    """
    asked = np.flatnonzero(keep.asked)
    if len(asked) < 3:
        return keep
    low, high = keep.places(sizes)[asked].T
    middle = gaussian_filter1d((low + high) / 2, stride / 2, mode="nearest")
    room = minimum_filter1d(middle - low, 2 * stride + 1, mode="nearest")
    above = minimum_filter1d(high - middle, 2 * stride + 1, mode="nearest")
    short = np.maximum(0.0, -(room + above)) / 2  # no room is left: aim between the two
    least, most = keep.least.copy(), keep.most.copy()
    least[asked] += middle - room - short - low
    most[asked] += middle + above + short - high
    return replace(keep, least=least, most=most)


def misses(keep: Interval, places: Array, bounds: Bounds, slack: float) -> float:
    """Share of asked frames in which ``places`` lie outside by more than ``slack`` pixels."""
    asked = keep.asked
    if not asked.any():
        return 0.0
    room = _inside(keep, bounds)
    below = room[asked, 0] - places[asked]
    above = places[asked] - room[asked, 1]
    return float((np.maximum(below, above) > slack).mean())
