"""The path solver: limits, calm, determinism, an independent solve, and manners."""

import numpy as np
import pytest
from scipy.optimize import linprog

from caracal.core.framing.demand import Demand
from caracal.core.framing.manners import Fence, move_along
from caracal.core.framing.motion import Manner, Motion, limits_for
from caracal.core.framing.solver import best_path, build, solve

SIZE, PICTURE, MOTION = 600.0, 1920.0, Motion()


def fence(frames, sizes=None):
    held = np.full(frames, SIZE) if sizes is None else np.asarray(sizes, float)
    return Fence(held / 2, PICTURE - held / 2, held)


def lead(left, width=200.0, **changes):
    """A lead of ``width`` whose left edge is ``left`` (n,)."""
    extent = np.stack([left, left + width], axis=1)
    allowed = np.stack([left + width - SIZE / 2, left + SIZE / 2], axis=1)
    nothing = np.full_like(allowed, np.nan)
    made = {"must": allowed, "want": allowed, "clear": nothing, "wish": left + width / 2,
            "extent": extent, "words": nothing} | changes
    return Demand(**made)


def move(demand, manner=Manner.AUTO, **more):
    return move_along(demand, fence(len(demand.wish)), manner, MOTION, **more)


def there_and_back(frames=150):
    return 100 + 1400 * (0.5 - 0.5 * np.cos(np.linspace(0, 2 * np.pi, frames)))


def test_a_still_lead_gets_a_still_window():
    rng = np.random.default_rng(1)
    made = move(lead(700 + rng.normal(0, 4, 120)))
    assert made.manner is Manner.LOCKED and np.ptp(made.places) == 0


def test_a_slow_drift_glides_within_its_speed():
    made = move(lead(np.linspace(300, 900, 400)))
    assert made.manner is Manner.GLIDE
    limit = limits_for(Manner.GLIDE, SIZE, MOTION)
    assert np.abs(np.diff(made.places)).max() <= limit.speed + 1e-6
    assert np.abs(np.diff(made.places, 2)).max() <= limit.acceleration + 1e-6


def test_slower_limits_are_obeyed():
    slow = Motion(glide_crossing_frames=500)
    made = move_along(lead(np.linspace(300, 900, 400)), fence(400), Manner.GLIDE, slow)
    assert np.abs(np.diff(made.places)).max() <= SIZE / 500 + 1e-6


def test_a_runner_is_chased_and_kept():
    left = there_and_back()
    made = move(lead(left))
    assert made.manner is Manner.CHASE
    kept = (made.places - 300 <= left + 1) & (made.places + 300 >= left + 199)
    assert kept.mean() >= 0.98


def test_calmer_than_following_the_box():
    """Less jerk than the naive rule: centre on the box, smoothed over 0.5 s."""
    left = there_and_back() + np.random.default_rng(3).normal(0, 6, 150)
    kernel = np.exp(-0.5 * (np.arange(-38, 39) / 12.5) ** 2)
    centre = np.convolve(np.pad(left + 100, 38, mode="edge"), kernel / kernel.sum(), "valid")
    naive = np.clip(centre, 300, 1620)
    ours = move(lead(left), Manner.CHASE).places
    assert np.abs(np.diff(ours, 3)).mean() <= np.abs(np.diff(naive, 3)).mean()


def test_places_stay_in_the_fence():
    made = move(lead(np.linspace(-150, 1900, 90)), Manner.CHASE)
    assert made.places.min() >= 300 and made.places.max() <= 1620


def test_same_input_same_bits():
    demand, room = lead(np.linspace(100, 1300, 100)), fence(100)
    program = build(demand, room.low, room.high, limits_for(Manner.CHASE, SIZE, MOTION))
    first, second = solve(program), solve(program)
    assert (first[0] == second[0]).all() and first[1] == second[1]


def _price(x, demand, limits):
    def outside(allowed):
        asked = ~np.isnan(allowed[:, 0])
        low, high = allowed[asked].T
        return np.maximum(np.maximum(low - x[asked], x[asked] - high), 0).sum()

    return (sum(w * np.abs(np.diff(x, k)).sum() for k, w in enumerate(limits.weights, 1))
            + limits.must * outside(demand.must) + limits.want * outside(demand.want)
            + limits.clear * outside(demand.clear) + limits.words * outside(demand.words)
            + limits.wish * np.abs(x - demand.wish).sum())


@pytest.mark.parametrize("manner", [Manner.GLIDE, Manner.CHASE])
def test_an_independent_formulation_costs_the_same(manner):
    """The same problem written anew with dense inequalities, by scipy's other entry and the
    interior-point method."""
    rng = np.random.default_rng(4)
    left = 300 + np.cumsum(rng.normal(0, 6, 50))
    clear = np.stack([left - 40.0, left + 120.0], axis=1)
    demand, limits = lead(left, clear=clear), limits_for(manner, SIZE, MOTION)
    room = fence(50)
    places, cost = solve(build(demand, room.low, room.high, limits))
    assert _price(places, demand, limits) == pytest.approx(cost, rel=1e-6)
    assert _independent(demand, limits, room) == pytest.approx(cost, rel=1e-6)


def _independent(demand, limits, room):
    n, rows, least, price, caps = len(demand.wish), [], [], [], []

    def soft(row, bound, weight, cap=np.inf):
        """row.x + s >= bound, 0 <= s <= cap at a weight."""
        rows.append(row)
        least.append(bound)
        price.append(weight)
        caps.append(cap)

    for k, (weight, cap) in enumerate(
            zip(limits.weights, (limits.speed, limits.acceleration, np.inf), strict=True), 1):
        for row in np.diff(np.eye(n), k, axis=0):
            for side in (row, -row):
                soft(side, 0.0, weight, cap)
    for i, row in enumerate(np.eye(n)):
        for allowed, weight in ((demand.must, limits.must), (demand.want, limits.want),
                                (demand.clear, limits.clear)):
            soft(row, allowed[i, 0], weight)
            soft(-row, -allowed[i, 1], weight)
        soft(row, demand.wish[i], limits.wish)
        soft(-row, -demand.wish[i], limits.wish)
    matrix = np.hstack([np.array(rows), np.eye(len(rows))])
    bounds = [*zip(room.low, room.high, strict=True), *((0, cap) for cap in caps)]
    found = linprog(np.concatenate([np.zeros(n), price]), A_ub=-matrix, b_ub=-np.array(least),
                    bounds=bounds, method="highs-ipm")
    return found.fun


def test_optimal_against_many_others():
    """No random path within the limits costs less than the solution (weak, but independent)."""
    demand, limits = lead(np.linspace(200, 700, 60)), limits_for(Manner.CHASE, SIZE, MOTION)
    room = fence(60)
    places, cost = solve(build(demand, room.low, room.high, limits))
    rng = np.random.default_rng(2)
    for _ in range(50):
        other = places + np.cumsum(np.cumsum(rng.normal(0, 0.05, 60)))
        assert _price(np.clip(other, room.low, room.high), demand, limits) >= cost - 1e-6


@pytest.mark.parametrize("frames", [1, 2, 3, 4])
def test_tiny_shots_are_solved(frames):
    made = move(lead(np.linspace(100, 900, frames)), Manner.CHASE)
    assert made.places.shape == (frames,) and np.isfinite(made.places).all()


def test_frames_without_a_lead_ask_nothing():
    left = np.full(80, 500.0)
    left[20:60] = np.nan
    made = move(lead(left))
    assert made.manner is Manner.LOCKED and np.isfinite(made.places).all()


def test_pins_hold_exactly_and_the_rest_keeps_the_lead():
    left = np.linspace(300, 900, 200)
    made = move(lead(left), Manner.CHASE, pins={0: 640.0, 120: 500.0})
    assert made.places[0] == pytest.approx(640) and made.places[120] == pytest.approx(500)
    assert abs(made.places[199] - (left[199] + 100)) < 300


def test_pins_far_apart_are_reached_in_time():
    demand, room = lead(np.full(30, 500.0)), fence(30)
    limits = limits_for(Manner.GLIDE, SIZE, MOTION)
    places = best_path(demand, room.low, room.high, limits, {5: 400.0, 12: 1500.0})
    assert places[5] == pytest.approx(400) and places[12] == pytest.approx(1500)


def test_a_still_window_moves_aside_for_words_and_clear_area():
    left = np.full(60, 700.0)
    words = np.tile([560.0, 640.0], (60, 1))
    clear = np.tile([610.0, 2000.0], (60, 1))
    made = move(lead(left, words=words, clear=clear))
    assert made.manner is Manner.LOCKED and 610 <= made.places[0] <= 640


def test_words_that_would_lose_the_lead_are_let_go():
    made = move(lead(np.full(60, 700.0), words=np.tile([1200.0, 1300.0], (60, 1))))
    assert made.places[0] - 300 <= 700 and made.places[0] + 300 >= 900


def test_windows_that_change_size_stay_inside_the_picture():
    sizes = np.linspace(600, 200, 90)
    room = fence(90, sizes)
    made = move_along(lead(np.linspace(100, 1500, 90)), room, Manner.CHASE, MOTION)
    assert (made.places - sizes / 2 >= -1e-6).all()
    assert (made.places + sizes / 2 <= PICTURE + 1e-6).all()
