"""Versions in parts: within the limit, cut in pauses, no frame lost or doubled."""

import math
from itertools import pairwise

import msgspec
import numpy as np
import pysubs2
import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.analysis.detectors.speech import speech_in
from caracal.core.base.errors import Cancelled
from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.proof import prove
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.plan.parts import parts_of, pauses_in
from caracal.core.specs.sheet import Beyond, Duration
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffprobe, write_film


@given(st.integers(1, 2000), st.integers(1, 400), st.integers(0, 500), st.randoms())
def test_parts_cover_the_span_once_within_the_limit(frames, most, start, chance):
    """Duration over limit, rounded up (common practice), and two more at most for pauses."""
    span = FrameRange(start, start + frames)
    pauses = np.array([chance.random() < 0.1 for _ in range(frames)])
    parts = parts_of(span, most, pauses)
    fewest = math.ceil(frames / most)
    assert fewest <= len(parts) <= fewest + 2
    inside = [frame_range.start - start for frame_range in parts[1:]]
    assert len(parts) == fewest or pauses[inside].all()
    assert parts[0].start == start and parts[-1].end_exclusive == start + frames
    assert all(span.end_exclusive == other.start for span, other in pairwise(parts))
    assert all(0 < len(part) <= most for part in parts)


def test_cuts_go_to_the_nearest_pause():
    pauses = np.zeros(300, bool)
    pauses[[90, 108, 190]] = True
    parts = parts_of(FrameRange(0, 300), 120, pauses)
    assert [part.start for part in parts] == [0, 108, 190]
    assert [span.start for span in parts_of(FrameRange(0, 300), 120, pauses * False)] == [
        0,
        100,
        200,
    ]


@given(st.integers(2, 2000), st.integers(2, 400), st.integers(0, 399), st.integers(0, 399))
def test_cards_lie_in_the_first_and_the_last_part_only(frames, most, before, after):
    before, after = min(before, most - 1), min(after, most - 1)
    parts = parts_of(FrameRange(0, frames), most, np.zeros(frames, bool), before, after)
    assert [a.end_exclusive for a in parts[:-1]] == [b.start for b in parts[1:]]
    assert parts[0].start == 0 and parts[-1].end_exclusive == frames
    lengths = [len(part) for part in parts]
    if len(parts) > 1:
        assert lengths[0] + before <= most and lengths[-1] + after <= most
    assert max(lengths) <= most
    assert len(parts) <= math.ceil((frames + before + after) / most) + 2


def test_a_film_of_four_seconds_with_a_card_is_no_fifty_parts():
    """A limit of 2 s, a card of 1.9 s: two parts hold the film, and one the card and 0.1 s."""
    parts = parts_of(FrameRange(0, 100), 50, np.zeros(100, bool), 48, 0)
    assert len(parts) == 3 and len(parts[0]) <= 2


@pytest.fixture(scope="module")
def speech(demo):
    return speech_in(demo.master, FrameRange(0, demo.master.frames), no_progress, CancelToken())


def test_speech_is_found_where_it_is_spoken(demo, speech):
    """The first speaker's lines, by the demo's captions: three quarters of her frames or more."""
    lines = pysubs2.load(str(DEMO_FILM.with_suffix(".srt")))[:2]
    first, last = (round(at / 40) for at in (lines[0].start, lines[-1].end))
    assert speech[first:last].mean() > 0.75 and speech[:150].mean() < 0.05


def test_no_line_of_the_demo_is_cut(demo, speech):
    """Stories of at most 15 s; four would be cut within a word: no cut is within a caption's."""
    span = FrameRange(0, demo.master.frames)
    parts = parts_of(span, 15 * 25, pauses_in(demo, span, speech))
    assert len(parts) == 5 and all(len(frame_range) <= 375 for frame_range in parts)
    for line in pysubs2.load(str(DEMO_FILM.with_suffix(".srt"))):
        for part in parts[1:]:
            assert not line.start / 40 + 2 < part.start < line.end / 40 - 2


def test_parts_are_files_that_join_without_a_seam(tmp_path):
    """Frame by frame and sample by sample against the master: nothing is lost or doubled."""
    film = write_film(tmp_path / "film.mp4", size=(320, 180), frames=140)
    sheet = msgspec.structs.replace(
        find_sheet("vertical-story"), canvas=(90, 160), duration=Duration(1, 2.0, Beyond.PARTS))
    made = convert(film, [Recipe(sheet), Recipe(find_small())], tmp_path)
    parts = [result for result in made if result.wanted == 0]
    assert [result.wanted for result in made] == [0, 0, 0, 1] and all(
        encode_result.proof.right for encode_result in made
    )
    assert [part.file.rsplit("part ")[1] for part in parts] == [
        "1 of 3.mp4", "2 of 3.mp4", "3 of 3.mp4"]
    frames = [int(next(s for s in ffprobe(part.file)["streams"]
                       if s["codec_type"] == "video")["nb_read_frames"]) for part in parts]
    assert sum(frames) == 140 and max(frames) <= 50
    heard = []
    for part, count in zip(parts, frames, strict=True):
        with SoundReader(probe(_path(part.file)), 48000, 2) as sound:
            heard.append(sound.take(count * 1920)[:, 0])
    with SoundReader(probe(film), 48000, 2) as sound:
        master = sound.take(140 * 1920)[:, 0]
    error = np.abs(np.concatenate(heard) - master)
    assert np.median(error) < 0.02 and np.corrcoef(np.concatenate(heard), master)[0, 1] > 0.97


def find_small():
    return msgspec.structs.replace(find_sheet("square-feed"), canvas=(120, 120))


def _path(name):
    from pathlib import Path

    return Path(name)


def test_stopping_in_the_second_part_leaves_nothing(tmp_path):
    film = write_film(tmp_path / "film.mp4", size=(320, 180), frames=140)
    sheet = msgspec.structs.replace(
        find_sheet("vertical-story"), canvas=(90, 160), duration=Duration(1, 2.0, Beyond.PARTS))
    token = CancelToken()

    def stop(progress):
        if progress.doing == "Encoding" and progress.done > 70:
            token.cancel()

    with pytest.raises(Cancelled):
        convert(film, [Recipe(sheet)], tmp_path / "out", report=stop, cancel=token)
    left = list((tmp_path / "out").iterdir())
    assert len(left) < 3 and all(prove(part, sheet).right for part in left)
