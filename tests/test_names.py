"""Names of files: patterns, and characters that some file system refuses."""

from datetime import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.base.errors import InputError
from caracal.core.plan.file_names import MOST_BYTES, Named, free_path, name_of
from caracal.core.specs.patterns import FIELDS
from caracal.core.specs.sheet_store import find_sheet

SHEET = find_sheet("vertical-short")
MOMENT = datetime(2026, 11, 25, 8, 5)


def named(film="Kiln Day", version="A", part=""):
    return Named(film, version, SHEET, part, MOMENT)


@pytest.mark.parametrize(("pattern", "part", "wanted"), [
    ("{film} {sheet} {part}", "", "Kiln Day vertical-short"),
    ("{film}_{shape}_{resolution}", "", "Kiln Day_9x16_1080x1920"),
    ("{date} {time} {version} {film}", "", "2026-11-25 0805 A Kiln Day"),
    ("{film}", "part 2 of 3", "Kiln Day part 2 of 3"),
])
def test_patterns_are_filled_in(pattern, part, wanted):
    assert name_of(pattern, named(part=part)) == wanted


@pytest.mark.parametrize("pattern", ["{film", "{nonsense}", "always the same", "{}"])
def test_patterns_that_are_none_are_refused(pattern):
    with pytest.raises(InputError):
        name_of(pattern, named())


@given(st.text(max_size=300), st.text(max_size=40))
def test_every_name_fits_every_file_system(film, version):
    """No character that NTFS, FAT or a Unix path refuses, no reserved name, short enough."""
    made = name_of("{film} {version}", named(film, version))
    assert made and len(made.encode()) <= MOST_BYTES
    assert not set(made) & set('<>:"/\\|?*\x00') and made[-1] not in ". "
    assert made.upper() not in ("CON", "PRN", "AUX", "NUL", "COM1", "LPT1")


def test_taken_names_are_numbered(tmp_path):
    (tmp_path / "film.mp4").touch()
    assert free_path(tmp_path, "film", "mp4", set()).name == "film 2.mp4"
    assert free_path(tmp_path, "film", "mp4", {tmp_path / "film 2.mp4"}).name == "film 3.mp4"


def test_all_fields_are_known():
    assert set(named().fields()) == set(FIELDS)
