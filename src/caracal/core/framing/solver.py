"""The path as a linear program.

Find places x of the window's middle that keep the window's demands while their first, second and
third differences are small in the L1 norm, so that the result is made of rests, even moves and
eased joints, as a camera operator would make it. Idea: Grundmann, Kwatra and Essa,
"Auto-Directed Video Stabilization with Robust L1 Optimal Camera Paths", CVPR 2011.
Solved by HiGHS through scipy.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from caracal.core.errors import CaracalError
from caracal.core.framing.demand import Demand
from caracal.core.framing.motion import Limits

Array = NDArray[np.float64]

PIN_SPARE = 1.6  # over the straight line between two pins: room to start and stop


class NoPathError(CaracalError):
    """The limits leave no path: a fence or pins ask for more speed than they allow."""


@dataclass(frozen=True)
class Program:
    """min cost.z subject to least <= rows.z <= most and low <= z <= high; z starts with places."""

    cost: Array
    rows: sparse.csr_matrix
    least: Array
    most: Array
    low: Array
    high: Array
    frames: int


def build(
    demand: Demand, low: Array, high: Array, limits: Limits, pins: dict[int, float] | None = None
) -> Program:
    """The linear program for one axis of one shot.

    ``low`` and ``high`` (n,) bound every place (the active picture). ``pins`` are places that hold
    exactly, by frame counted from the shot's first; where they ask for more speed or acceleration
    than the limits allow, the limits give way as far as they must.
    """
    n = len(demand.wish)
    held = dict(pins or {})
    blocks: list[_Block] = []
    for order, cap in zip((1, 2, 3), _caps(held, limits), strict=True):
        if n > order:
            zero = np.zeros(n - order)
            price = limits.weights[order - 1]
            blocks.append(_Block(_difference(n, order), zero, zero, price, cap))
    soft = [(demand.must, limits.must), (demand.want, limits.want), (demand.clear, limits.clear),
            (demand.words, limits.words)]
    wished = np.stack([demand.wish, demand.wish], axis=1)
    for allowed, price in [*soft, (wished, limits.wish)]:
        asked = ~np.isnan(allowed[:, 0])
        if price and asked.any():
            pick = sparse.eye(n, format="csr")[asked]
            blocks.append(_Block(pick, allowed[asked, 0], allowed[asked, 1], price, np.inf))
    low, high = low.copy(), high.copy()
    for frame, place in held.items():
        low[frame] = high[frame] = min(max(place, low[frame]), high[frame])
    return _assemble(n, blocks, low, high)


def _caps(pins: dict[int, float], limits: Limits) -> tuple[float, ...]:
    """Bounds of the three differences; wider where pins cannot be met within the limits."""
    ordered = sorted(pins.items())
    speed = max((abs(b - a) / (j - i) for (i, a), (j, b) in pairwise(ordered)), default=0.0)
    factor = max(1.0, PIN_SPARE * speed / limits.speed)
    acceleration = limits.acceleration if factor == 1.0 else np.inf
    return (limits.speed * factor, acceleration, np.inf)


@dataclass(frozen=True)
class _Block:
    """Rows that say low_i <= (A x)_i + s_i - t_i <= high_i, with own 0 <= s, t <= cap at a price.

    With low = high = 0 the slacks are the two signs of A x, so that the price is on its size: one
    row for each where the usual way of writing a size takes two, and a third of the time.
    """

    matrix: sparse.csr_matrix
    low: Array
    high: Array
    price: float
    cap: float


def _assemble(n: int, blocks: list[_Block], low: Array, high: Array) -> Program:
    counts = [block.matrix.shape[0] for block in blocks]
    rows = sum(counts)
    price = np.concatenate([np.full(count, block.price)
                            for count, block in zip(counts, blocks, strict=True)])
    cap = np.concatenate([np.full(count, block.cap)
                          for count, block in zip(counts, blocks, strict=True)])
    own = sparse.eye(rows, format="csr")
    stacked = sparse.hstack(
        [sparse.vstack([block.matrix for block in blocks]), own, -own], format="csr")
    none = np.zeros(2 * rows)
    return Program(
        np.concatenate([np.zeros(n), price, price]), stacked,
        np.concatenate([block.low for block in blocks]),
        np.concatenate([block.high for block in blocks]),
        np.concatenate([low, none]), np.concatenate([high, cap, cap]), n)


def best_path(
    demand: Demand, low: Array, high: Array, limits: Limits, pins: dict[int, float] | None = None
) -> Array:
    """Places (n,) of the best path; limits give way when the fence itself moves faster."""
    try:
        places, _ = solve(build(demand, low, high, limits, pins))
    except NoPathError:
        free = replace(limits, speed=np.inf, acceleration=np.inf)
        places, _ = solve(build(demand, low, high, free, pins))
    return np.clip(places, low, high)


def solve(program: Program) -> tuple[Array, float]:
    """Places (n,) and the cost of the best path. Raises NoPathError if HiGHS finds none."""
    found = milp(
        program.cost, bounds=Bounds(program.low, program.high),
        constraints=LinearConstraint(program.rows, program.least, program.most))
    if not found.success:
        raise NoPathError(f"No path was found for a shot: {found.message}")
    return np.asarray(found.x[: program.frames], np.float64), float(found.fun)


def _difference(n: int, order: int) -> sparse.csr_matrix:
    """The matrix (n - order, n) of the ``order``-th forward difference."""
    taps = {1: (-1, 1), 2: (1, -2, 1), 3: (-1, 3, -3, 1)}[order]
    return sparse.diags(
        [float(tap) for tap in taps], range(order + 1), shape=(n - order, n), format="csr"
    )

