"""Sheets that take one rate only, as people write it, from masters of every common rate.

The NTSC rates are SMPTE ST 12-1's: a nominal rate times 1000/1001.
"""

from fractions import Fraction

import pytest

from caracal.core.convert import Recipe, convert
from caracal.core.specs.checks import problems
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import Rates
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffprobe, write_film

WRITTEN = {23.976: Fraction(24000, 1001), 23.98: Fraction(24000, 1001), 24.0: Fraction(24),
           25.0: Fraction(25), 29.97: Fraction(30000, 1001), 30.0: Fraction(30),
           47.95: Fraction(48000, 1001), 50.0: Fraction(50), 59.94: Fraction(60000, 1001),
           60.0: Fraction(60), 119.88: Fraction(120000, 1001), 120.0: Fraction(120)}
MASTERS = sorted({*WRITTEN.values(), Fraction(12), Fraction(15), Fraction(100)})


@pytest.mark.parametrize("written", WRITTEN)
def test_every_master_can_be_brought_to_every_rate(written):
    """To the exact rate, or to the one beside it that counts as the same (1000/1001 of it)."""
    rates, exact = Rates(1.0, 120.0, (written,)), WRITTEN[written]
    for master in MASTERS:
        made = rates.nearest(master)
        assert rates.take(made)
        assert made in (exact, exact * Fraction(1001, 1000), exact * Fraction(1000, 1001))
        if made != exact:
            assert made == master or master % made == 0 or made % master == 0


@pytest.mark.parametrize("change", ["repeat", "blend"])
@pytest.mark.parametrize("written", [23.976, 23.98, 29.97, 47.95, 59.94, 119.88])
def test_files_have_the_ntsc_rate_that_was_written(tmp_path, written, change):
    film = write_film(tmp_path / "film.mp4", frames=80, rate="25/1")
    sheet = with_value(find_sheet("square-feed"), "canvas", (180, 180))
    for field, value in (("rates.least", 1.0), ("rates.most", 120.0), ("rates.only", (written,)),
                         ("rates.change", change)):
        sheet = with_value(sheet, field, value)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right
    picture = next(stream for stream in ffprobe(made.file)["streams"]
                   if stream["codec_type"] == "video")
    assert Fraction(picture["r_frame_rate"]) == WRITTEN[written]
    assert float(picture["duration"]) == pytest.approx(3.2, abs=0.5 / written + 0.001)


def test_a_sheet_from_24_to_60_may_ask_for_23_976_alone():
    sheet = with_value(find_sheet("square-feed"), "rates.least", 24.0)
    assert not problems(with_value(sheet, "rates.only", (23.976, 59.94)))
    assert problems(with_value(sheet, "rates.only", (20.0,)))
