"""No short stops and no turning round: a rest between two moves lasts, or they become one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from caracal.core.framing.motion import Limits
from caracal.core.framing.solver import Channel, Problem, Soft, Solution, best

Array = NDArray[np.float64]

MOVES = 0.01  # of the fastest speed allowed: slower is a rest
JOINED = 40.0  # times the price of a change of speed in a stop that is too short
MOST_ROUNDS = 4
SEEN_TURN = 0.006  # of the fastest speed allowed: slower movement does not look like turning round
FIRST_DEMANDS = 2  # of a problem: what must be kept, and what should
MORE_MISSES = 0.01  # share of the frames that holding still may lose of those,
MORE_OF_REST = 0.1  # or this share of the rest, in a short shot
MOST_TRIES = 8  # of holding still instead of turning round; each solves the shot once more
NEAR_RESTS = 4  # rests on either side of a turn: what is asked farther away is reached in time
PLACES = 17  # in which a window that holds still is tried

Missed = Callable[[Array], float]
Hold = tuple[int, int, int]  # channel, and the first and last of its control points that rest


def with_minimum_dwell(
    problem: Problem, least_rest_frames: int, turn_frames: int = 0,
    missed: tuple[Missed, ...] = (),
) -> Solution:
    """The best path without rests shorter than ``least_rest_frames`` between two moves.

    In a stop that is too short a change of speed becomes dear: then the solver either goes on
    through it or does not move at all. What the demands force to stop, stops. Where it turns round
    within ``turn_frames`` it holds still for so long, unless that loses the lead: ``missed`` gives
    the share of the frames, 0..1, in which places (channels, n) do. Where the first of several
    forbids it the next is asked. By default it is the share in which the first two of the
    problem's demands are missed.
    """
    found = best(problem)
    for _ in range(MOST_ROUNDS):
        calmer = _changed(problem, found, _joined, least_rest_frames)
        if calmer is None:
            break
        problem, found = calmer, best(calmer)
    if not turn_frames:
        return found
    for lost in missed or (partial(_missed, problem.softs),):
        problem, found = _without_turns(problem, found, turn_frames, lost)
    return found


def _without_turns(
    problem: Problem, found: Solution, within: int, lost: Missed
) -> tuple[Problem, Solution]:
    """``found`` with rests where it turned round: all of them at once, else one after another.

    Returns the problem with these rests, too.
    """
    refused: set[Hold] = set()
    spare = max(MORE_MISSES, MORE_OF_REST * within / problem.frames)
    tries = 0
    while tries < MOST_TRIES:
        holds = _holds(problem, found, within, refused)
        alone = [(hold,) for hold in holds] if len(holds) > 1 else []
        for chosen in filter(None, (tuple(holds), *alone)):
            tries += 1
            held = _with_holds(problem, chosen)
            waiting = best(held)
            if lost(waiting.places) <= lost(found.places) + spare:
                problem, found = held, waiting
                break
            refused |= set(chosen) if len(chosen) == 1 else set()
            if tries == MOST_TRIES:
                return problem, found
        else:
            return problem, found
    return problem, found


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
    """Where control ``points`` (m,) turn round within ``within`` frames: [first, last] at rest.

    ``moves`` is the speed in pixels a frame from which on it is a move.
    """
    speed = np.diff(points) / knot
    moving = np.flatnonzero(np.abs(speed) > moves)
    return [(int(before) + 1, int(after)) for before, after in pairwise(moving)
            if speed[before] * speed[after] < 0 and (after - before - 1) * knot < within]


def _holds(
    problem: Problem, found: Solution, within: int, refused: set[Hold]
) -> list[Hold]:
    """Where each channel that turns round within ``within`` frames should rest instead.

    Where it turns twice, the swing between goes: it rests there and moves on.
    """
    knot, made = problem.basis.knot, []
    rests = within + 2 * knot  # the curve begins to move that much before its control points rest
    for number, channel in enumerate(problem.channels):
        if channel.pins:
            continue  # a person decides
        points = found.points[number]
        asked = _asked_of(problem, found.places, number)
        waiting = turns(points, knot, SEEN_TURN * channel.limits.speed, rests)
        while waiting:
            turn = waiting.pop(0)
            swing = (number, turn[0], waiting[0][1]) if waiting else None
            if swing and (swing[2] - swing[1]) * knot < rests and swing not in refused:
                made.append(swing)
                waiting.pop(0)
                continue
            first, last = _cheapest_rest(channel, points, turn, -(-rests // knot), knot, asked)
            made.append((number, first, last))
    return [hold for hold in made
            if hold not in refused and hold[1:] not in problem.channels[hold[0]].holds]


def _asked_of(problem: Problem, places: Array, number: int) -> tuple[Array, Array, Array]:
    """What the demands ask of one channel while the others stay: least, most, price; (softs, n)."""
    low, high, price = [], [], []
    for soft in problem.softs:
        weight = soft.terms.get(number)
        if weight is None or soft.every is not None or not (weight > 0).all():
            continue
        others = sum(by * places[k] for k, by in soft.terms.items() if k != number)
        low.append((soft.least - others) / weight)
        high.append((soft.most - others) / weight)
        price.append(soft.price * weight)
    shape = (len(low), problem.frames)
    return np.reshape(low, shape), np.reshape(high, shape), np.reshape(price, shape)


def _cheapest_rest(
    channel: Channel, points: Array, turn: tuple[int, int], long: int, knot: int,
    asked: tuple[Array, Array, Array],
) -> tuple[int, int]:
    """The rest (first, last) of ``long`` control points, round ``turn``, that misses least.

    What is asked before and after counts as far as the window cannot get there from its rest in
    time. A rest that begins before the shot or ends after it replaces a short move there.
    """
    near = points[max(0, turn[0] - long) : turn[1] + long + 1]
    middles = np.linspace(near.min(), near.max(), PLACES)[:, None, None]
    frames = np.arange(max(0, (turn[0] - NEAR_RESTS * long) * knot),
                       min(asked[0].shape[1], (turn[1] + NEAR_RESTS * long) * knot))
    low, high, price = (part[:, frames] for part in asked)
    costs = []
    for start in range(turn[1] - long, turn[0] + 1):
        since = np.fmax(start * knot - frames, frames - (start + long - 2) * knot)
        reach = _reach(channel.limits, since)
        missed = np.fmax(low - middles, middles - high) - reach
        each = (np.nan_to_num(np.fmax(missed, 0.0)) * price).sum(axis=(1, 2))
        off_middle = abs(start + long / 2 - sum(turn) / 2)
        costs.append((round(float(each.min(initial=np.inf))), off_middle, start))
    start = min(costs)[2]
    return max(0, start), min(len(points) - 1, start + long)


def _reach(limits: Limits, frames: Array) -> Array:
    """How far a window gets from its rest within ``frames`` (n,), at most; pixels."""
    after = np.maximum(frames, 0)
    ease = limits.speed / limits.acceleration
    return np.where(after < ease, limits.acceleration * after**2 / 2,
                    limits.speed * (after - ease / 2))


def _with_holds(problem: Problem, holds: tuple[Hold, ...]) -> Problem:
    channels = list(problem.channels)
    for number, first, last in holds:
        channel = channels[number]
        channels[number] = replace(channel, holds=(*channel.holds, (first, last)))
    return replace(problem, channels=tuple(channels))
