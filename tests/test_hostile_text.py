"""Sheets, projects, cut lists and schedules made to do harm: bounded, each with a sentence."""

import json
import os
import zipfile
from fractions import Fraction

import opentimelineio as otio
import pytest

from caracal.core.base.errors import InputError
from caracal.core.base.reading_text import refuse_nesting
from caracal.core.desk.desk import Desk
from caracal.core.exchange.cut_lists import read_cut_list
from caracal.core.project.storage import read_document
from caracal.core.specs.patterns import check_pattern
from caracal.core.specs.sheet_store import find_sheet, read_sheet, sheet_text

DEEP = "[" * 100_000 + "]" * 100_000


def text_of_a_sheet():
    return sheet_text(find_sheet("square-feed"))


@pytest.mark.parametrize(("harm", "told"), [
    (lambda: text_of_a_sheet() + "a" + ".a" * 100_000 + " = 1", "too long"),
    (lambda: text_of_a_sheet() + f"x = {DEEP}", "levels deep"),
    (lambda: text_of_a_sheet() + "#" * (9 << 20), "too large"),
    (lambda: text_of_a_sheet() + "x = 1" + " " * 20_000, "too long"),
])
def test_a_sheet_made_to_do_harm_is_told(tmp_path, harm, told):
    path = tmp_path / "sheet.toml"
    path.write_text(harm())
    with pytest.raises(InputError, match=told):
        read_sheet(path)


def test_a_pipe_is_no_sheet_and_holds_nobody(tmp_path):
    os.mkfifo(tmp_path / "sheet.toml")
    with pytest.raises(InputError, match="not a file"):
        read_sheet(tmp_path / "sheet.toml")


def test_deep_projects_and_cut_lists_are_told(tmp_path):
    project, cuts, packed = (tmp_path / f"deep.{kind}" for kind in ("caracal", "otio", "otioz"))
    for path in (project, cuts):
        path.write_text(DEEP)
    with zipfile.ZipFile(packed, "w") as made:
        made.writestr("content.otio", DEEP)
    with pytest.raises(InputError, match="levels deep"):
        read_document(project)
    for path in (cuts, packed):
        with pytest.raises(InputError, match="levels deep"):
            read_cut_list(path, Fraction(25), 100)
    packed.write_bytes(b"no archive")
    with pytest.raises(InputError, match="cannot be read"):
        read_cut_list(packed, Fraction(25), 100)


def test_brackets_in_words_are_no_levels(tmp_path):
    refuse_nesting(json.dumps({"title": "[" * 1000, "quoted": '"[[[["' * 99}).encode(),
                   tmp_path, "project")


@pytest.mark.parametrize("pattern", [
    "{film:>9999999999}", "{film:d}", "{film!x}", "{film!r}", "{movie}", "a/b {film}",
    "..\\\\{film}", "{film} " * 99, "{film}\n", "{", "{film.__class__}", "{film[0]}", "plain"])
def test_patterns_made_to_do_harm_are_told(pattern):
    with pytest.raises(InputError):
        check_pattern(pattern)


@pytest.mark.parametrize("file", ["../precious", "/PRECIOUS"])
def test_a_schedule_removes_nothing_outside_its_folder(tmp_path, file):
    precious, outbox = tmp_path / "precious", tmp_path / "outbox"
    precious.write_text("mine")
    outbox.mkdir()
    entry = {"id": "1", "file": file.replace("/PRECIOUS", str(precious)), "sheet": "x",
             "post": {"title": "t"}, "received": "2026-01-01"}
    (outbox / "schedule.json").write_text(json.dumps([entry]))
    with pytest.raises(InputError, match="not a file of this folder"):
        Desk(outbox).withdraw("1")
    assert precious.read_text() == "mine" and len(Desk(outbox).entries()) == 1


@pytest.mark.parametrize(("number", "second", "said"), [
    (40.0, 20.0, ""), (0.0, 20.0, ""), (-40.0, 20.0, "cannot be read"),
    (float("inf"), 20.0, "cannot be read"), (float("nan"), 20.0, "cannot be read"),
    (40.0, -20.0, "cannot be read"), (400.0, 20.0, "does not fit")])
def test_times_of_a_cut_list_that_are_none_are_told(tmp_path, number, second, said):
    """Written by OpenTimelineIO; a float that is no number was an OverflowError."""
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline = otio.schema.Timeline("cuts")
    timeline.tracks.append(track)
    for frames in (number, second, 20.0):
        track.append(otio.schema.Clip("shot", source_range=otio.opentime.TimeRange(
            otio.opentime.RationalTime(0, 25), otio.opentime.RationalTime(frames, 25))))
    otio.adapters.write_to_file(timeline, str(tmp_path / "cuts.otio"))
    if said:
        with pytest.raises(InputError, match=said):
            read_cut_list(tmp_path / "cuts.otio", Fraction(25), 100)
    else:
        starts = [start.frame for start in read_cut_list(tmp_path / "cuts.otio", Fraction(25), 100)]
        assert starts == ([0, 40, 60] if number else [0, 20])
