"""Odd cut lists: times are exact by arithmetic on paper, and impossible values are refused."""

import json
from fractions import Fraction

import opentimelineio as otio
import pytest

from caracal.core.base.errors import InputError
from caracal.core.exchange.cut_lists import read_cut_list

RATE = Fraction(25)


def timeline(lengths, rate, kind=otio.schema.TrackKind.Video):
    """Clips of so many frames each, at ``rate``."""
    track = otio.schema.Track("V1", kind=kind)
    for number, length in enumerate(lengths):
        track.append(otio.schema.Clip(f"shot {number}", source_range=otio.opentime.TimeRange(
            otio.opentime.RationalTime(0, rate), otio.opentime.RationalTime(length, rate))))
    made = otio.schema.Timeline("cuts")
    made.tracks.append(track)
    return made


def starts(tmp_path, made, frames, rate=RATE):
    path = tmp_path / "cuts.otio"
    path.write_text(made if isinstance(made, str) else otio.adapters.write_to_string(
        made, "otio_json"))
    return [start.frame for start in read_cut_list(path, rate, frames)]


@pytest.mark.parametrize(("length", "theirs", "ours"), [
    (51, 50.0, Fraction(25)), (51, 50.0, Fraction(24)), (1001, 29.97, Fraction(25)),
    (7, 59.94, Fraction(24000, 1001)), (13, 23.976, Fraction(60)),
])
def test_lists_of_another_rate_do_not_drift(tmp_path, length, theirs, ours):
    """40 clips of 51 frames at 50 end at frame 1020 of 25 a second, not at 1000 or 1040."""
    exact = {50.0: Fraction(50), 29.97: Fraction(30000, 1001), 59.94: Fraction(60000, 1001),
             23.976: Fraction(24000, 1001)}[theirs]
    wanted = [round(number * length / exact * ours) for number in range(40)]
    assert starts(tmp_path, timeline([length] * 40, theirs), 10**6, ours) == wanted


def changed(change):
    text = json.loads(otio.adapters.write_to_string(timeline([30, 30, 30], 25), "otio_json"))
    change(text)
    return json.dumps(text)


def clip(text, number=1):
    return text["tracks"]["children"][0]["children"][number]


ODD = {
    "no tracks": lambda text: text.update(tracks=None),
    "no source range": lambda text: clip(text).update(source_range=None),
    "a negative length": lambda text: clip(text)["source_range"]["duration"].update(value=-30),
    "rate 0": lambda text: clip(text)["source_range"]["duration"].update(rate=0),
    "not a number": lambda text: clip(text)["source_range"]["duration"].update(value="NaN"),
    "no children": lambda text: text["tracks"]["children"][0].update(children=None),
    "a clip that is none": lambda text: text["tracks"]["children"][0]["children"].append(None),
    "an age": lambda text: clip(text)["source_range"]["duration"].update(value=1e18),
}


@pytest.mark.parametrize("name", ODD)
def test_what_no_list_holds_is_told_of_the_list(tmp_path, name):
    """Some of these end the library with its process: it is not the window's or the command's."""
    with pytest.raises(InputError) as told:
        starts(tmp_path, changed(ODD[name]), 100)
    assert told.value.file == tmp_path / "cuts.otio" and told.value.remedy
    assert "cut list" in told.value.what and "nobody foresaw" not in told.value.sentence()


def test_clips_of_no_length_are_passed_over(tmp_path):
    assert starts(tmp_path, timeline([30, 0, 30], 25), 100) == [0, 30]
