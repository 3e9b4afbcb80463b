"""From choices to a window for every frame: shot by shot, nothing carried over a cut."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis, FoundShot, Track
from caracal.core.analysis.tracking.global_motion import GlobalMotion
from caracal.core.base.geometry import (
    Box,
    FramingSpec,
    enlargement,
    rotated_extent,
    window_size,
)
from caracal.core.framing.attention import best_place
from caracal.core.framing.auto_zoom import Room, auto_zoom
from caracal.core.framing.choice import (
    PLAIN,
    Finish,
    Keyframe,
    ShotChoice,
    interpolate_keyframes,
    zooms,
)
from caracal.core.framing.demand import (
    WHOLE_WINDOW,
    Demand,
    demand_along,
    extents,
    joined,
    no_demand,
    words_demand,
)
from caracal.core.framing.lead import Subject, choose_lead, company
from caracal.core.framing.manners import Move, move_along
from caracal.core.framing.motion import Manner, Motion

Array = NDArray[np.float64]

STILL_FACE = 0.8  # of its width: a face whose middle wanders less stays where it is
ALL_OF_IT = 0.98  # of the picture, along both axes: nothing to speak of is cut away
AT_EDGE = 0.02  # of the picture's width: so near to its side a lead is about to leave
GOING_S = 1.6  # from where a lead left to the most telling place
WORTH_GOING_S = 1.0  # that must be left of the shot then
CALM_ORDER = (Manner.LOCKED, Manner.GLIDE, Manner.CHASE, Manner.BY_HAND)


@dataclass(frozen=True)
class ShotPath:
    """The window over one shot: ``windows`` (n, 4) as x, y, w, h for frames from ``start``.

    ``leads`` says from which frame on which subject is kept (None: nobody leads). ``across`` is
    the demand along the axis in which the window has most room, for the path strip (None without
    a lead); ``axis`` says which that is. ``closer`` is the zoom it took by itself, at most.
    A window leans by ``finish.straighten`` degrees
    anticlockwise, so that its picture is turned clockwise. ``jumps`` are the frames at which it
    jumps without being asked to move: swaps, and punch-ins and their ends. ``punches`` are the
    frames [first, end) of punch-ins; ``manner`` is that of the rest. ``outrun`` says that the lead
    is quicker than any window within the limits.
    """

    start: int
    windows: Array
    manner: Manner
    leads: tuple[tuple[int, int | None], ...]
    across: Demand | None
    axis: int
    closer: float = 1.0
    finish: Finish = PLAIN
    jumps: tuple[int, ...] = ()
    punches: tuple[tuple[int, int], ...] = ()
    outrun: bool = False

    @property
    def end(self) -> int:
        """The frame after the last."""
        return self.start + len(self.windows)

    def window(self, frame: int) -> Box:
        """Returns the window (x, y, w, h) at ``frame``, in master pixels."""
        x, y, w, h = self.windows[frame - self.start].tolist()
        return (x, y, w, h)

    @property
    def lead(self) -> int | None:
        """The id of the subject that the shot begins with; None: nobody leads."""
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
    analysis: Analysis, shot: int, frame: FramingSpec, choice: ShotChoice, motion: Motion = STANDARD
) -> ShotPath:
    """The window over shot number ``shot`` in a version's ``frame`` under ``choice``.

    At each swap and punch-in the window jumps: the parts between are solved apart, like shots.
    """
    found = analysis.shots[shot]
    parts = []
    for start, end, here in _pieces(found, choice):
        piece = msgspec.structs.replace(found, start=start, end=end)
        parts.append(_Part(analysis, shot, piece, frame, here, motion).path())
    punches = tuple((max(punch.frame, found.start), min(punch.end_exclusive, found.end))
                    for punch in choice.punches)
    return parts[0] if len(parts) == 1 else _joined(parts, punches)


def _pieces(found: FoundShot, choice: ShotChoice) -> list[tuple[int, int, ShotChoice]]:
    """(start, end, choice) of the parts of a shot between its jumps."""
    swaps = sorted(choice.swaps, key=lambda swap: swap.frame)
    edges = {swap.frame for swap in swaps}
    edges |= {at for punch in choice.punches for at in (punch.frame, punch.end_exclusive)}
    inside = sorted(at for at in edges if found.start < at < found.end)
    made = []
    for start, end in pairwise([found.start, *inside, found.end]):
        lead = next((swap.lead for swap in reversed(swaps) if swap.frame <= start), choice.lead)
        here = msgspec.structs.replace(choice, lead=lead, swaps=(), punches=())
        punch = next((punch for punch in reversed(choice.punches)
                      if punch.frame <= start < punch.end_exclusive), None)
        if punch is not None:
            here = msgspec.structs.replace(
                here, zoom=punch.zoom, push=1.0, manner=Manner.BY_HAND,
                keyframes=(Keyframe(start, punch.centre),))
        made.append((start, end, here))
    return made


def _joined(parts: list[ShotPath], punches: tuple[tuple[int, int], ...]) -> ShotPath:
    demands = [part.across for part in parts if part.across is not None]
    across = joined(demands) if len(demands) == len(parts) else None
    leads = [parts[0].leads[0]]
    for part in parts[1:]:
        if part.leads[0][1] != leads[-1][1]:
            leads.append(part.leads[0])
    rest = [part for part in parts if not any(a <= part.start < b for a, b in punches)] or parts
    return ShotPath(
        parts[0].start, np.concatenate([part.windows for part in parts]),
        max((part.manner for part in rest), key=CALM_ORDER.index), tuple(leads), across,
        parts[0].axis, max(part.closer for part in rest), parts[0].finish,
        tuple(part.start for part in parts[1:]), punches, any(part.outrun for part in parts))


class _Part:
    """One shot, or the part of it between two swaps, in one version."""

    def __init__(self, analysis: Analysis, shot: int, found: FoundShot, frame: FramingSpec,
                 choice: ShotChoice, motion: Motion) -> None:
        self._analysis, self._shot, self._found = analysis, shot, found
        self._choice, self._motion = choice, motion
        self._frame = frame.turned(choice.finish.quarter_turns)
        self._keys = tuple(sorted(choice.keyframes, key=lambda keyframe: keyframe.frame))
        lean = choice.finish.straighten
        whole = np.array(window_size(self._frame.shape, analysis.active, 1.0, lean))
        whole_shot = analysis.shots[shot].start, analysis.shots[shot].end
        self._sizes = whole[None, :] / zooms(
            choice, found.start, found.frames, whole_shot)[:, None]
        self._room = Room(analysis.active, self._sizes, rotated_extent(self._frame.shape, lean),
                          self._closest((float(whole[0]), float(whole[1]))),
                          round(motion.least_turn_s * float(analysis.master.rate)))

    def _closest(self, whole: tuple[float, float]) -> float:
        """How far the window may come closer by itself; 1 where a person decides the zoom."""
        decided = (self._choice.zoom is not None or self._keys or self._choice.push != 1
                   or self._choice.finish.quarter_turns)
        active = self._analysis.active
        all_of_it = min(whole[0] / active[2], whole[1] / active[3]) > ALL_OF_IT
        if decided or all_of_it or self._frame.canvas is None:
            return 1.0  # a version of the master's own shape is shown as it was made
        grown = enlargement(self._frame.canvas, (0.0, 0.0, *whole))
        return min(self._motion.closest, self._motion.enlarged_past / grown)

    def path(self) -> ShotPath:
        """Keyframes by hand, else the best place without a lead, else the solved path."""
        analysis, active = self._analysis, self._analysis.active
        room = [active[i + 2] - float(self._sizes[:, i].max()) for i in (0, 1)]
        axis = 0 if room[0] >= room[1] else 1
        lead = choose_lead(analysis, self._shot, self._choice.lead, self._choice.ignored)
        number = lead.id if lead is not None else None
        leads, start = ((self._found.start, number),), self._found.start
        demands = self._demands(lead)
        shown = demands[axis] if lead is not None else None
        finish = self._choice.finish
        if self._choice.manner is Manner.BY_HAND and self._keys:
            return ShotPath(start, self._by_hand(), Manner.BY_HAND, leads, shown, axis,
                            finish=finish)
        moves = self._move(0, demands[0]), self._move(1, demands[1])
        manner = max((move.manner for move in moves), key=CALM_ORDER.index)
        windows = self._windows(np.stack([move.places for move in moves], axis=1), self._sizes)
        if lead is not None and lead.body is not None:
            height = np.diff(extents(self._found, lead.body.box_at, 1), axis=1)[:, 0]
            near = None
            if not np.isnan(height).all():
                near = auto_zoom(demands, self._room, moves, height, self._motion)
            windows = windows if near is None else self._windows(near.middles, near.sizes)
        closer = float((self._sizes[:, 0] / windows[:, 2]).max())
        return ShotPath(start, windows, manner, leads, shown, axis, closer, finish,
                        outrun=any(move.outrun for move in moves))

    def _demands(self, lead: Subject | None) -> tuple[Demand, Demand]:
        words = (*self._analysis.words_in(self._shot), *self._still_faces(lead))
        if lead is None:
            demands = [self._no_demand(i) for i in (0, 1)]
        else:
            others = company(self._analysis, self._shot, lead, self._choice)
            camera = GlobalMotion.of_shot(self._analysis, self._found.start, self._found.end)
            demands = [
                demand_along(i, self._found, lead, others, self._sizes[:, i],
                             self._frame.clear[i] if self._frame.clear else WHOLE_WINDOW,
                             camera, self._analysis.active[1] + self._analysis.active[3])
                for i in (0, 1)
            ]
        made = []
        for i, demand in enumerate(demands):
            fence = self._room.fence(i)
            held = words_demand(self._found, words, i, fence.sizes, demand.must.places(fence.sizes),
                                (fence.low, fence.high))
            made.append(replace(demand, words=held, after=self._after(i, lead)))
        return made[0], made[1]

    def _after(self, axis: int, lead: Subject | None) -> Array:
        """Where the window is to be after its lead left the picture for good, (n,).

        It stays for a moment, as before any turn, and then comes to rest on the most telling place.
        """
        after = np.full(self._found.frames, np.nan)
        if lead is None:
            return after
        rate, wide = float(self._analysis.master.rate), self._analysis.master.width
        box, gone = lead.main.boxes[-1], max(0, lead.main.end_frame - self._found.start)
        stays = gone + self._room.turn_frames
        there = stays + round(GOING_S * rate)
        at_edge = box[0] <= AT_EDGE * wide or box[0] + box[2] >= (1 - AT_EDGE) * wide
        if at_edge and len(after) - there >= WORTH_GOING_S * rate:
            fence = self._room.fence(axis)
            after[gone:stays] = np.clip(box[axis] + box[axis + 2] / 2, fence.low, fence.high)[
                gone:stays]
            after[there:] = self._no_demand(axis).wish[there:]
        return after

    def _still_faces(self, lead: Subject | None) -> list[Track]:
        """Faces of others that stay where they are: like words, an edge should not cut them."""
        found = []
        for track in self._analysis.tracks_in(self._shot):
            if track.kind == "face" and (lead is None or track.subject != lead.id):
                boxes = np.array(track.boxes)
                drift = float(np.ptp(boxes[:, 0] + boxes[:, 2] / 2))
                if drift < STILL_FACE * float(np.median(boxes[:, 2])):
                    found.append(track)
        return found

    def _no_demand(self, axis: int) -> Demand:
        """Nobody leads: only the most telling place is wished for."""
        frames = self._found.frames
        size = (float(np.median(self._sizes[:, 0])), float(np.median(self._sizes[:, 1])))
        near = best_place(self._analysis, self._shot, size)
        return no_demand(frames, np.full(frames, near[axis] + size[axis] / 2))

    def _move(self, axis: int, demand: Demand) -> Move:
        manner = self._choice.manner
        pins = {key.frame - self._found.start: key.centre[axis] for key in self._keys
                if self._found.start <= key.frame < self._found.end}
        return move_along(demand, self._room.fence(axis),
                          Manner.AUTO if manner is Manner.BY_HAND else manner, self._motion, pins)

    def _by_hand(self) -> Array:
        centres = np.array([key.centre for key in self._keys], np.float64)
        return self._windows(
            interpolate_keyframes(self._keys, centres, self._found.start, self._found.frames),
            self._sizes,
        )

    def _windows(self, middles: Array, sizes: Array) -> Array:
        """Windows (n, 4) round ``middles`` (n, 2), kept inside the active picture."""
        active, half = (
            np.array(self._analysis.active),
            sizes * np.array(self._room.rotated_extent) / 2,
        )
        held = np.clip(middles, active[:2] + half, active[:2] + active[2:] - half)
        return np.hstack([held - sizes / 2, sizes])


def film_path(
    analysis: Analysis, frame: FramingSpec, choices: dict[int, ShotChoice] | None = None,
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
