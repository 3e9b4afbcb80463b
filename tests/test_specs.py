"""Spec sheets, levels and estimates against TRADE's numbers."""

from fractions import Fraction

import pytest

from caracal.core.errors import InputError
from caracal.core.specs.levels import lowest_level, macroblocks
from caracal.core.specs.settings import encoder_settings, estimated_mb
from caracal.core.specs.sheet import find_sheet, read_sheet, shipped_sheets


def test_macroblocks_of_a_tall_picture():
    assert macroblocks(1080, 1920) == 8160


@pytest.mark.parametrize(("rate", "kbps", "level"), [
    (30, 12000, 40), (Fraction(60000, 1001), 12000, 42), (60, 12000, 42), (25, 40000, 41),
])
def test_lowest_levels(rate, kbps, level):
    """ITU-T H.264 Table A-1 (from memory): 244800 macroblocks a second fit 4.0, 489600 need 4.2."""
    assert lowest_level(1080, 1920, Fraction(rate), kbps) == level


def test_impossible_pictures_have_no_level():
    with pytest.raises(InputError):
        lowest_level(1080, 1920, Fraction(30), 2_000_000)


def test_size_sum():
    """8000 + 128 kb/s over 60 s is 60.96 MB, one part in a hundred more with the container."""
    assert estimated_mb(find_sheet("vertical-short"), 60) == pytest.approx(60.96 * 1.01)


@pytest.mark.parametrize(("name", "canvas", "most_s", "kbps"), [
    ("vertical-short", (1080, 1920), 90, 8000), ("square-feed", (1080, 1080), 60, 6000),
    ("portrait-feed", (1080, 1350), 240 * 60, 6000),
])
def test_shipped_sheets_have_the_trade_s_values(name, canvas, most_s, kbps):
    sheet = find_sheet(name)
    assert (sheet.canvas, sheet.duration.most_s, sheet.video.bitrate_kbps) == (canvas, most_s, kbps)
    assert sheet.checked and sheet.source


def test_settings_close_their_gops_and_fit_the_level():
    made = encoder_settings(find_sheet("vertical-short"), Fraction(25), with_sound=True)
    assert made.gop_frames == 50 and "open-gop=0" in made.options["x264-params"]
    assert made.options["level"] == "4.0" and made.sound.rate_hz == 48000


def test_unknown_and_broken_sheets_say_why(tmp_path):
    with pytest.raises(InputError, match="There are:"):
        find_sheet("nowhere")
    bad = tmp_path / "bad.toml"
    bad.write_text("name = 'x'\ncanvas = [1080")
    with pytest.raises(InputError, match="broken"):
        read_sheet(bad)


def test_every_sheet_is_named_like_its_file():
    assert set(shipped_sheets()) >= {"vertical-short", "square-feed", "portrait-feed"}


def test_duration_and_rate_are_refused_before_any_work():
    sheet = find_sheet("square-feed")
    with pytest.raises(InputError, match="at most 60 s"):
        sheet.refuse_duration(60.1, "Film")
    with pytest.raises(InputError, match="no less"):
        sheet.refuse_duration(1.0, "Film")
    with pytest.raises(InputError, match="frames a second"):
        sheet.refuse_rate(Fraction(15))
    sheet.refuse_rate(Fraction(24000, 1001))
