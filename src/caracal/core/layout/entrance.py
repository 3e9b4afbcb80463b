"""How panes, overlays and words come and go, and how they beat: eased motion, as regions."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import msgspec

from caracal.core.base.geometry import Region
from caracal.core.base.translation import mark

SMALLEST = 0.05  # of its size, from which anything grows
ROUNDING_S = 1e-6
BEAT_GROWTH = 0.05  # of its size (common practice)


class Entry(StrEnum):
    """How anything comes; as its exit, how it goes."""

    NONE = mark("at once")
    FADE = mark("fade")
    SLIDE = mark("slide")
    GROW = mark("grow")
    WIPE = mark("wipe")


@dataclass(frozen=True)
class AnimationState:
    """How something lies at one frame: where, how strongly (0..1), and which part of its width."""

    region: Region
    opacity: float = 1.0
    part: tuple[float, float] = (0.0, 1.0)


class PaneTiming(msgspec.Struct, frozen=True, omit_defaults=True):
    """When a pane is there, and how it comes and goes.

    It comes ``comes_s`` seconds after its shot begins, and goes after ``goes_s`` of them (None: it
    stays). Its ``entry`` and its ``leaving`` take ``moving_s`` each.
    """

    comes_s: float = 0.0
    goes_s: float | None = None
    entry: Entry = Entry.FADE
    leaving: Entry = Entry.FADE
    moving_s: float = 0.4

    def placed(self, start_s: float, end_s: float) -> PaneTiming:
        """The same in seconds of the film, for a shot from ``start_s`` to ``end_s``, at whose end
        it goes at the latest; None stays None.
        """
        return msgspec.structs.replace(
            self, comes_s=start_s + self.comes_s,
            goes_s=None if self.goes_s is None else min(start_s + self.goes_s, end_s))

    def presence(self, region: Region, moment_s: float) -> AnimationState | None:
        """How what lies in ``region`` lies at ``moment_s``, counted like its own times; None: it is
        not there.
        """
        came, goes = moment_s - self.comes_s, math.inf
        if self.goes_s is not None:
            goes = self.goes_s - moment_s
        if came < -ROUNDING_S or goes <= ROUNDING_S:
            return None
        moving = max(self.moving_s, ROUNDING_S)
        if self.goes_s is not None:
            moves = (self.entry is not Entry.NONE) + (self.leaving is not Entry.NONE)
            moving = min(moving, max((self.goes_s - self.comes_s) / max(1, moves), ROUNDING_S))
        return moved(AnimationState(region), self.entry, (came + ROUNDING_S) / moving, self.leaving,
                     goes / moving)


def moved(
    here: AnimationState, entry: Entry, came: float, leaving: Entry, goes: float
) -> AnimationState:
    """``here`` when ``came`` of the way of its ``entry`` is done, and ``goes`` of that of its
    ``leaving`` is left; from 1 on it rests.
    """
    if came < 1 and entry is not Entry.NONE:
        here = _moved(here, entry, came, (0.0, eased(came)))
    if goes < 1 and leaving is not Entry.NONE:
        here = _moved(here, leaving, goes, (1 - eased(goes), 1.0))
    return here


def eased(share: float) -> float:
    """From 0 to 1 with a gentle beginning and end."""
    return share * share * (3 - 2 * share)


def beaten(here: AnimationState, share: float) -> AnimationState:
    """``here`` when ``share`` of a beat has passed: it grows by 5 % round its middle, and back."""
    return AnimationState(_sized(here.region, 1 + BEAT_GROWTH * math.sin(math.pi * share)),
                    here.opacity, here.part)


def _sized(region: Region, by: float) -> Region:
    """``region``, so many times as large round its middle."""
    across, down = (((low + high) / 2 - (high - low) * by / 2, (low + high) / 2
                     + (high - low) * by / 2) for low, high in region)
    return across, down


def _moved(
    here: AnimationState, how: Entry, share: float, part: tuple[float, float]
) -> AnimationState:
    """``here`` when ``share`` of its way is done; ``part`` is what a wipe shows."""
    (left, right), (top, bottom) = here.region
    if how is Entry.FADE:
        return AnimationState(here.region, here.opacity * share, here.part)
    if how is Entry.SLIDE:
        down = (1 - eased(share)) * max(0.0, 1 - top)
        return AnimationState(((left, right), (top + down, bottom + down)), here.opacity, here.part)
    if how is Entry.GROW:
        return AnimationState(_sized(here.region, max(SMALLEST, eased(share))),
                        here.opacity * min(1.0, 2 * share), here.part)
    return AnimationState(here.region, here.opacity, part)
