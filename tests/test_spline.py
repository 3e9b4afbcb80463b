"""The basis of paths, against scipy's own B-splines and what is true of any B-spline."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import BSpline

from caracal.core.framing.spline import basis


@given(st.integers(1, 400), st.integers(1, 9))
def test_shares_are_positive_and_sum_to_one(frames, knot):
    """Partition of unity; de Boor 1978, chapter IX."""
    matrix = basis(frames, knot).matrix.toarray()
    assert matrix.shape[0] == frames and (matrix >= 0).all()
    assert matrix.sum(axis=1) == pytest.approx(np.ones(frames))


@pytest.mark.parametrize(("frames", "knot"), [(1, 1), (2, 5), (40, 1), (97, 6), (100, 3)])
def test_curves_are_scipy_s_curves(frames, knot):
    made = basis(frames, knot)
    points = np.random.default_rng(frames).normal(0, 100, made.points)
    knots = (np.arange(made.points + 4) - 3.0) * knot
    assert made.matrix @ points == pytest.approx(BSpline(knots, points, 3)(np.arange(frames)))


@given(st.integers(2, 200), st.integers(1, 8), st.integers(0, 2**31))
def test_a_curve_is_no_faster_than_its_points(frames, knot, seed):
    """Limits put on control points hold for every frame."""
    made = basis(frames, knot)
    points = np.cumsum(np.random.default_rng(seed).normal(0, 20, made.points))
    places = made.matrix @ points
    assert np.abs(np.diff(places)).max() <= np.abs(np.diff(points)).max() / knot + 1e-9
    assert places.min() >= points.min() - 1e-9 and places.max() <= points.max() + 1e-9


def test_bounds_of_points_are_those_of_the_frames_they_touch():
    made = basis(30, 5)
    high = np.full(30, 100.0)
    high[12] = 40.0
    under = made.under(high)
    touched = made.matrix.toarray()[12] > 0
    assert (under[touched] == 40).all() and (under[~touched] == 100).all()
    assert (made.over(-high) == -under).all()
