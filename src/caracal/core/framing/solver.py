"""The path as a linear program.

Find the window's middle (and, where it may come closer, its width) so that the demands are kept
while first, second and third differences are small in the L1 norm: the result is made of rests,
even moves and eased joints, as a camera operator would make it. Idea: Grundmann, Kwatra and Essa,
"Auto-Directed Video Stabilization with Robust L1 Optimal Camera Paths", CVPR 2011. The unknowns
are the control points of a cubic spline (:mod:`spline`), the solver is HiGHS through scipy.

A demand that a path keeps anyway does not change which path is best, so demands enter the program
only in frames where an earlier solution missed them; the last solution is that of the whole
program (constraint generation; Dantzig, Fulkerson and Johnson, 1954).
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from caracal.core.base.errors import CaracalError
from caracal.core.base.translation import tr
from caracal.core.framing.lp_matrices import beside, difference, widened, with_slacks
from caracal.core.framing.motion import Limits
from caracal.core.framing.spline import Basis, basis

Array = NDArray[np.float64]
Flags = NDArray[np.bool_]

PIN_SPARE = 1.6  # over the straight line between two pins: room to start and stop
FIRST_KNOTS = 4  # knots between the frames whose demands are in the program from the start
SOLVE_ERROR = 4  # of scipy: HiGHS met numbers that it could not handle
MISSED = 1e-7  # pixels: less is what rounding does
MOST_ROUNDS = 30  # of adding missed demands; each adds at least one, two or three are usual


class NoPathError(CaracalError):
    """The limits leave no path: a fence or pins ask for more speed than they allow."""


@dataclass(frozen=True)
class Channel:
    """One unknown over the shot, in pixels: the window's middle along an axis, or its width.

    ``low`` and ``high`` (n,) bound it, ``pins`` are places that hold exactly, by frame counted from
    the shot's first; where they ask for more speed than the limits allow, the limits give way.
    ``steady`` (points - 2,) multiplies the price of the second difference where moves must join.
    ``holds`` are spans of control points, [first, last], in which it does not move at all.
    """

    low: Array
    high: Array
    limits: Limits
    pins: dict[int, float]
    steady: Array | None = None
    holds: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True)
class Soft:
    """In every frame least <= sum of coefficient x channel <= most, or a price a pixel missed.

    ``terms`` are coefficients (n,; without a unit) by channel number; ``least`` and ``most`` (n,;
    master pixels) are NaN where nothing is asked. ``price`` is what each pixel costs that is
    missed in a frame. ``every``: asked of one frame in so many, whatever comes out (a wish is never
    quite kept); None: of those frames in which a first solution missed it.
    """

    terms: dict[int, Array]
    least: Array
    most: Array
    price: float
    every: int | None = None

    @property
    def asked(self) -> Flags:
        """The frames (n,) in which anything is asked."""
        return ~(np.isnan(self.least) & np.isnan(self.most))

    def missed(self, places: Array) -> Array:
        """How far (n,) ``places`` (channels, n) miss it, in pixels; 0 where nothing is asked."""
        got = np.zeros(places.shape[1])
        for number, weight in self.terms.items():
            got += weight * places[number]
        missed = np.fmax(self.least - got, got - self.most)
        return np.asarray(np.nan_to_num(np.fmax(missed, 0.0)))


@dataclass(frozen=True)
class Hard:
    """Control points obey least <= sum of coefficient x channel <= most, in master pixels."""

    terms: dict[int, float]
    least: float
    most: float


@dataclass(frozen=True)
class Problem:
    """All that is asked of one shot: its channels, what they should and what they must do."""

    frames: int
    channels: tuple[Channel, ...]
    softs: tuple[Soft, ...]
    hards: tuple[Hard, ...] = ()

    @property
    def basis(self) -> Basis:
        """The finest basis that any channel asks for, fine enough to meet all pins."""
        knot = min(channel.limits.knot_frames for channel in self.channels)
        gaps = [b - a for channel in self.channels for a, b in pairwise(sorted(channel.pins))]
        return basis(self.frames, max(1, min([knot, *gaps])))


@dataclass(frozen=True)
class Solution:
    """Places (channels, n) and control points (channels, points) in master pixels, and what they
    cost: the sum of all prices, of movement and of what was missed."""

    places: Array
    points: Array
    cost: float


@dataclass(frozen=True)
class _Program:
    """min cost.z subject to least <= rows.z <= most and low <= z <= high; z starts with points."""

    cost: Array
    rows: sparse.csr_matrix
    least: Array
    most: Array
    low: Array
    high: Array


def best(problem: Problem) -> Solution:
    """The best path; limits give way when the fence itself moves faster than they allow.

    Pins that lie a frame apart may need control points beyond the fence: then its bounds go too,
    and whoever uses the places clips them.
    """
    try:
        return solve(problem)
    except NoPathError:
        free = tuple(
            replace(channel, limits=replace(channel.limits, speed=np.inf, acceleration=np.inf))
            for channel in problem.channels)
    try:
        return solve(replace(problem, channels=free))
    except NoPathError:
        wide = np.full(problem.frames, np.inf)
        return solve(replace(problem, channels=tuple(
            replace(channel, low=-wide, high=wide,
                    pins={at: float(np.clip(place, channel.low[at], channel.high[at]))
                          for at, place in channel.pins.items()}) for channel in free)))


def solve(problem: Problem) -> Solution:
    """The path of least cost. Raises NoPathError if the limits leave none."""
    frames, knot = np.arange(problem.frames), problem.basis.knot
    on = [soft.asked & (frames % (soft.every or FIRST_KNOTS * knot) == 0) for soft in problem.softs]
    for _ in range(MOST_ROUNDS):
        found = _solved(problem, on)
        more = [(soft.missed(found.places) > MISSED) & (soft.every is None)
                for soft in problem.softs]
        new = [extra & ~have for extra, have in zip(more, on, strict=True)]
        if not any(extra.any() for extra in new):
            return found
        on = [have | extra for have, extra in zip(on, new, strict=True)]
    return _solved(problem, [have if soft.every else soft.asked
                             for soft, have in zip(problem.softs, on, strict=True)])


def _solved(problem: Problem, on: list[Flags]) -> Solution:
    program = _build(problem, on)
    for presolve in (True, False):  # a few hard programs are solved only as they stand
        found = milp(
            program.cost, bounds=Bounds(program.low, program.high),
            constraints=LinearConstraint(program.rows, program.least, program.most),
            options={"presolve": presolve})
        if found.status != SOLVE_ERROR:
            break
    if not found.success:
        raise NoPathError(tr("No crop path was found for a shot: {message}", message=found.message))
    shape = (len(problem.channels), problem.basis.points)
    points = np.asarray(found.x[: shape[0] * shape[1]], np.float64).reshape(shape)
    places = np.stack([problem.basis.matrix @ row for row in points])
    return Solution(places, points, float(found.fun))


@dataclass(frozen=True)
class _Block:
    """Rows that say low_i <= (A x)_i + s_i - t_i <= high_i, with own 0 <= s, t <= cap at a price.

    With low = high = 0 the slacks are the two signs of A x, so that the price is on its size: one
    row for each where the usual way of writing a size takes two.
    """

    matrix: sparse.csr_matrix
    low: Array
    high: Array
    price: Array
    cap: Array


def _build(problem: Problem, on: list[Flags]) -> _Program:
    places = problem.basis
    blocks = [block for number in range(len(problem.channels))
              for block in _calm(problem, number)]
    blocks += [_asked(problem, soft, rows) for soft, rows in zip(problem.softs, on, strict=True)
               if rows.any()]
    low = np.concatenate([places.over(channel.low) for channel in problem.channels])
    high = np.concatenate([places.under(channel.high) for channel in problem.channels])
    crossed = low > high  # a fence that closes within a knot: the final clip sees to it
    low[crossed] = high[crossed] = (low[crossed] + high[crossed]) / 2
    return _assemble(blocks, _fixed(problem), low, high)


def _calm(problem: Problem, number: int) -> list[_Block]:
    """Prices and caps on the differences of one channel's control points.

    A difference of order d between points ``knot`` frames apart is knot ** d times that between
    frames, and stands for ``knot`` frames: so the prices are a frame's, whatever the knot.
    """
    places, channel = problem.basis, problem.channels[number]
    knot, blocks = places.knot, []
    for order, cap in zip((1, 2, 3), _caps(channel), strict=True):
        rows = places.points - order
        price = np.full(rows, channel.limits.weights[order - 1] * float(knot) ** (1 - order))
        if order == 2 and channel.steady is not None:
            price = price * channel.steady
        zero = np.zeros(rows)
        matrix = _placed({number: difference(places.points, order)}, problem)
        most = np.full(rows, cap * float(knot) ** order)
        if order == 1:
            for first, last in channel.holds:
                most[first:last] = 0.0
        blocks.append(_Block(matrix, zero, zero, price, most))
    return blocks


def _caps(channel: Channel) -> tuple[float, ...]:
    """Bounds of the three differences; wider where pins cannot be met within the limits."""
    ordered, limits = sorted(channel.pins.items()), channel.limits
    speed = max((abs(b - a) / (j - i) for (i, a), (j, b) in pairwise(ordered)), default=0.0)
    factor = max(1.0, PIN_SPARE * speed / limits.speed)
    acceleration = limits.acceleration if factor == 1.0 else np.inf
    return (limits.speed * factor, acceleration, np.inf)


def _asked(problem: Problem, soft: Soft, rows: Flags) -> _Block:
    matrix = _placed({number: sparse.diags(weight[rows]) @ problem.basis.matrix[rows]
                      for number, weight in soft.terms.items()}, problem)
    least, most = soft.least[rows], soft.most[rows]
    price = np.full(len(least), soft.price * (soft.every or 1))
    return _Block(matrix, np.where(np.isnan(least), -np.inf, least),
                  np.where(np.isnan(most), np.inf, most), price, np.full(len(least), np.inf))


def _fixed(problem: Problem) -> _Block | None:
    """Rows that hold without a price: pins, and what control points must obey."""
    parts, least, most = [], [], []
    for number, channel in enumerate(problem.channels):
        for frame, place in sorted(channel.pins.items()):
            inside = float(np.clip(place, channel.low[frame], channel.high[frame]))
            parts.append(_placed({number: problem.basis.matrix[[frame]]}, problem))
            least.append(inside)
            most.append(inside)
    each = sparse.eye(problem.basis.points, format="csr")
    for hard in problem.hards:
        parts.append(_placed({number: each * by for number, by in hard.terms.items()}, problem))
        least += [hard.least] * problem.basis.points
        most += [hard.most] * problem.basis.points
    if not parts:
        return None
    none = np.zeros(len(least))
    return _Block(sparse.vstack(parts, format="csr"), np.array(least), np.array(most), none, none)


def _placed(parts: dict[int, sparse.csr_matrix], problem: Problem) -> sparse.csr_matrix:
    """The matrices of some channels side by side with nothing for the others."""
    return beside(parts, len(problem.channels))


def _assemble(blocks: list[_Block], fixed: _Block | None, low: Array, high: Array) -> _Program:
    price = np.concatenate([block.price for block in blocks])
    cap = np.concatenate([block.cap for block in blocks])
    stacked = with_slacks(sparse.vstack([block.matrix for block in blocks], format="csr"))
    least = [block.low for block in blocks]
    most = [block.high for block in blocks]
    if fixed is not None:
        fixed_rows = widened(fixed.matrix, 0, stacked.shape[1])
        stacked = sparse.vstack([stacked, fixed_rows], format="csr")
        least.append(fixed.low)
        most.append(fixed.high)
    none = np.zeros(2 * len(price))
    return _Program(
        np.concatenate([np.zeros(len(low)), price, price]), stacked, np.concatenate(least),
        np.concatenate(most), np.concatenate([low, none]), np.concatenate([high, cap, cap]))
