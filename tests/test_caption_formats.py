"""Captions in WebVTT, ASS and TTML: judged by webvtt-py, FFmpeg and ttconv, not by our own return.
"""

import io
import re
import subprocess
from fractions import Fraction
from xml.etree import ElementTree

import pytest
import ttconv.imsc.reader
import ttconv.srt.writer
import webvtt
from hypothesis import example, given
from hypothesis import strategies as st

from caracal.core.exchange.caption_files import captions_text, read_captions
from caracal.core.text.caption_timing import faults, mended
from caracal.core.text.cues import Cue

VTT = """WEBVTT - a title
Kind: captions
Language: en

STYLE
::cue { color: red }

REGION
id:fred
width:40%

NOTE one line

NOTE
several lines
of a note

first
00:01.000 --> 00:02.500 align:start position:0%
<v Mary>Salt &amp; pepper &lt;b&gt; <00:01.500>and <c.loud>more</c>

00:00:03.000 --> 00:00:04.000
NOTE: this is said
<i>twice</i>&nbsp;&#233;

00:00:05.000 --> 00:00:06.000
{braces} and C:\\New \\N \\h stay
"""
TOLD = {"&": "a & b", "mark": "2 < 3 --> 4 > 1 <i>not slanted</i>", "brace": "{x} {\\an8}y {",
        "slash": "C:\\New\\hat \\N", "lines": "- one\n- two", "entity": "&amp; &lt;"}


def test_web_captions_are_read_as_the_standard_says(tmp_path):
    path = tmp_path / "a.vtt"
    path.write_text(VTT)
    found = read_captions(path).cues
    assert [cue.text for cue in found] == [
        "Salt & pepper <b> and more", "NOTE: this is said\ntwice é",
        "{braces} and C:\\New \\N \\h stay"]
    judged = list(webvtt.read(path))
    assert [cue.start_s for cue in found] == [each.start_in_seconds + each.start_time.milliseconds
                                              / 1000 for each in judged]
    assert len(judged) == 3 and "NOTE" not in judged[0].text
    assert [(each.start_in_seconds, each.end_in_seconds) for each in judged] == [
        (int(cue.start_s), int(cue.end_s)) for cue in found]


def test_web_captions_are_read_as_ffmpeg_reads_them(tmp_path):
    """Without regions, at which FFmpeg 5 stops."""
    path = tmp_path / "a.vtt"
    path.write_text("WEBVTT\nKind: captions\n\nNOTE none\nof these\n\nfirst\n"
                    "00:01.000 --> 00:02.500 align:start\n<v Mary>Salt &amp; pepper &lt;b&gt;\n")
    made = subprocess.run(["ffmpeg", "-v", "error", "-i", path, "-f", "ass", "-"],
                          capture_output=True, text=True, check=True).stdout
    (line,) = (line for line in made.splitlines() if line.startswith("Dialogue:"))
    (cue,) = read_captions(path).cues
    assert line.split(",", 9)[1:3] == ["0:00:01.00", "0:00:02.50"]
    assert line.split(",", 9)[9] == cue.text == "Salt & pepper <b>"


@pytest.mark.parametrize("name", TOLD)
def test_what_is_written_is_read_by_others_as_it_was_said(tmp_path, name):
    """webvtt-py reads the raw text of a WebVTT cue; entities are those of the standard."""
    text = captions_text([Cue(1.0, 2.0, TOLD[name]), Cue(3.0, 4.0, "the end")], ".vtt")
    first, second = webvtt.from_buffer(io.StringIO(text))
    raw = first.raw_text.replace("\u2060", "")  # a joiner, which cannot be seen
    assert "-->" not in raw and not re.search(r"<|>", raw)
    assert raw.replace("&lt;", "<").replace("&gt;", ">").replace("&amp;", "&") == TOLD[name]
    assert second.text == "the end"


@pytest.mark.parametrize("suffix", [".srt", ".vtt", ".ass"])
@pytest.mark.parametrize("name", TOLD)
def test_ffmpeg_shows_what_was_written(tmp_path, name, suffix):
    """As plain text: burnt in by FFmpeg's own decoders and libass it would be the same words."""
    path = tmp_path / f"a{suffix}"
    path.write_text(captions_text([Cue(1.0, 2.0, TOLD[name]), Cue(3.0, 4.0, "the end")], suffix))
    made = subprocess.run(["ffmpeg", "-v", "error", "-i", path, "-f", "ass", "-"],
                          capture_output=True, text=True, check=True).stdout
    shown = [line.split(",", 9)[9] for line in made.splitlines() if line.startswith("Dialogue:")]
    plain = re.sub(r"\{\\[^}]*\}", "", shown[0].replace("\\{", "\ue001").replace("\\}", "}"))
    plain = plain.replace("\\N", "\n").replace("\ue001", "{").replace("\u2060", "")
    wanted = TOLD[name]
    if suffix == ".vtt" or name != "slash":
        wanted = wanted.replace("\\N", "\n") if "\\\u2060N" not in shown[0] else wanted
    assert plain == wanted and shown[1] == "the end"


ANYTHING = st.text(st.sampled_from("ab &<>/{}\\N-i;ltamp#é♪,"), min_size=1, max_size=30).map(
    lambda text: " ".join(text.split())).filter(lambda text: text and not text.isdigit())


@given(ANYTHING, st.sampled_from([".srt", ".vtt", ".ass"]))
@example("{\\}", ".vtt")
@example("a < b & c --> d", ".srt")
@example("{\\i1}x", ".ass")
def test_no_sign_is_lost_between_writing_and_reading(tmp_path_factory, words, suffix):
    path = tmp_path_factory.mktemp("signs") / f"a{suffix}"
    path.write_text(captions_text([Cue(1.0, 2.0, f"No {words}")], suffix))
    (cue,) = read_captions(path).cues
    assert cue.text == f"No {words}"


def test_drawings_are_no_words(tmp_path):
    path = tmp_path / "a.ass"
    path.write_text("""[Script Info]
ScriptType: v4.00+

[V4+ Styles]
Format: Name, Fontname
Style: Default,Arial

[Events]
Format: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text
Dialogue: 0,0:00:01.00,0:00:02.00,Default,,0,0,0,,{\\p1}m 0 0 l 100 0 100 100{\\p0}
Dialogue: 0,0:00:03.00,0:00:04.00,Default,,0,0,0,,{\\an8}Said {\\i1}so{\\i0}
""")
    assert [cue.text for cue in read_captions(path).cues] == ["Said so"]


def test_times_of_a_hundred_hours_are_not_read_as_seconds(tmp_path):
    path = tmp_path / "a.srt"
    path.write_text("1\n100:00:01,000 --> 100:00:02,000\nfar\n\n"
                    "2\n00:00:03,000 --> 00:00:04,000\nnear\n")
    found = read_captions(path)
    assert [(cue.start_s, cue.text) for cue in found.cues] == [(3.0, "near")]
    assert any("99 hours" in sentence for sentence in found.mended)


def tt(body, more=""):
    return ('<?xml version="1.0" encoding="UTF-8"?>\n<tt xml:lang="en" '
            'xmlns="http://www.w3.org/ns/ttml" '
            f'xmlns:ttp="http://www.w3.org/ns/ttml#parameter" {more}>'
            f"<body>{body}</body></tt>")


TIMED = {  # TTML2, 10.3.1 (time expressions) and 12.2 (begin, dur, end)
    "dur": tt('<div><p begin="1s" dur="1.5s">a<br/>b</p><p begin="3s" end="4s">c</p></div>'),
    "frames": tt('<div><p begin="00:00:01:12" end="00:00:02:00">a</p></div>',
                 'ttp:frameRate="24"'),
    "NTSC": tt('<div><p begin="00:00:10:00" end="00:00:11:15">a</p></div>',
               'ttp:frameRate="30" ttp:frameRateMultiplier="1000 1001"'),
    "ticks": tt('<div><p begin="15000000t" end="25000000t">a</p></div>',
                'ttp:tickRate="10000000"'),
    "offsets": tt('<div><p begin="0.5m" end="31500ms">a</p></div>'),
    "frame offsets": tt('<div><p begin="25f" end="75f">a</p></div>', 'ttp:frameRate="25"'),
    "nested": tt('<div begin="10s" end="20s"><p begin="1s" dur="2s">a</p></div>'),
    "inherited": tt('<div begin="2s" end="5s"><p>a</p></div>'),
    "in turn": tt('<div timeContainer="seq"><p dur="1s">a</p><p dur="2s">b</p></div>'),
    "spans": tt('<div><p><span begin="1s" end="2s">one two</span>'
                '<span begin="3s" end="4s">three four</span></p></div>'),
}


@pytest.mark.parametrize("name", TIMED)
def test_timed_text_is_read_as_ttconv_reads_it(tmp_path, name):
    path = tmp_path / "a.ttml"
    path.write_text(TIMED[name])
    found = read_captions(path).cues
    model = ttconv.imsc.reader.to_model(ElementTree.ElementTree(
        ElementTree.fromstring(TIMED[name].partition("\n")[2])))
    judged = tmp_path / "judged.srt"
    judged.write_text(ttconv.srt.writer.from_model(model))
    other = read_captions(judged).cues
    assert [cue.text for cue in found] == [cue.text for cue in other]
    for cue, by_other in zip(found, other, strict=True):
        assert cue.start_s == pytest.approx(by_other.start_s, abs=0.0015)
        assert cue.end_s == pytest.approx(by_other.end_s, abs=0.0015)


def test_words_that_are_timed_one_by_one_stay_one_caption(tmp_path):
    path = tmp_path / "a.ttml"
    path.write_text(tt('<div><p><span begin="1s" end="1.4s">We</span> '
                       '<span begin="1.4s" end="2s">fire</span></p></div>'))
    (cue,) = read_captions(path).cues
    assert (cue.start_s, cue.end_s, cue.text) == (1.0, 2.0, "We fire")


def test_captions_that_begin_together_do_not_overlap_after_mending():
    """Nobody can read two at once: those that begin within a frame stand under each other."""
    cues = (Cue(1.0, 3.0, "one two three"), Cue(1.01, 2.0, "four"), Cue(5.0, 5.01, "five"))
    made = mended(cues, Fraction(25), 10.0)
    assert [cue.text for cue in made] == ["one two three\nfour", "five"]
    assert not faults(made, Fraction(25))
