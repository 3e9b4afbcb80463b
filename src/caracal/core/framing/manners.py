"""How the window moves along one axis: locked, glide or chase; auto picks the calmest."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d, minimum_filter1d

from caracal.core.framing.demand import Demand
from caracal.core.framing.motion import Manner, Motion, limits_for
from caracal.core.framing.solver import best_path

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Fence:
    """The range of the window's middle: ``low``, ``high`` (n,), for windows ``sizes`` (n,) long."""

    low: Array
    high: Array
    sizes: Array

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
    """Places (n,) of the middle along one axis and the manner that made them."""

    places: Array
    manner: Manner


def move_along(
    demand: Demand, fence: Fence, manner: Manner, motion: Motion,
    pins: dict[int, float] | None = None,
) -> Move:
    """The best places inside ``fence`` for the asked manner (auto: the calmest that keeps).

    ``pins`` hold exactly, by frame counted from the shot's first.
    """
    held = pins or {}
    middle = (fence.low + fence.high) / 2
    nothing_asked = np.isnan(demand.wish).all() and not held
    if fence.narrow or nothing_asked:
        return Move(middle if fence.narrow else _settled(float(np.median(middle)), fence),
                    Manner.LOCKED)
    still = _still(demand, fence, motion, held)
    if manner is Manner.LOCKED or (manner is Manner.AUTO and still.serves):
        return Move(_settled(still.at, fence), Manner.LOCKED)
    if manner in (Manner.GLIDE, Manner.AUTO):
        glide = _solved(demand, fence, Manner.GLIDE, motion, held)
        if manner is Manner.GLIDE or _glide_keeps(demand, glide, fence, motion):
            return Move(glide, Manner.GLIDE)
    return Move(_solved(demand, fence, Manner.CHASE, motion, held), Manner.CHASE)


def _glide_keeps(demand: Demand, glide: Array, fence: Fence, motion: Motion) -> bool:
    must = misses(demand.must, glide, fence, motion.missed * fence.size)
    want = misses(demand.want, glide, fence, 3 * motion.missed * fence.size)
    return max(must, want) <= motion.glide_misses


@dataclass(frozen=True)
class _Still:
    at: float
    serves: bool


def _still(demand: Demand, fence: Fence, motion: Motion, pins: dict[int, float]) -> _Still:
    """The best still window, and whether it keeps the lead through the whole shot."""
    size = fence.size
    low, high = float(fence.low.max()), float(fence.high.min())
    if low > high:  # the zoom changes so much that no one place stays inside the picture
        return _Still((low + high) / 2, False)
    if pins:
        places = list(pins.values())
        return _Still(float(np.clip(places[0], low, high)), max(places) - min(places) < 0.5)
    wish = float(np.clip(np.nanmedian(demand.wish), low, high))
    want = _common(_inside(demand.want, fence))
    must = _common(_inside(demand.must, fence))
    better = _better(demand, fence)
    if want[0] - want[1] <= motion.still_tolerance * size:
        both = _both(want, must)
        room = both if both[0] <= both[1] else want
        return _Still(_nearest(wish, _narrowed(room, better)), True)
    apart = want[0] - want[1]
    serves = must[0] <= must[1] and apart / 2 <= motion.still_want * size
    if serves:
        middle = (want[0] + want[1]) / 2
        return _Still(_nearest(middle, _narrowed(must, better)), True)
    return _Still(_nearest(wish, must), False)


def _better(demand: Demand, fence: Fence) -> list[tuple[float, float]]:
    """What a still window may consider beyond the lead: whole words, then the clear area."""
    return [_common(_inside(one, fence)) for one in (demand.words, demand.clear)
            if not np.isnan(one).all()]


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


def _settled(at: float, fence: Fence) -> Array:
    """A still window at ``at``, its edge on an even pixel where its size does not change.

    Nobody sees the difference, and unscaled pixels stay untouched.
    """
    if np.ptp(fence.sizes) == 0:
        half = fence.size / 2
        even = 2.0 * round((at - half) / 2) + half
        if fence.low[0] <= even <= fence.high[0]:
            at = even
    return np.asarray(np.clip(np.full(len(fence.sizes), at), fence.low, fence.high))


def _common(allowed: Array) -> tuple[float, float]:
    """Highest of the lows and lowest of the highs; everything where nothing is asked."""
    asked = allowed[~np.isnan(allowed[:, 0])]
    return (float(asked[:, 0].max(initial=-np.inf)), float(asked[:, 1].min(initial=np.inf)))


def _nearest(wish: float, room: tuple[float, float]) -> float:
    least, most = room
    return (least + most) / 2 if least > most else min(max(wish, least), most)


def _inside(allowed: Array, fence: Fence) -> Array:
    return np.asarray(np.clip(allowed, fence.low[:, None], fence.high[:, None]))


def _solved(
    demand: Demand, fence: Fence, manner: Manner, motion: Motion, pins: dict[int, float]
) -> Array:
    held = replace(
        demand, must=_inside(demand.must, fence), clear=_inside(demand.clear, fence),
        want=_inside(_for_strides(demand.want, motion.stride_frames), fence),
        wish=np.clip(demand.wish, fence.low, fence.high), words=_inside(demand.words, fence))
    return best_path(held, fence.low, fence.high, limits_for(manner, fence.size, motion), pins)


def _for_strides(allowed: Array, stride: int) -> Array:
    """``allowed`` places (n, 2) narrowed so that limbs which swing out soon fit already.

    The room at each side of the lead's calmed middle becomes the least of the frames around it, so
    that the window follows the body and not each step.
    """
    asked = np.flatnonzero(~np.isnan(allowed[:, 0]))
    if len(asked) < 3:
        return allowed
    low, high = allowed[asked, 0], allowed[asked, 1]
    middle = gaussian_filter1d((low + high) / 2, stride / 2, mode="nearest")
    least = minimum_filter1d(middle - low, 2 * stride + 1, mode="nearest")
    most = minimum_filter1d(high - middle, 2 * stride + 1, mode="nearest")
    short = np.maximum(0.0, -(least + most)) / 2  # no room is left: aim between the two
    narrowed = allowed.copy()
    narrowed[asked, 0] = middle - least - short
    narrowed[asked, 1] = middle + most + short
    return narrowed


def misses(allowed: Array, places: Array, fence: Fence, slack: float) -> float:
    """Share of asked frames in which ``places`` lie outside by more than ``slack`` pixels."""
    room = _inside(allowed, fence)
    asked = ~np.isnan(allowed[:, 0])
    if not asked.any():
        return 0.0
    below = room[asked, 0] - places[asked]
    above = places[asked] - room[asked, 1]
    return float((np.maximum(below, above) > slack).mean())
