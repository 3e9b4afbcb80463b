"""The shipped demo film: what it holds, and that drawing it again gives the same."""

import itertools
import os

import opentimelineio as otio
import pysubs2

from caracal.core.media.probe import probe
from conftest import DEMO


def test_it_is_the_film_that_was_asked_for(truth):
    master = probe(DEMO)
    assert (master.width, master.height, master.frame_rate) == (1920, 1080, "25/1")
    assert (master.codec, master.sound[0].codec) == ("h264", "aac")
    assert 60 <= master.duration_s <= 75 and master.frames == truth["frames"]
    assert DEMO.stat().st_size <= 12e6
    assert len(truth["shots"]) >= 14 and len(truth["dissolves"]) == 1


def test_drawing_again_gives_the_same_truth_and_pixels(truth, qapp):
    from demo.film import draw_frame

    for number in (40, 200, truth["dissolves"][0]["start"] + 5, 1400):
        first, shot, marks = draw_frame(number)
        second, _, _ = draw_frame(number)
        assert (first == second).all()
        for mark in marks:
            rows = next(t["boxes"] for t in truth["tracks"] if (t["shot"], t["identity"], t["kind"])
                        == (shot, mark.identity, mark.kind))
            assert [number, *mark.box] in rows


def test_captions_read_and_stay_in_the_film():
    captions = pysubs2.load(os.fspath(DEMO.with_suffix(".srt")))
    assert len(captions) >= 6
    ends = [line.end for line in captions]
    assert ends == sorted(ends) and ends[-1] <= 60_000
    assert all(a.end <= b.start + 1 for a, b in itertools.pairwise(captions))


def test_cut_list_is_read_by_a_reference_reader(truth):
    """OpenTimelineIO's CMX 3600 adapter finds the same cuts as the ground truth."""
    timeline = otio.adapters.read_from_file(os.fspath(DEMO.with_suffix(".edl")), rate=25)
    clips = list(timeline.tracks[0].find_clips())
    assert len(clips) == len(truth["shots"])
    starts = {round(clip.range_in_parent().start_time.value) for clip in clips}
    assert len(starts & {0, *truth["hard_cuts"]}) >= len(truth["hard_cuts"])
