"""No short stops and no turning round: a rest between two moves lasts, or they become one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from caracal.core.framing.solver import Channel, Problem, Soft, Solution, best

Array = NDArray[np.float64]

MOVES = 0.01  # of the fastest speed allowed: slower is a rest
JOINED = 40.0  # times the price of a change of speed in a stop that is too short
MOST_ROUNDS = 4
SEEN_TURN = 0.02  # of the fastest speed allowed: slower movement does not look like turning round
FIRST_DEMANDS = 2  # of a problem: what must be kept, and what should
MORE_MISSES = 0.01  # share of the frames that holding still may lose of those


def with_minimum_dwell(
    problem: Problem, least_rest_frames: int, turn_frames: int = 0,
    missed: Callable[[Array], float] | None = None,
) -> Solution:
    """The best path without rests shorter than ``least_rest_frames`` between two moves.

    In a stop that is too short a change of speed becomes dear: then the solver either goes on
    through it or does not move at all. What the demands force to stop, stops. Where it turns round
    within ``turn_frames`` it holds still for so long, unless that loses the lead: ``missed`` gives
    the share of the frames, 0..1, in which places (channels, n) do. By default it is that in which
    the first two of the problem's demands are missed.
    """
    found = best(problem)
    for _ in range(MOST_ROUNDS):
        calmer = _changed(problem, found, _joined, least_rest_frames)
        if calmer is None:
            break
        problem, found = calmer, best(calmer)
    lost = missed or partial(_missed, problem.softs)
    for _ in range(MOST_ROUNDS if turn_frames else 0):
        held = _changed(problem, found, _held, turn_frames)
        if held is None:
            break
        waiting = best(held)
        if lost(waiting.places) > lost(found.places) + MORE_MISSES:
            break
        problem, found = held, waiting
    return found


def _changed(
    problem: Problem, found: Solution, change: Callable[[Channel, Array, int, int], Channel],
    frames: int,
) -> Problem | None:
    """``problem`` with channels as ``change`` makes them for this solution; None if they stay."""
    channels = tuple(change(channel, points, problem.basis.knot, frames)
                     for channel, points in zip(problem.channels, found.points, strict=True))
    same = all(
        channel is before for channel, before in zip(channels, problem.channels, strict=True)
    )
    return None if same else replace(problem, channels=channels)


def _missed(softs: tuple[Soft, ...], places: Array) -> float:
    """Share of the frames in which one of the first demands is missed by a pixel or more."""
    missed = [soft.missed(places) > 1.0 for soft in softs[:FIRST_DEMANDS]]
    return float(np.logical_or.reduce(missed).mean()) if missed else 0.0


def short_rests(points: Array, knot: int, moves: float, least: int) -> list[tuple[int, int]]:
    """Rests [first, last] of control ``points`` (m,) shorter than ``least`` frames, between moves.

    ``moves`` is the speed in pixels a frame from which on it is a move.
    """
    speed = np.diff(points) / knot
    moving = np.flatnonzero(np.abs(speed) > moves)
    found = []
    for before, after in pairwise(moving):
        if after - before > 1 and (after - before - 1) * knot < least:
            found.append((int(before) + 1, int(after)))
    return found


def _joined(channel: Channel, points: Array, knot: int, least: int) -> Channel:
    stops = short_rests(points, knot, MOVES * channel.limits.speed, least)
    steady = np.ones(len(points) - 2) if channel.steady is None else channel.steady.copy()
    new = False
    for first, last in stops:
        part = slice(max(0, first - 1), last)
        new |= bool((steady[part] == 1.0).any())
        steady[part] = JOINED
    return replace(channel, steady=steady) if new else channel


def turns(points: Array, knot: int, moves: float, within: int) -> list[tuple[int, int]]:
    """Where control ``points`` (m,) turn round within ``within`` frames: [first, last] of each.

    ``moves`` is the speed in pixels a frame from which on it is a move. The span is ``within``
    frames long, round the place where it turns.
    """
    speed = np.diff(points) / knot
    moving = np.flatnonzero(np.abs(speed) > moves)
    found = []
    for before, after in pairwise(moving):
        if speed[before] * speed[after] < 0 and (after - before - 1) * knot < within:
            half = -(-within // (2 * knot))
            middle = int(before + after + 1) // 2
            found.append((max(0, middle - half), min(len(points) - 1, middle + half)))
    return found


def _held(channel: Channel, points: Array, knot: int, within: int) -> Channel:
    if channel.pins:
        return channel  # a person decides
    spans = turns(points, knot, SEEN_TURN * channel.limits.speed, within)
    new = [span for span in spans if span not in channel.holds]
    return replace(channel, holds=(*channel.holds, *new)) if new else channel
