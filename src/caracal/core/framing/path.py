"""From choices to a window for every frame: shot by shot, nothing carried over a cut."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis, Box
from caracal.core.framing.attention import best_place
from caracal.core.framing.demand import Demand, demand_along
from caracal.core.framing.geometry import Shape, keep_inside, window_size
from caracal.core.framing.lead import choose_lead, company
from caracal.core.framing.manners import Manner, move_along

Array = NDArray[np.float64]

CALM_ORDER = (Manner.LOCKED, Manner.GLIDE, Manner.CHASE, Manner.BY_HAND)


class Keyframe(msgspec.Struct, frozen=True):
    """A hand-set middle of the window at a frame, in master pixels."""

    frame: int
    centre: tuple[float, float]


class ShotChoice(msgspec.Struct, frozen=True):
    """What a person (or nobody: the defaults) decided for one shot in one shape."""

    lead: int | None = None
    manner: Manner = Manner.AUTO
    zoom: float = 1.0
    keyframes: tuple[Keyframe, ...] = ()

    @property
    def touched(self) -> bool:
        """Whether anything differs from the automatic framing."""
        return self != ShotChoice()


@dataclass(frozen=True)
class ShotPath:
    """The window over one shot: ``windows`` (n, 4) as x, y, w, h for frames from ``start``.

    ``across`` is the demand along the axis in which the window has most room, for the path strip
    (None without a lead); ``axis`` says which that is.
    """

    start: int
    windows: Array
    manner: Manner
    lead: int | None
    across: Demand | None
    axis: int

    @property
    def end(self) -> int:
        """The frame after the last."""
        return self.start + len(self.windows)

    @property
    def still(self) -> bool:
        """Whether the window does not move at all."""
        return bool((self.windows == self.windows[0]).all())


def shot_path(analysis: Analysis, shot: int, shape: Shape, choice: ShotChoice) -> ShotPath:
    """The window over shot number ``shot`` in ``shape`` under ``choice``."""
    found, active = analysis.shots[shot], analysis.active
    size = window_size(shape, active, choice.zoom)
    axis = 0 if active[2] - size[0] >= active[3] - size[1] else 1
    lead = choose_lead(analysis, shot, choice.lead)
    demands: tuple[Demand, ...] = ()
    if lead is not None:
        others = company(analysis, shot, lead)
        demands = tuple(demand_along(i, found, lead, others, size[i]) for i in (0, 1))
    shown = demands[axis] if demands else None
    number = lead.id if lead is not None else None
    if choice.manner is Manner.BY_HAND and choice.keyframes:
        windows = _by_hand(choice.keyframes, found.start, found.frames, size, active)
        return ShotPath(found.start, windows, Manner.BY_HAND, number, shown, axis)
    if not demands:
        x, y = best_place(analysis, shot, size)
        window = keep_inside(x, y, size, active)
        windows = np.tile(np.array(window), (found.frames, 1))
        return ShotPath(found.start, windows, Manner.LOCKED, None, None, axis)
    moves = [
        move_along(demands[i], active[i], active[i] + active[i + 2] - size[i], size[i],
                   Manner.AUTO if choice.manner is Manner.BY_HAND else choice.manner)
        for i in (0, 1)
    ]
    manner = max((move.manner for move in moves), key=CALM_ORDER.index)
    sizes = np.tile(np.array(size), (found.frames, 1))
    places = np.stack([move.positions for move in moves], axis=1)
    return ShotPath(found.start, np.hstack([places, sizes]), manner, number, shown, axis)


def _by_hand(
    keyframes: tuple[Keyframe, ...], start: int, count: int, size: tuple[float, float], active: Box
) -> Array:
    """Windows through the keyframes, eased between them and held before and after."""
    ordered = sorted(keyframes, key=lambda one: one.frame)
    at = np.array([one.frame for one in ordered], np.float64)
    centres = np.array([one.centre for one in ordered], np.float64)
    wanted = np.clip(np.arange(start, start + count, dtype=np.float64), at[0], at[-1])
    before = np.clip(np.searchsorted(at, wanted, side="right") - 1, 0, len(at) - 1)
    after = np.minimum(before + 1, len(at) - 1)
    span = np.maximum(at[after] - at[before], 1)
    share = (wanted - at[before]) / span
    eased = (share * share * (3 - 2 * share))[:, None]
    middles = centres[before] * (1 - eased) + centres[after] * eased
    return np.array([
        keep_inside(x - size[0] / 2, y - size[1] / 2, size, active) for x, y in middles
    ])


def film_path(
    analysis: Analysis, shape: Shape, choices: dict[int, ShotChoice] | None = None
) -> tuple[ShotPath, ...]:
    """The paths of all shots in order; ``choices`` by shot number, automatic where absent."""
    chosen = choices or {}
    return tuple(
        shot_path(analysis, i, shape, chosen.get(i, ShotChoice()))
        for i in range(len(analysis.shots))
    )


def windows_of(paths: tuple[ShotPath, ...]) -> Array:
    """All windows of a film, (frames, 4)."""
    return np.concatenate([path.windows for path in paths])
