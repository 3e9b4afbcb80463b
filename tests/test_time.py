"""Time against SMPTE ST 12-1 (values from memory) and against itself."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.base.errors import InputError
from caracal.core.base.time import (
    STANDARD_RATES,
    FrameRange,
    frame_of_timecode,
    nearest_standard_rate,
    samples_at,
    timecode,
)

NTSC = Fraction(30000, 1001)


@pytest.mark.parametrize(("frame", "text"), [
    (1799, "00:00:59;29"), (1800, "00:01:00;02"), (17981, "00:09:59;29"), (17982, "00:10:00;00"),
    (107892, "01:00:00;00"),
])
def test_drop_frame_matches_the_standard(frame, text):
    assert timecode(frame, NTSC) == text
    assert frame_of_timecode(text, NTSC) == frame


def test_non_drop_counts_plainly():
    assert timecode(25 * 3661 + 7, Fraction(25)) == "01:01:01:07"


@given(st.integers(0, 3_000_000), st.sampled_from(STANDARD_RATES))
def test_timecode_there_and_back(frame, rate):
    if rate < 100:
        assert frame_of_timecode(timecode(frame, rate), rate) == frame


@pytest.mark.parametrize("text", ["00:01:00;00", "1:2:3", "00:00:61:00", "00:00:00:30", "abc", ""])
def test_wrong_timecodes_are_refused(text):
    with pytest.raises(InputError):
        frame_of_timecode(text, NTSC)


def test_seconds_are_taken_too():
    assert frame_of_timecode("12.5", Fraction(24)) == 300


@given(st.integers(0, 10_000), st.integers(0, 10_000))
def test_parts_of_sound_add_up(a, b):
    """No sample is lost or doubled between neighbouring parts."""
    whole = samples_at(a + b, NTSC, 48000)
    assert samples_at(a, NTSC, 48000) + (whole - samples_at(a, NTSC, 48000)) == whole
    assert abs(whole - (a + b) * 48000 * 1001 / 30000) <= 0.5


def test_ranges_hold_frames():
    assert len(FrameRange(10, 15)) == 5
    with pytest.raises(InputError):
        FrameRange(5, 5)


def test_measured_rates_snap():
    assert nearest_standard_rate(Fraction(2998, 100)) == NTSC
    assert nearest_standard_rate(Fraction(2501, 100)) == 25
