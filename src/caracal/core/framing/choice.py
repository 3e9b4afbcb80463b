"""What a person (or nobody: the defaults) decided for one shot in one version."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.translation import mark
from caracal.core.framing.motion import Manner
from caracal.core.layout.model import FILL, Layout, Role

Array = NDArray[np.float64]


class Interpolation(StrEnum):
    """How the window goes from one keyframe to the next."""

    EASED = mark("eased")
    STRAIGHT = mark("straight")
    HOLD = mark("hold")


class Keyframe(msgspec.Struct, frozen=True):
    """A hand-set window at a frame: its middle in master pixels, and its zoom.

    ``zoom`` None leaves the shot's zoom. ``interpolation`` is the way to the next keyframe.
    """

    frame: int
    centre: tuple[float, float]
    zoom: float | None = None
    interpolation: Interpolation = msgspec.field(default=Interpolation.EASED, name="joint")


class Swap(msgspec.Struct, frozen=True):
    """From ``frame`` on the window keeps subject ``lead``: a clean jump, never a pan."""

    frame: int
    lead: int


class Punch(msgspec.Struct, frozen=True):
    """A punch-in: from ``frame`` to ``end_exclusive`` a still, closer window round ``centre``."""

    frame: int
    end_exclusive: int
    centre: tuple[float, float]
    zoom: float


class Finish(msgspec.Struct, frozen=True):
    """How the window's picture is finished on the canvas.

    It is turned clockwise by ``quarter_turns`` (0 to 3) and then by ``straighten`` degrees
    (-15 to 15); ``sharpen`` 0 to 1 adds back what enlarging softens.
    """

    quarter_turns: int = 0
    straighten: float = 0.0
    sharpen: float = 0.0

    @property
    def unsharpened(self) -> Finish:
        """The same without sharpening."""
        return Finish(self.quarter_turns, self.straighten)


PLAIN = Finish()


class PaneFraming(msgspec.Struct, frozen=True, omit_defaults=True):
    """What was decided about the window of a pane that follows ``role``, in one shot: its ``zoom``
    (None: as the shot's), its keyframes and its punch-ins.
    """

    role: Role = Role.LEAD
    zoom: float | None = None
    keyframes: tuple[Keyframe, ...] = ()
    punches: tuple[Punch, ...] = ()


class ShotChoice(msgspec.Struct, frozen=True):
    """All decisions about one shot in one version. Subjects are named by their id.

    ``lead`` None leaves the choice to the score; ``second`` is kept if both fit; ``ignored`` are
    never followed. ``zoom`` 1 is the largest window of the shape; None lets the window come closer
    by itself where that is worth it. ``layout`` says how the canvas is laid out. Over the shot the
    window comes ``push`` times closer; below 1 it begins so much closer and goes back. ``others``
    is what was decided about windows of panes that do not follow the lead.
    """

    lead: int | None = None
    second: int | None = None
    ignored: tuple[int, ...] = ()
    manner: Manner = Manner.AUTO
    zoom: float | None = None
    keyframes: tuple[Keyframe, ...] = ()
    swaps: tuple[Swap, ...] = ()
    punches: tuple[Punch, ...] = ()
    finish: Finish = PLAIN
    layout: Layout = FILL
    push: Annotated[float, msgspec.Meta(ge=0.2, le=5.0)] = 1.0
    others: tuple[PaneFraming, ...] = ()

    def framing(self, role: Role) -> PaneFraming:
        """What was decided about the window that follows ``role``."""
        if role is Role.LEAD:
            return PaneFraming(role, self.zoom, self.keyframes, self.punches)
        return next((other for other in self.others if other.role is role), PaneFraming(role))

    def framed(self, framing: PaneFraming) -> ShotChoice:
        """The choice with another ``framing`` of the window that it is about."""
        if framing.role is Role.LEAD:
            return msgspec.structs.replace(self, zoom=framing.zoom, keyframes=framing.keyframes,
                                           punches=framing.punches)
        rest = [other for other in self.others if other.role is not framing.role]
        if framing != PaneFraming(framing.role):
            rest.append(framing)
        return msgspec.structs.replace(self, others=tuple(sorted(
            rest, key=lambda other: other.role.value)))

    @property
    def touched(self) -> bool:
        """Whether anything differs from the automatic framing."""
        return self != ShotChoice()


def interpolate_keyframes(
    keys: tuple[Keyframe, ...], values: Array, start: int, count: int
) -> Array:
    """``values`` (keys, m) carried from key to key by their interpolations, held before and after.

    Returns (count, m) for frames from ``start``; ``keys`` are in order of their frames.
    """
    at = np.array([key.frame for key in keys], np.float64)
    wanted = np.clip(np.arange(start, start + count, dtype=np.float64), at[0], at[-1])
    before = np.clip(np.searchsorted(at, wanted, side="right") - 1, 0, len(at) - 1)
    after = np.minimum(before + 1, len(at) - 1)
    share = (wanted - at[before]) / np.maximum(at[after] - at[before], 1)
    kinds = np.array([list(Interpolation).index(key.interpolation) for key in keys])[before]
    shaped = np.choose(kinds, [share * share * (3 - 2 * share), share, np.zeros_like(share)])
    return np.asarray(values[before] + (values[after] - values[before]) * shaped[:, None])


def zooms(choice: ShotChoice, start: int, count: int, shot: tuple[int, int]) -> Array:
    """The zoom (count,) at each frame from ``start``; 1 where the choice leaves it open.

    ``shot`` are the frames [first, end) over which it is pushed in.
    """
    return _keyed_zooms(choice, start, count) * _pushed(choice.push, start, count, shot)


def _pushed(push: float, start: int, count: int, shot: tuple[int, int]) -> Array:
    """From 1 to ``push`` over the shot, gently begun and ended; below 1 from its inverse to 1."""
    share = (np.arange(start, start + count) - shot[0]) / max(1, shot[1] - 1 - shot[0])
    eased = share * share * (3 - 2 * share)
    return np.asarray(1 + (max(push, 1 / push) - 1) * (eased if push >= 1 else 1 - eased))


def _keyed_zooms(choice: ShotChoice, start: int, count: int) -> Array:
    keys = tuple(sorted(choice.keyframes, key=lambda keyframe: keyframe.frame))
    base = choice.zoom or 1.0
    if all(key.zoom is None for key in keys):
        return np.full(count, base)
    values = np.array([[base if key.zoom is None else key.zoom] for key in keys])
    return interpolate_keyframes(keys, values, start, count)[:, 0]
