"""No short stops: a rest between two moves lasts, or the moves become one."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from caracal.core.framing.solver import Channel, Problem, Solution, best

Array = NDArray[np.float64]

MOVES = 0.01  # of the fastest speed allowed: slower is a rest
JOINED = 40.0  # times the price of a change of speed in a stop that is too short
MOST_ROUNDS = 4


def rested(problem: Problem, least_rest_frames: int) -> Solution:
    """The best path without rests shorter than ``least_rest_frames`` between two moves.

    In a stop that is too short a change of speed becomes dear: then the solver either goes on
    through it or does not move at all. What the demands force to stop, stops.
    """
    found = best(problem)
    for _ in range(MOST_ROUNDS):
        channels = tuple(_joined(one, points, problem.basis.knot, least_rest_frames)
                         for one, points in zip(problem.channels, found.points, strict=True))
        if all(one is before for one, before in zip(channels, problem.channels, strict=True)):
            return found
        problem = replace(problem, channels=channels)
        found = best(problem)
    return found


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
