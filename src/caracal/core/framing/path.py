"""From choices to a window for every frame: shot by shot, nothing carried over a cut."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis, FoundShot, Track
from caracal.core.framing.attention import best_place
from caracal.core.framing.choice import Keyframe, ShotChoice, through_keys, zooms
from caracal.core.framing.demand import WHOLE_WINDOW, Demand, demand_along, words_demand
from caracal.core.framing.geometry import Frame, window_size
from caracal.core.framing.lead import Subject, choose_lead, company
from caracal.core.framing.manners import Fence, Move, move_along
from caracal.core.framing.motion import Manner, Motion

Array = NDArray[np.float64]

STILL_FACE = 0.8  # of its width: a face whose middle wanders less stays where it is
CALM_ORDER = (Manner.LOCKED, Manner.GLIDE, Manner.CHASE, Manner.BY_HAND)


@dataclass(frozen=True)
class ShotPath:
    """The window over one shot: ``windows`` (n, 4) as x, y, w, h for frames from ``start``.

    ``leads`` says from which frame on which subject is kept (None: nobody leads). ``across`` is
    the demand along the axis in which the window has most room, for the path strip (None without
    a lead); ``axis`` says which that is.
    """

    start: int
    windows: Array
    manner: Manner
    leads: tuple[tuple[int, int | None], ...]
    across: Demand | None
    axis: int

    @property
    def end(self) -> int:
        """The frame after the last."""
        return self.start + len(self.windows)

    @property
    def lead(self) -> int | None:
        """The first subject that is kept."""
        return self.leads[0][1]

    def lead_at(self, frame: int) -> int | None:
        """The subject that is kept at ``frame``."""
        return next((lead for first, lead in reversed(self.leads) if first <= frame), self.lead)

    @property
    def still(self) -> bool:
        """Whether the window does not move at all."""
        return bool((self.windows == self.windows[0]).all())


STANDARD = Motion()


def shot_path(
    analysis: Analysis, shot: int, frame: Frame, choice: ShotChoice, motion: Motion = STANDARD
) -> ShotPath:
    """The window over shot number ``shot`` in a version's ``frame`` under ``choice``.

    At each swap the window jumps: the parts between swaps are solved apart, like shots.
    """
    found = analysis.shots[shot]
    swaps = [one for one in sorted(choice.swaps, key=lambda one: one.frame)
             if found.start < one.frame < found.end]
    edges = [found.start, *(one.frame for one in swaps), found.end]
    leads = [choice.lead, *(one.lead for one in swaps)]
    parts = []
    for (start, end), lead in zip(pairwise(edges), leads, strict=True):
        piece = msgspec.structs.replace(found, start=start, end=end)
        here = msgspec.structs.replace(choice, lead=lead, swaps=())
        parts.append(_Part(analysis, shot, piece, frame, here, motion).path())
    return parts[0] if len(parts) == 1 else _joined(parts)


def _joined(parts: list[ShotPath]) -> ShotPath:
    demands = [part.across for part in parts if part.across is not None]
    across = None
    if len(demands) == len(parts):
        across = Demand(*(np.concatenate([getattr(one, name) for one in demands])
                          for name in Demand.__dataclass_fields__))
    return ShotPath(
        parts[0].start, np.concatenate([part.windows for part in parts]),
        max((part.manner for part in parts), key=CALM_ORDER.index),
        tuple(lead for part in parts for lead in part.leads), across, parts[0].axis)


class _Part:
    """One shot, or the part of it between two swaps, in one version."""

    def __init__(self, analysis: Analysis, shot: int, found: FoundShot, frame: Frame,
                 choice: ShotChoice, motion: Motion) -> None:
        self._analysis, self._shot, self._found = analysis, shot, found
        self._frame, self._choice, self._motion = frame, choice, motion
        self._keys = tuple(sorted(choice.keyframes, key=lambda one: one.frame))
        whole = np.array(window_size(frame.shape, analysis.active))
        self._sizes = whole[None, :] / zooms(choice, found.start, found.frames)[:, None]

    def path(self) -> ShotPath:
        """Keyframes by hand, else the best place without a lead, else the solved path."""
        analysis, active = self._analysis, self._analysis.active
        room = [active[i + 2] - float(self._sizes[:, i].max()) for i in (0, 1)]
        axis = 0 if room[0] >= room[1] else 1
        lead = choose_lead(analysis, self._shot, self._choice.lead, self._choice.ignored)
        demands = self._demands(lead)
        shown = demands[axis] if lead is not None else None
        number = lead.id if lead is not None else None
        leads = ((self._found.start, number),)
        if self._choice.manner is Manner.BY_HAND and self._keys:
            return ShotPath(self._found.start, self._by_hand(), Manner.BY_HAND, leads, shown, axis)
        moves = [self._move(i, demands[i]) for i in (0, 1)]
        manner = max((move.manner for move in moves), key=CALM_ORDER.index)
        middles = np.stack([move.places for move in moves], axis=1)
        return ShotPath(self._found.start, self._windows(middles), manner, leads, shown, axis)

    def _demands(self, lead: Subject | None) -> tuple[Demand, Demand]:
        words = (*self._analysis.words_in(self._shot), *self._still_faces(lead))
        if lead is None:
            demands = [self._no_demand(i) for i in (0, 1)]
        else:
            others = company(self._analysis, self._shot, lead, self._choice)
            demands = [
                demand_along(i, self._found, lead, others, self._sizes[:, i],
                             self._frame.clear[i] if self._frame.clear else WHOLE_WINDOW)
                for i in (0, 1)
            ]
        made = []
        for i, one in enumerate(demands):
            fence = self._fence(i)
            held = words_demand(self._found, words, i, self._sizes[:, i], one.must,
                                (fence.low, fence.high))
            made.append(Demand(one.must, one.want, one.clear, one.wish, one.extent, held))
        return made[0], made[1]

    def _still_faces(self, lead: Subject | None) -> list[Track]:
        """Faces of others that stay where they are: like words, an edge should not cut them."""
        found = []
        for one in self._analysis.tracks_in(self._shot):
            if one.kind == "face" and (lead is None or one.subject != lead.id):
                boxes = np.array(one.boxes)
                drift = float(np.ptp(boxes[:, 0] + boxes[:, 2] / 2))
                if drift < STILL_FACE * float(np.median(boxes[:, 2])):
                    found.append(one)
        return found

    def _no_demand(self, axis: int) -> Demand:
        """Nobody leads: only the most telling place is wished for."""
        frames = self._found.frames
        nothing = np.full((frames, 2), np.nan)
        size = (float(np.median(self._sizes[:, 0])), float(np.median(self._sizes[:, 1])))
        near = best_place(self._analysis, self._shot, size)
        wish = np.full(frames, near[axis] + size[axis] / 2)
        return Demand(nothing, nothing, nothing, wish, nothing, nothing)

    def _fence(self, axis: int) -> Fence:
        active, sizes = self._analysis.active, self._sizes[:, axis]
        return Fence(active[axis] + sizes / 2, active[axis] + active[axis + 2] - sizes / 2, sizes)

    def _move(self, axis: int, demand: Demand) -> Move:
        manner = self._choice.manner
        pins = {one.frame - self._found.start: one.centre[axis] for one in self._keys
                if self._found.start <= one.frame < self._found.end}
        return move_along(demand, self._fence(axis),
                          Manner.AUTO if manner is Manner.BY_HAND else manner, self._motion, pins)

    def _by_hand(self) -> Array:
        centres = np.array([one.centre for one in self._keys], np.float64)
        return self._windows(
            through_keys(self._keys, centres, self._found.start, self._found.frames))

    def _windows(self, middles: Array) -> Array:
        """Windows (n, 4) round ``middles`` (n, 2), kept inside the active picture."""
        active = np.array(self._analysis.active)
        near = np.clip(middles - self._sizes / 2, active[:2], active[:2] + active[2:] - self._sizes)
        return np.hstack([near, self._sizes])


def film_path(
    analysis: Analysis, frame: Frame, choices: dict[int, ShotChoice] | None = None,
    motion: Motion = STANDARD,
) -> tuple[ShotPath, ...]:
    """The paths of all shots in order; ``choices`` by shot number, automatic where absent."""
    chosen = choices or {}
    return tuple(
        shot_path(analysis, i, frame, chosen.get(i, ShotChoice()), motion)
        for i in range(len(analysis.shots))
    )


def windows_of(paths: tuple[ShotPath, ...]) -> Array:
    """All windows of a film, (frames, 4)."""
    return np.concatenate([path.windows for path in paths])


def key_at(path: ShotPath, frame: int) -> Keyframe:
    """A keyframe that holds the window as ``path`` has it at ``frame``."""
    x, y, w, h = (float(value) for value in path.windows[frame - path.start])
    return Keyframe(frame, (round(x + w / 2, 2), round(y + h / 2, 2)))
