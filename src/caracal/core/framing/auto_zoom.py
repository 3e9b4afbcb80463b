"""When a window comes closer by itself: its middle and its size are found together.

The widest window is the calmest choice and stays unless coming closer brings something a viewer
needs: the lead's face out from under the destination's own interface, or a lead that is large
enough to be seen on a phone. It never comes so close that the picture turns soft.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from caracal.core.base.geometry import Box
from caracal.core.framing.demand import Demand, Interval
from caracal.core.framing.manners import Bounds, Move, best_still, for_strides, misses
from caracal.core.framing.minimum_dwell import with_minimum_dwell
from caracal.core.framing.motion import Limits, Manner, Motion, limits_for
from caracal.core.framing.solver import Channel, Hard, Problem, Soft

Array = NDArray[np.float64]

WORTH = 1.15  # a zoom below is softness without a gain that anybody sees
STEPS = 9  # sizes of still windows that are tried
MISSED_CLEAR = 0.1  # of the frames: the clear area is missed
MET_CLEAR = 0.02  # of the frames: it is kept
WIDE_PRICE = 0.05  # of the price of a missed clear area, for a pixel by which the window is smaller
MORE_MISSES = 0.005  # of the frames in which coming closer may lose the lead more than before


@dataclass(frozen=True)
class Room:
    """Where windows may be: ``active`` picture, ``sizes`` (n, 2) of the widest window, how much
    more room a leaning one takes (``rotated_extent``), the ``closest`` zoom, and the frames
    within which it does not turn round."""

    active: Box
    sizes: Array
    rotated_extent: tuple[float, float]
    closest: float
    turn_frames: int = 0

    def fence(self, axis: int, share: float = 1.0) -> Bounds:
        """The fence along ``axis`` of windows ``share`` as large as the widest."""
        sizes = self.sizes[:, axis] * share
        half = sizes * self.rotated_extent[axis] / 2
        start, length = self.active[axis], self.active[axis + 2]
        return Bounds(start + half, start + length - half, sizes, self.turn_frames)


@dataclass(frozen=True)
class Window:
    """Middles and sizes (n, 2) of a window that came closer."""

    middles: Array
    sizes: Array


def auto_zoom(
    demands: tuple[Demand, Demand], room: Room, moves: tuple[Move, Move], height: Array,
    motion: Motion,
) -> Window | None:
    """A closer window that is worth it, or None. ``height`` (n,) is the lead's, NaN where unseen.

    ``moves`` are the best moves of the widest window.
    """
    if room.closest < WORTH:
        return None
    wanted = float(np.nanmedian(height)) / (motion.least_lead * float(np.median(room.sizes[:, 1])))
    size_share = max(wanted, 1 / room.closest)
    manner = max((move.manner for move in moves), key=list(Manner).index)
    # A quick subject needs the room round it more than it needs to be large.
    small = size_share <= 1 / WORTH and manner is not Manner.CHASE
    covered = _clear_misses(demands, room, moves) > MISSED_CLEAR
    if not small and not covered:
        return None
    if manner is Manner.LOCKED:
        return _still(demands, room, size_share if small else None, covered, motion)
    return _moving(demands, room, moves, manner, size_share if small else None, motion)


def _clear_misses(demands: tuple[Demand, Demand], room: Room, moves: tuple[Move, Move]) -> float:
    return max(_missed(demands[i].clear, moves[i].places, room.fence(i)) for i in (0, 1))


def _missed(keep: Interval, places: Array, fence: Bounds) -> float:
    """Share of asked frames missed; what no place in the fence can reach is missed too."""
    if not keep.asked.any():
        return 0.0
    low, high = keep.places(fence.sizes)[keep.asked].T
    at = places[keep.asked]
    slack = 0.005 * fence.size
    return float(((at < low - slack) | (at > high + slack)).mean())


def _still(
    demands: tuple[Demand, Demand], room: Room, wanted: float | None, covered: bool,
    motion: Motion,
) -> Window | None:
    """The widest still window that brings what is wanted and keeps the lead, if there is one."""
    least = 1 / room.closest
    for share in np.linspace(1.0, least, STEPS)[1:]:
        if wanted is not None and share > max(wanted, least) + (1 - least) / STEPS:
            continue
        fences = [room.fence(i, share) for i in (0, 1)]
        found = [best_still(demands[i], fences[i], motion) for i in (0, 1)]
        if not all(still.serves for still in found):
            return None
        frames = len(room.sizes)
        places = [np.full(frames, still.at) for still in found]
        clear = max(_missed(demands[i].clear, places[i], fences[i]) for i in (0, 1))
        if (covered and clear <= MET_CLEAR) or (wanted is not None and not covered):
            return Window(np.stack(places, 1), room.sizes * share)
    return None


def _moving(
    demands: tuple[Demand, Demand], room: Room, moves: tuple[Move, Move], manner: Manner,
    wanted: float | None, motion: Motion,
) -> Window | None:
    """Middle and width solved together; None when that keeps the lead less well than before."""
    frames = len(room.sizes)
    widest = room.sizes[:, 0]
    per_width = (1.0, float(room.sizes[0, 1] / room.sizes[0, 0]))
    fences = [room.fence(i) for i in (0, 1)]
    limits = [limits_for(manner, fence.size, motion, frames) for fence in fences]
    zooming = limits_for(Manner.GLIDE, float(widest[0]), motion)
    least = 1 / room.closest
    near = [room.fence(i, least) for i in (0, 1)]
    channels = (*(Channel(near[i].low, near[i].high, limits[i], {}) for i in (0, 1)),
                Channel(widest * least, widest, zooming, {}))
    softs = [soft for i in (0, 1)
             for soft in _asked(i, demands[i], fences[i], limits[i], per_width[i], motion)]
    target = widest * (least if wanted is None else max(wanted, least))
    price = WIDE_PRICE * limits[0].clear
    softs.append(Soft({2: np.ones(frames)}, widest, np.full(frames, np.nan), price,
                      every=3 * limits[0].knot_frames))
    if wanted is not None:
        softs.append(Soft({2: np.ones(frames)}, np.full(frames, np.nan), target, 3 * price))
    hards = []
    for i in (0, 1):
        half = room.rotated_extent[i] * per_width[i] / 2
        start, end = room.active[i], room.active[i] + room.active[i + 2]
        hards += [Hard({i: 1.0, 2: -half}, start, np.inf), Hard({i: 1.0, 2: half}, -np.inf, end)]
    places = with_minimum_dwell(Problem(frames, channels, tuple(softs), tuple(hards)),
                    motion.least_rest_frames, room.turn_frames).places
    share = np.clip(places[2] / widest, least, 1.0)
    window = Window(places[:2].T, room.sizes * share[:, None])
    return window if _worth_it(demands, room, moves, window, wanted, motion) else None


def _asked(
    axis: int, demand: Demand, fence: Bounds, limits: Limits, per_width: float, motion: Motion
) -> list[Soft]:
    """The demand's rows in terms of the middle (channel ``axis``) and the width (channel 2)."""
    none = np.full(len(fence.sizes), np.nan)
    ones = np.ones(len(fence.sizes))
    want = for_strides(demand.want, fence.sizes, motion.stride_frames)
    made = []
    for keep, price in ((demand.must, limits.must), (want, limits.want),
                        (demand.clear, limits.clear), (demand.words, limits.words)):
        if price and keep.asked.any():
            made += [Soft({axis: ones, 2: keep.least_share * per_width}, keep.least, none, price),
                     Soft({axis: ones, 2: -keep.most_share * per_width}, none, keep.most, price)]
    if not np.isnan(demand.wish).all():
        made.append(Soft({axis: ones, 2: -demand.wish_share * per_width}, demand.wish, demand.wish,
                         limits.wish, every=3 * limits.knot_frames))
    return made


def _worth_it(
    demands: tuple[Demand, Demand], room: Room, moves: tuple[Move, Move], window: Window,
    wanted: float | None, motion: Motion,
) -> bool:
    """Whether the closer window keeps the lead as well and brings what it came for."""
    shares = window.sizes[:, 0] / room.sizes[:, 0]
    if float(np.median(shares)) > 1 / WORTH:
        return False
    clear = 0.0
    for i in (0, 1):
        wide = room.fence(i)
        half = window.sizes[:, i] * room.rotated_extent[i] / 2
        start, length = room.active[i], room.active[i + 2]
        near = Bounds(start + half, start + length - half, window.sizes[:, i])
        places = np.clip(window.middles[:, i], near.low, near.high)
        slack = motion.missed * wide.size
        for keep in (demands[i].must, demands[i].want):
            before = misses(keep, moves[i].places, wide, slack)
            if misses(keep, places, near, slack) > before + MORE_MISSES:
                return False
        clear = max(clear, _missed(demands[i].clear, places, near))
    return wanted is not None or clear <= MISSED_CLEAR
