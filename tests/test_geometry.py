"""Windows and shapes: TRADE's sums (arithmetic, common practice) and properties."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.base.geometry import Shape, enlargement, keep_inside, keeps, window_size

HD = (0.0, 0.0, 1920.0, 1080.0)


@pytest.mark.parametrize(("shape", "size"), [
    ("9:16", (607.5, 1080)), ("1:1", (1080, 1080)), ("4:5", (864, 1080)), ("2:3", (720, 1080)),
    ("16:9", (1920, 1080)),
])
def test_largest_windows_in_full_hd(shape, size):
    assert window_size(Shape.parse(shape), HD) == pytest.approx(size)


def test_letterboxed_film_gives_windows_from_its_active_picture():
    """A 2.39:1 film in 16:9 has about 803 active rows."""
    wide, high = window_size(Shape.parse("9:16"), (0, 138, 1920, 803))
    assert (wide, high) == pytest.approx((803 * 9 / 16, 803))


def test_enlargement_of_usual_masters():
    assert enlargement((1080, 1920), (0, 0, 607.5, 1080)) == pytest.approx(1.78, abs=0.003)
    assert enlargement((1080, 1920), (0, 0, 1215, 2160)) == pytest.approx(0.89, abs=0.002)


boxes = st.tuples(*[st.floats(-3000, 3000)] * 2)
sizes = st.sampled_from(["9:16", "1:1", "4:5", "2:3", "4:3"])


@given(boxes, sizes, st.floats(1, 3))
def test_windows_never_leave_the_active_picture(place, shape, zoom):
    active = (0.0, 138.0, 1920.0, 803.0)
    x, y, w, h = keep_inside(*place, window_size(Shape.parse(shape), active, zoom), active)
    assert x >= active[0] - 1e-9 and y >= active[1] - 1e-9
    assert x + w <= 1920 + 1e-9 and y + h <= 138 + 803 + 1e-9


def test_keeping_means_inside_or_covering():
    window = (100.0, 0.0, 600.0, 1080.0)
    assert keeps(window, (150, 100, 200, 500))
    assert not keeps(window, (50, 100, 200, 500))
    assert keeps(window, (0, 100, 900, 500))
    assert not keeps(window, (150, 100, 900, 500))


@pytest.mark.parametrize("text", ["9", "0:16", "nine:16", "9:16:2", ""])
def test_wrong_shapes_are_refused(text):
    with pytest.raises(ValueError, match="is not a shape"):
        Shape.parse(text)


def test_shapes_reduce():
    assert str(Shape.of(1080, 1350)) == "4:5"
