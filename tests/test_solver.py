"""The path solver: limits, calm, determinism, and manners."""

import numpy as np
import pytest

from caracal.core.framing.demand import Demand
from caracal.core.framing.manners import Manner, limits_for, move_along
from caracal.core.framing.solver import build, solve

SIZE, ROOM = 600.0, 1320.0


def _demand(left, width=200.0):
    """A lead of ``width`` whose left edge is ``left`` (n,)."""
    extent = np.stack([left, left + width], axis=1)
    allowed = np.stack([left + width - SIZE, left], axis=1)
    return Demand(allowed, allowed, left + width / 2 - SIZE / 2, extent)


def test_a_still_lead_gets_a_still_window():
    rng = np.random.default_rng(1)
    move = move_along(_demand(700 + rng.normal(0, 4, 120)), 0, ROOM, SIZE, Manner.AUTO)
    assert move.manner is Manner.LOCKED and np.ptp(move.positions) == 0


def test_a_slow_drift_glides_within_its_speed():
    left = np.linspace(300, 900, 400)
    move = move_along(_demand(left), 0, ROOM, SIZE, Manner.AUTO)
    assert move.manner is Manner.GLIDE
    limit = limits_for(Manner.GLIDE, SIZE)
    assert np.abs(np.diff(move.positions)).max() <= limit.speed + 1e-6
    assert np.abs(np.diff(move.positions, 2)).max() <= limit.acceleration + 1e-6


def test_a_runner_is_chased_and_kept():
    left = 100 + 1400 * (0.5 - 0.5 * np.cos(np.linspace(0, 2 * np.pi, 150)))
    move = move_along(_demand(left), 0, ROOM, SIZE, Manner.AUTO)
    assert move.manner is Manner.CHASE
    kept = (move.positions <= left + 1) & (move.positions + SIZE >= left + 200 - 1)
    assert kept.mean() >= 0.98


def test_calmer_than_following_the_box():
    """Less jerk than the naive rule: centre on the box, smoothed over 0.5 s."""
    left = 100 + 1400 * (0.5 - 0.5 * np.cos(np.linspace(0, 2 * np.pi, 150)))
    left += np.random.default_rng(3).normal(0, 6, 150)
    kernel = np.exp(-0.5 * (np.arange(-38, 39) / 12.5) ** 2)
    centre = np.convolve(np.pad(left + 100, 38, mode="edge"), kernel / kernel.sum(), "valid")
    naive = np.clip(centre - SIZE / 2, 0, ROOM)
    ours = move_along(_demand(left), 0, ROOM, SIZE, Manner.CHASE).positions
    assert np.abs(np.diff(ours, 3)).mean() <= np.abs(np.diff(naive, 3)).mean()


def test_positions_stay_in_the_fence():
    left = np.linspace(-150, 1900, 90)
    move = move_along(_demand(left), 0, ROOM, SIZE, Manner.CHASE)
    assert move.positions.min() >= 0 and move.positions.max() <= ROOM


def test_same_input_same_bits():
    left = np.linspace(100, 1300, 100)
    program = build(_demand(left).must, _demand(left).want, _demand(left).wish, 0, ROOM,
                    limits_for(Manner.CHASE, SIZE))
    first, second = solve(program), solve(program)
    assert (first[0] == second[0]).all() and first[1] == second[1]


def test_optimal_against_many_others():
    """No random path within the limits costs less than the solution (weak, but independent)."""
    left = np.linspace(200, 700, 60)
    limits = limits_for(Manner.CHASE, SIZE)
    demand = _demand(left)
    positions, cost = solve(build(demand.must, demand.want, demand.wish, 0, ROOM, limits))

    def price(x):
        outside = np.maximum(np.maximum(demand.must[:, 0] - x, x - demand.must[:, 1]), 0).sum()
        return (sum(w * np.abs(np.diff(x, k)).sum() for k, w in enumerate(limits.weights, 1))
                + (limits.must + limits.want) * outside
                + limits.wish * np.abs(x - demand.wish).sum())

    assert price(positions) == pytest.approx(cost, rel=1e-6)
    rng = np.random.default_rng(2)
    for _ in range(50):
        other = positions + np.cumsum(np.cumsum(rng.normal(0, 0.05, 60)))
        assert price(np.clip(other, 0, ROOM)) >= cost - 1e-6


@pytest.mark.parametrize("frames", [1, 2, 3, 4])
def test_tiny_shots_are_solved(frames):
    left = np.linspace(100, 900, frames)
    move = move_along(_demand(left), 0, ROOM, SIZE, Manner.CHASE)
    assert move.positions.shape == (frames,) and np.isfinite(move.positions).all()


def test_frames_without_a_lead_ask_nothing():
    left = np.full(80, 500.0)
    left[20:60] = np.nan
    move = move_along(_demand(left), 0, ROOM, SIZE, Manner.AUTO)
    assert move.manner is Manner.LOCKED and np.isfinite(move.positions).all()
