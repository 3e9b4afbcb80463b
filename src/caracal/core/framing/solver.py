"""The path as a linear program.

Find positions x that keep the window's demands while its first, second and third differences are
small in the L1 norm, so that the result is made of rests, even moves and eased joints, as a camera
operator would make it. Idea: Grundmann, Kwatra and Essa, "Auto-Directed Video Stabilization with
Robust L1 Optimal Camera Paths", CVPR 2011. Solved by HiGHS through scipy.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.optimize import linprog

from caracal.core.errors import CaracalError

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Limits:
    """How the window may move. Speeds in pixels a frame, acceleration in pixels a frame squared.

    The weights price a pixel of first, second and third difference; ``must`` and ``want`` price a
    pixel by which a demand is missed in one frame; ``wish`` gently pulls to the best place.
    """

    speed: float
    acceleration: float
    weights: tuple[float, float, float]
    must: float
    want: float
    wish: float


@dataclass(frozen=True)
class Program:
    """min cost.z subject to rows.z <= bounds and low <= z <= high; z starts with the positions."""

    cost: Array
    rows: sparse.csr_matrix
    bounds: Array
    low: Array
    high: Array
    frames: int


def build(
    must: Array, want: Array, wish: Array, low: float, high: float, limits: Limits
) -> Program:
    """The linear program for one axis of one shot.

    ``must`` and ``want`` (n, 2) are allowed positions per frame (NaN: free), ``wish`` (n,) the best
    ones; ``low`` and ``high`` bound every position (the active picture).
    """
    n = len(wish)
    blocks: list[tuple[sparse.csr_matrix, Array, Array, Array]] = []
    caps = (limits.speed, limits.acceleration, np.inf)
    for order in (1, 2, 3):
        if n > order:
            change = _difference(n, order)
            zero = np.zeros(n - order)
            blocks.append((change, zero, zero, _filled(n - order, limits.weights[order - 1])))
    soft = [(must, limits.must), (want, limits.want)]
    wished = np.stack([wish, wish], axis=1)
    for allowed, price in [*soft, (wished, limits.wish)]:
        asked = ~np.isnan(allowed[:, 0])
        pick = sparse.eye(n, format="csr")[asked]
        blocks.append((pick, allowed[asked, 0], allowed[asked, 1], _filled(asked.sum(), price)))
    return _assemble(n, blocks, low, high, caps)


def _assemble(
    n: int, blocks: list[tuple[sparse.csr_matrix, Array, Array, Array]], low: float, high: float,
    caps: tuple[float, ...],
) -> Program:
    """Each block says low_i - s <= (A x)_i <= high_i + s with its own slacks s >= 0 at a price."""
    slacks = sum(block[0].shape[0] for block in blocks)
    cost = np.concatenate([np.zeros(n), *[block[3] for block in blocks]])
    lows = np.concatenate([np.full(n, low), np.zeros(slacks)])
    highs = np.concatenate([np.full(n, high), np.full(slacks, np.inf)])
    rows, bounds, at = [], [], 0
    for i, (matrix, least, most, _) in enumerate(blocks):
        count = matrix.shape[0]
        slack = sparse.csr_matrix(
            (np.ones(count), (np.arange(count), at + np.arange(count))), (count, slacks))
        rows += [sparse.hstack([matrix, -slack]), sparse.hstack([-matrix, -slack])]
        bounds += [most, -least]
        if i < len(caps) and count and count < n:
            highs[n + at : n + at + count] = caps[i]
        at += count
    stacked = sparse.vstack(rows, format="csr")
    return Program(cost, stacked, np.concatenate(bounds), lows, highs, n)


def solve(program: Program) -> tuple[Array, float]:
    """Positions (n,) and the cost of the best path. Raises CaracalError if HiGHS finds none."""
    found = linprog(  # type: ignore[call-overload]  # the stubs know dense matrices only
        program.cost, A_ub=program.rows, b_ub=program.bounds,
        bounds=np.stack([program.low, program.high], axis=1), method="highs",
    )
    if not found.success:
        raise CaracalError(f"No path was found for a shot: {found.message}")
    return np.asarray(found.x[: program.frames], np.float64), float(found.fun)


def _difference(n: int, order: int) -> sparse.csr_matrix:
    """The matrix (n - order, n) of the ``order``-th forward difference."""
    taps = {1: (-1, 1), 2: (1, -2, 1), 3: (-1, 3, -3, 1)}[order]
    return sparse.diags(
        [float(tap) for tap in taps], range(order + 1), shape=(n - order, n), format="csr"
    )


def _filled(count: int, value: float) -> Array:
    return np.full(int(count), value, np.float64)
