"""The bits of a file: levels with their buffers, sizes that are kept, and what is made again.

Whatever the check of sheets accepts makes a proved file: see benchmarks/random_sheets.py.
"""

import random
import sys
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import msgspec
import numpy as np
import pytest

from caracal.core.base.errors import InputError
from caracal.core.base.time import standard_rate
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.convert import convert
from caracal.core.encoding.correction import corrected
from caracal.core.encoding.proof import Line, Proof
from caracal.core.plan.planner import Planner, most_lasting
from caracal.core.project.recipe import Recipe
from caracal.core.sound.finished_sound import SoundPlan
from caracal.core.specs.bits import Bits, bits_for, least_kbps
from caracal.core.specs.checks import problems
from caracal.core.specs.fields import with_value
from caracal.core.specs.levels import lowest_level
from caracal.core.specs.settings import encoder_settings, level_of
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffprobe, smaller, write_film

sys.path.append(str(Path(__file__).parent.parent / "benchmarks"))
from random_sheets import accepted_sheets, base_film, verdict

SHORT = find_sheet("vertical-short")


def sheet_with(**values):
    sheet = SHORT
    for name, value in values.items():
        sheet = with_value(sheet, name.replace("__", "."), value)
    return sheet


@pytest.mark.parametrize(("kbps", "buffer", "profile", "level"), [
    (12000, 25000, "Main", 40), (12000, 25001, "Main", 41),  # MaxCPB 25 000 at 4, 62 500 at 4.1
    (12000, 31250, "High", 40), (12000, 31251, "High", 41),  # a quarter more in High (A.3.3)
    (12000, 62501, "Main", 50), (12000, 135_001, "Main", 51), (25000, 12000, "High", 40),
    (25001, 12000, "High", 41),
])
def test_a_level_holds_the_buffer_as_well(kbps, buffer, profile, level):
    """ITU-T H.264 Table A-1, MaxBR and MaxCPB (from memory), at 1080x1920 and 30 fps."""
    assert lowest_level(1080, 1920, Fraction(30), kbps, profile, buffer) == level


def test_a_file_declares_the_level_of_its_buffer(tmp_path):
    """Read by ffprobe."""
    sheet = with_value(smaller(SHORT), "video.buffer_kb", 40_000)
    film = write_film(tmp_path / "film.mp4", frames=80)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right
    stream = next(each for each in ffprobe(Path(made.file))["streams"]
                  if each["codec_type"] == "video")
    assert stream["level"] == level_of(sheet, Fraction(25)) == 41


@pytest.mark.parametrize(("values", "words"), [
    ({"video__quality": 20.0, "video__passes": 2}, "uses one pass"),
    ({"video__quality": 0.0}, "between 1 and 51"), ({"video__quality": 52.0}, "between 1 and 51"),
    ({"video__codec": "h265", "video__profile": "Main 10"}, "needs the pixel format yuv420p10le"),
    ({"video__codec": "h265", "video__profile": "Main", "video__gop_s": 0.05}, "two|2 pictures"),
    ({"video__codec": "av1", "video__profile": "Main", "canvas": [48, 64]}, "64 × 64"),
    ({"canvas": [1080, 80]}, "too narrow"), ({"sound__rate_hz": 192_000}, "rates"),
    ({"sound__bitrate_kbps": 16}, "needs 29 kb/s"), ({"file__most_mb": 0.05}, "between 0.1"),
    ({"sound__loudness_lufs": -5.0}, "cannot be reached"),
    ({"video__bitrate_kbps": 300}, "kb/s or more"),
    ({"sound__codec": "opus", "sound__rate_hz": 24_000}, "has the rates 48000"),
])
def test_what_would_fail_late_is_refused_by_the_check(values, words):
    told = problems(sheet_with(**values))
    assert told and any(part in " ".join(told) for part in words.split("|")), told


def test_sheets_that_ship_ask_for_as_many_bits_as_before():
    for seconds in (3.0, 60.0, 90.0):
        assert bits_for(SHORT, Fraction(25), seconds, True) == Bits(8000, 12000, 12000)
    assert encoder_settings(SHORT, Fraction(25), True) == encoder_settings(
        SHORT, Fraction(25), True, bits=bits_for(SHORT, Fraction(25), 60.0, True))


def test_a_long_film_gets_the_bitrate_that_its_size_allows():
    """240 MB over 600 s are 3200 kb/s; less 128 for sound and 2 % in spare about 3000 (common
    practice: limit x 8000 / seconds - audio, less 2 %)."""
    sheet = sheet_with(file__most_mb=240.0, duration__most_s=900.0)
    bits = bits_for(sheet, Fraction(25), 600.0, True)
    assert bits.target_kbps == pytest.approx((3200 - 128) * 0.98, rel=0.01)
    assert bits.largest_kbps == bits.target_kbps  # so that no moment takes what is not there
    with pytest.raises(InputError, match="do not fit into the 240 MB"):
        bits_for(sheet, Fraction(25), 12_000.0, True)


def test_a_file_keeps_within_its_size_and_is_proved(tmp_path):
    sheet = with_value(with_value(smaller(SHORT), "file.most_mb", 0.3), "video.gop_s", 1.0)
    film = write_film(tmp_path / "film.mp4", frames=200, size=(640, 360), sound=False)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right and Path(made.file).stat().st_size <= 300_000


def test_the_fewest_bits_go_by_pixels_and_groups():
    """A picture that stands alone takes 0.12 bits a pixel, one that follows a tenth of that."""
    sheet = sheet_with(canvas=[100, 100], video__gop_s=1.0)
    assert least_kbps(sheet, Fraction(25)) == round(10_000 * (0.12 + 24 * 0.012) / 1000)
    assert least_kbps(sheet_with(canvas=[100, 100], video__gop_s=0.04), Fraction(25)) == 30


@pytest.mark.parametrize(("decimal", "exact"), [
    (23.976, Fraction(24000, 1001)), (29.97, Fraction(30000, 1001)), (59.94, Fraction(60000, 1001)),
    (25.0, Fraction(25)), (27.5, Fraction(55, 2)), (24.0, Fraction(24))])
def test_a_decimal_stands_for_the_rate_of_the_trade(decimal, exact):
    """SMPTE ST 12-1: 23.976 is 24000/1001."""
    assert standard_rate(decimal) == exact


@pytest.mark.parametrize(("most_s", "rate", "master", "frames"), [
    (2.0, Fraction(24000, 1001), Fraction(25), 49),  # 47 pictures of 1.96 s, not 48 of 2.002 s
    (2.0, Fraction(25), Fraction(25), 50),
    (15.0, Fraction(30000, 1001), Fraction(30000, 1001), 449),
    (60.0, Fraction(50), Fraction(25), 1500)])
def test_no_file_is_longer_than_its_limit_by_a_part_of_a_picture(most_s, rate, master, frames):
    sheet = sheet_with(duration__most_s=most_s, duration__least_s=0.0)
    found = most_lasting(sheet, rate, rate / master)
    assert found == frames
    assert round(found * rate / master) / rate <= most_s < round((found + 1) * rate / master) / rate


# A file that is narrowly wrong is made again

@pytest.fixture(scope="module")
def planned(tmp_path_factory):
    from caracal.core.analysis.film_pass.analyse import analyse

    folder = tmp_path_factory.mktemp("planned")
    film = write_film(folder / "film.mp4", frames=100)
    planner = Planner(analyse(film), no_progress, CancelToken())
    (plan,) = planner.add(0, Recipe(smaller(SHORT)), folder)
    return plan


def proof_of(*lines):
    return Proof("x.mp4", "x", (Line("canvas", "a", "a", True), *lines))


def test_too_many_bits_are_fewer_the_next_time(planned):
    made = corrected(planned, proof_of(Line("video bitrate", "", "", False, 15_000.0, 12_000.0)))
    share = 0.96 * 12_000 / 15_000
    assert made.bits == Bits(*(round(kbps * share) for kbps in (8000, 12000, 12000)))
    again = corrected(made, proof_of(Line("video bitrate", "", "", False, 14_000.0, 12_000.0)))
    share = (0.96 * 12_000 / 14_000) ** 3  # it took little notice: it is told more firmly
    assert again.bits.target_kbps == round(made.bits.target_kbps * share)
    far = corrected(planned, proof_of(Line("size", "", "", False, 0.9, 0.5)))
    sound_mb = 128 * 4 / 8000
    assert far.bits.target_kbps == round(8000 * 0.96 * (0.5 - sound_mb) / (0.9 - sound_mb))


def test_a_peak_that_the_coder_made_is_limited_by_as_much(planned):
    plan = msgspec.structs.replace(planned, sound=SoundPlan(3.0, -2.0))
    made = corrected(plan, proof_of(Line("true peak", "", "", False, -0.5, -1.0)))
    assert made.sound.limit_dbtp == pytest.approx(-2.0 - 1.4 * 0.5 - 0.3)
    louder = corrected(plan, proof_of(Line("loudness", "", "", False, -15.0, -14.0)))
    assert louder.sound.gain_db == pytest.approx(4.0)


@pytest.mark.parametrize("line", [
    Line("frames", "100", "99", False), Line("pictures", "", "", False),
    Line("loudness", "", "", False, -40.0, -14.0)])
def test_what_is_wrong_otherwise_is_told_and_not_tried_again(planned, line):
    assert corrected(planned, proof_of(line)) is None
    assert corrected(planned, proof_of()) is None


def test_a_file_is_made_again_and_only_the_proved_one_is_left(tmp_path, monkeypatch):
    """The first try is given five times its bits: its proof says so, and a second one is made."""
    from caracal.core.plan import planner as plan_module

    monkeypatch.setattr(plan_module, "bits_for", lambda *_: Bits(4000, 6000, 3000))
    sheet = msgspec.structs.replace(smaller(SHORT), video=msgspec.structs.replace(
        SHORT.video, bitrate_kbps=400, largest_kbps=500, buffer_kb=250))
    assert not problems(sheet)
    film = base_film(tmp_path / "film.mp4", 4.0)
    told = []
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out",
                      report=lambda progress: told.append((progress.doing, progress.done)))
    assert made.proof.right, [line for line in made.proof.lines if not line.right]
    assert [path.name for path in (tmp_path / "out").iterdir()] == [Path(made.file).name]
    done = [count for doing, count in told if doing == "Encoding"]
    assert any(later < sooner for sooner, later in pairwise(done))  # twice


@pytest.mark.timeout(600)
def test_whatever_the_check_accepts_makes_a_proved_file(tmp_path):
    """Two seconds of film by sheets of every kind; benchmarks/random_sheets.py tries hundreds."""
    film, sheets = base_film(tmp_path / "base.mp4"), accepted_sheets(random.Random(11))
    for _ in range(10):
        sheet = next(sheets)
        assert verdict(film, sheet, tmp_path / "out") == "", msgspec.json.encode(sheet)


def test_a_quality_too_coarse_to_recognise_anything_is_made_finer(tmp_path):
    """51 on a canvas of 48 pixels is no picture: it is tried at 45 and 39 as well, and proved."""
    film = write_film(tmp_path / "film.mp4", frames=80, picture=noise_picture)
    sheet = find_sheet("square-feed")
    for field, value in (("canvas", (48, 48)), ("video.quality", 51.0), ("video.gop_s", 0.2)):
        sheet = with_value(sheet, field, value)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right and len(list((tmp_path / "out").iterdir())) == 1


def noise_picture(number, luma):
    """Coarse patterns that move, which a coarse quality blurs into one."""
    patterns = np.random.default_rng(3).integers(20, 235, (12, 12)).astype(np.uint8)
    large = np.kron(patterns, np.ones((30, 30), np.uint8))
    return large[: luma.shape[0], number % 40 : number % 40 + luma.shape[1]].copy()
