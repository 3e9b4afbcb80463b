"""Ranges joined and rates converted: which frame of the master every frame of a file shows."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange, samples_at
from caracal.core.base.timeline import cut, timeline
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.proof import prove
from caracal.core.media.decode import frames
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import RateChange, Rates
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffprobe, noise, write_film

RATES = st.sampled_from([Fraction(24), Fraction(25), Fraction(30000, 1001), Fraction(50),
                         Fraction(60)])


@st.composite
def ranges(draw):
    at, found = draw(st.integers(0, 50)), []
    for _ in range(draw(st.integers(1, 4))):
        length = draw(st.integers(1, 60))
        found.append(FrameRange(at, at + length))
        at += length + draw(st.integers(1, 40))
    return tuple(found)


@given(ranges(), RATES, RATES)
def test_every_frame_shows_the_picture_of_its_time(spans, master, rate):
    """Frame k of a file is what the joined film shows at k / rate, never a later picture."""
    line = timeline(spans, master, rate)
    places, shares = line.sources()
    assert len(places) == line.frames and not shares.any()
    exact = [min(int(k * master / rate), line.joined - 1) for k in range(line.frames)]
    assert places.tolist() == exact


@given(ranges(), RATES, RATES)
def test_sound_is_as_long_as_the_pictures(spans, master, rate):
    line = timeline(spans, master, rate)
    total = sum(count for _, count in line.sound(48000))
    assert abs(total - samples_at(line.frames, rate, 48000)) <= 1


@given(ranges(), st.data())
def test_parts_of_joined_ranges_lose_and_double_nothing(spans, data):
    joined = sum(len(span) for span in spans)
    at = data.draw(st.integers(0, joined))
    pieces = [*cut(spans, 0, at), *cut(spans, at, joined)]
    found = [frame for piece in pieces for frame in range(piece.start, piece.end_exclusive)]
    assert found == [frame for span in spans for frame in range(span.start, span.end_exclusive)]


def test_ranges_that_touch_become_one():
    line = timeline([FrameRange(10, 20), FrameRange(0, 10), FrameRange(15, 30)], Fraction(25))
    assert line.ranges == (FrameRange(0, 30),)
    with pytest.raises(InputError):
        timeline([], Fraction(25))


def test_mixing_never_crosses_a_joint_or_a_cut():
    line = timeline([FrameRange(0, 25), FrameRange(100, 125)], Fraction(25), Fraction(30), True)
    places, shares = line.sources(cuts=(10,))
    mixed = shares > 0
    assert mixed.sum() > 20
    assert not mixed[places == 24].any() and not mixed[places == 9].any()
    assert np.allclose((places + shares)[mixed] / 25, np.arange(60)[mixed] / 30)


@pytest.mark.parametrize(("rates", "rate", "wanted"), [
    (Rates(24, 30, change=RateChange.REPEAT), Fraction(50), Fraction(25)),
    (Rates(24, 30, change=RateChange.REPEAT), Fraction(60000, 1001), Fraction(30000, 1001)),
    (Rates(24, 60, change=RateChange.REPEAT), Fraction(25, 2), Fraction(25)),
    (Rates(24, 60, (25,), RateChange.BLEND), Fraction(24), Fraction(25)),
    (Rates(24, 60), Fraction(24000, 1001), Fraction(24000, 1001)),
])
def test_the_nearest_rate_is_an_even_part_where_there_is_one(rates, rate, wanted):
    """Common practice: 50 becomes 25 by leaving out every other picture."""
    assert rates.nearest(rate) == wanted


SMALL = with_value(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                   "duration.least_s", 0.5)


def test_pictures_that_need_no_scaling_are_not_overtaken(tmp_path):
    """A canvas that is a part of the shared picture must outlive it: the slot is used again."""
    film = write_film(tmp_path / "film.mp4", frames=80,
                      picture=lambda n, y: np.full_like(y, 40 + n))
    (made,) = convert(film, [Recipe(SMALL)], tmp_path / "out")
    seen = [float(planes.y.mean()) for _, planes in frames(probe(tmp_path / made.file))]
    assert np.abs(np.array(seen) - 40 - np.arange(80)).max() < 3


def test_two_ranges_become_one_file_of_just_their_frames_and_sound(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=100,
                      picture=lambda n, y: np.full_like(y, 40 + n))
    spans = (FrameRange(10, 40), FrameRange(60, 90))
    (made,) = convert(film, [Recipe(SMALL, ranges=spans)], tmp_path / "out")
    assert made.proof.right
    master = probe(tmp_path / "out" / made.file)
    seen = [float(planes.y.mean()) for _, planes in frames(master)]
    wanted = [40 + n for span in spans for n in range(span.start, span.end_exclusive)]
    assert len(seen) == 60 and np.abs(np.array(seen) - wanted).max() < 3
    with SoundReader(master, 48000, 2) as sound:
        heard = sound.take(60 * 1920)[:, 0]
    for at, source in ((5000, 10 * 1920 + 5000), (45 * 1920, 75 * 1920)):
        part = noise(source, source + 4000)[:, 0]
        found = np.argmax(np.correlate(heard[at - 1000 : at + 5000], part, "valid")) - 1000
        assert abs(found) <= 48


@pytest.mark.parametrize(("rates", "frames_made", "rate"), [
    (Rates(24, 30, change=RateChange.REPEAT), 50, "25/1"),
    (Rates(24, 60, (30,), RateChange.BLEND), 60, "30/1"),
])
def test_another_rate_is_made_and_ffprobe_agrees(tmp_path, rates, frames_made, rate):
    film = write_film(tmp_path / "film.mp4", frames=100, rate="50/1")
    sheet = with_value(SMALL, "rates", rates)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right
    video = next(s for s in ffprobe(made.file)["streams"] if s["codec_type"] == "video")
    assert (int(video["nb_read_frames"]), video["r_frame_rate"]) == (frames_made, rate)


def test_a_refused_rate_is_never_converted_silently(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=100, rate="50/1")
    with pytest.raises(InputError, match="frames a second"):
        convert(film, [Recipe(with_value(SMALL, "rates", Rates(24, 30)))], tmp_path / "out")


def test_a_version_of_one_picture_is_refused_and_of_two_is_made(tmp_path):
    """One picture is no film, and would be told as one only after it was made."""
    film = write_film(tmp_path / "film.mp4")
    sheet = with_value(SMALL, "duration.least_s", 0.0)
    with pytest.raises(InputError, match="single frame"):
        convert(film, [Recipe(sheet, ranges=(FrameRange(5, 6),))], tmp_path / "out")
    (made,) = convert(film, [Recipe(sheet, ranges=(FrameRange(5, 7),))], tmp_path / "out")
    assert made.proof.right and ffprobe(made.file)["streams"][0]["nb_read_frames"] == "2"


def test_a_version_trimmed_to_its_sheet_is_proved(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=60)
    sheet = with_value(with_value(SMALL, "duration.most_s", 2.0), "duration.beyond", "trim")
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    proof = prove(tmp_path / made.file, sheet)
    assert proof.right and probe(tmp_path / made.file).frames <= 50
