"""What is said before a batch starts, and which of it stops a version."""

from datetime import date
from fractions import Fraction
from pathlib import Path

import msgspec
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.batch.concerns import ConcernKind, concerns_of, places, summary
from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.layout.card import Card
from caracal.core.layout.model import PictureFile
from caracal.core.layout.overlay import Overlay
from caracal.core.media.master import Colour
from caracal.core.media.probe import probe
from caracal.core.project.recipe import Recipe
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import RateChange, Rates
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.cues import Cue
from caracal.core.text.style import TextStyle, Title
from conftest import DEMO

TODAY = date(2026, 11, 25)
SQUARE = find_sheet("square-feed")
FLAG = Flag(FlagKind.TEXT_CUT, "The edge cuts words.", 0, 25, 0.5)


@pytest.fixture(scope="module")
def master():
    return probe(DEMO)


def kinds(master, folder, sheet=SQUARE, flags=None, today=TODAY, **more):
    found = concerns_of(master, "A", Recipe(sheet, **more), flags or {}, folder, today)
    return {concern.kind: concern.stops for concern in found}


def test_a_version_that_is_right_has_none(master, tmp_path):
    assert kinds(master, tmp_path) == {} and summary(()) == "Ready to encode"


@pytest.mark.parametrize(("beyond", "stops"), [("refuse", True), ("trim", False),
                                               ("parts", False)])
def test_too_long_stops_only_where_the_sheet_refuses(master, tmp_path, beyond, stops):
    sheet = with_value(with_value(SQUARE, "duration.most_s", 30), "duration.beyond", beyond)
    assert kinds(master, tmp_path, sheet) == {ConcernKind.TOO_LONG: stops}


def test_ranges_count_together(master, tmp_path):
    spans = (FrameRange(0, 30), FrameRange(100, 130))
    assert kinds(master, tmp_path, ranges=spans) == {ConcernKind.TOO_SHORT: True}
    assert kinds(master, tmp_path, ranges=(*spans, FrameRange(200, 220))) == {}


def test_one_picture_is_no_version(master, tmp_path):
    sheet = with_value(SQUARE, "duration.least_s", 0.0)
    assert kinds(master, tmp_path, sheet, ranges=(FrameRange(5, 6),)) == {
        ConcernKind.TOO_SHORT: True}
    assert kinds(master, tmp_path, sheet, ranges=(FrameRange(5, 7),)) == {}


@pytest.mark.parametrize(("rates", "stops"), [
    (Rates(48, 60), True), (Rates(48, 60, change=RateChange.REPEAT), False),
])
def test_another_rate_is_never_silent(master, tmp_path, rates, stops):
    assert kinds(master, tmp_path, with_value(SQUARE, "rates", rates)) == {
        ConcernKind.RATE: stops}


@pytest.mark.parametrize(("name", "more", "words"), [
    ("kiln-day-at-marram-quay square-feed.mp4", {}, "numbered"),
    ("kiln-day-at-marram-quay square-feed.mp4", {"replace": True}, "replaced"),
    ("kiln-day-at-marram-quay square-feed review copy.mp4", {"review": True}, "numbered"),
])
def test_a_taken_name_says_what_happens(master, tmp_path, name, more, words):
    more = dict(more)
    (tmp_path / name).touch()
    replace = more.pop("replace", False)
    (concern,) = concerns_of(master, "A", Recipe(SQUARE, **more), {}, tmp_path, TODAY, replace)
    assert concern.kind is ConcernKind.NAME_TAKEN and not concern.stops
    assert words in concern.sentence


def test_flags_lead_to_their_shot_and_what_stops_comes_first(master, tmp_path):
    sheet = with_value(SQUARE, "duration.most_s", 30)
    found = concerns_of(master, "B", Recipe(sheet), {4: [FLAG], 2: [FLAG]}, tmp_path, TODAY)
    assert [concern.shot for concern in found] == [None, 2, 4] and found[0].stops
    assert found[1].letter == "B" and found[1].sentence.startswith("Shot 3:")
    assert summary(found) == "3 issues, 1 of them blocking"


def test_a_canvas_beyond_the_master_and_tone_mapping_are_told(master, tmp_path):
    large = with_value(find_sheet("wide"), "canvas", (3840, 2160))
    assert ConcernKind.NO_DETAIL in kinds(master, tmp_path, large)
    bright = msgspec.structs.replace(master, colour=Colour(9, 16, 9, False))
    assert kinds(bright, tmp_path) == {ConcernKind.COLOUR: False}


def test_no_sound_is_told_with_what_becomes_of_it(master, tmp_path):
    mute = msgspec.structs.replace(master, sound=())
    for wanted, words in ((True, "silent track"), (False, "none either")):
        sheet = with_value(SQUARE, "sound.silent_track", wanted)
        (concern,) = concerns_of(mute, "A", Recipe(sheet), {}, tmp_path, TODAY)
        assert words in concern.sentence


@pytest.mark.parametrize(("checked", "told"), [
    ("2026-11-24", False), ("2026-05-30", False), ("2026-05-28", True), ("some day", True),
])
def test_a_sheet_nobody_looked_at_for_180_days_is_told(master, tmp_path, checked, told):
    sheet = with_value(SQUARE, "checked", checked)
    assert (ConcernKind.OLD_SHEET in kinds(master, tmp_path, sheet)) is told


def test_places_that_refuse_are_told(master, tmp_path):
    gone = msgspec.structs.replace(master, path=str(tmp_path / "gone.mp4"))
    assert [place.kind for place in places(gone, tmp_path, 1.0)] == [ConcernKind.MISSING_MASTER]
    assert [concern.kind for concern in places(master, tmp_path, 1e12)] == [ConcernKind.NO_ROOM]
    (tmp_path / "file").touch()
    assert [place.kind for place in places(master, tmp_path / "file" / "in", 1.0)] == [
        ConcernKind.FOLDER]
    assert places(master, tmp_path / "new" / "deep", 1.0) == ()
    assert not (tmp_path / "new").exists() and Path(master.path).exists()


def test_rates_are_brought_to_the_nearest_the_sheet_takes(master, tmp_path):
    sheet = with_value(SQUARE, "rates", Rates(24, 60, (30,), RateChange.BLEND))
    (concern,) = concerns_of(master, "A", Recipe(sheet), {}, tmp_path, TODAY)
    assert "25 fps become 30: pictures are mixed" in concern.sentence
    assert sheet.rates.nearest(Fraction(25)) == 30


def test_fonts_and_letters_that_are_not_there_are_told_before(master, tmp_path):
    gone = CaptionLook(TextStyle(font=str(tmp_path / "gone.ttf")))
    cues = (Cue(1, 2, "Kiln day"),)
    assert kinds(master, tmp_path, captions=cues, look=gone) == {ConcernKind.FONT: True}
    assert kinds(master, tmp_path, captions=cues, look=gone, burnt=False) == {}
    title = Overlay(Title("Kiln day", TextStyle(font="Nowhere Sans")), 0, 9)
    assert kinds(master, tmp_path, overlays=(title,)) == {ConcernKind.FONT: True}
    odd = (Cue(1, 2, "a \U000f0000 b"),)  # of the planes for private use: no font has it
    assert kinds(master, tmp_path, captions=odd) == {ConcernKind.LETTERS: False}
    card = Card(10, PictureFile(str(tmp_path / "gone.png")))
    assert kinds(master, tmp_path, opening=card, ranges=(FrameRange(0, 200),)) == {
        ConcernKind.PICTURE_FILE: True}
