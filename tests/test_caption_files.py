"""Caption files as they really are: 60 broken ways of one text, and clean ones there and back."""

import re
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from caracal.core.base.errors import InputError, StorageError
from caracal.core.exchange.caption_files import captions_text, read_captions, write_captions
from caracal.core.text.caption_timing import faults, mended
from caracal.core.text.cues import Cue

TEXTS = ("Wir brennen einmal im Jahr.", "Ça va? Señor Ångström sagt ja.", "Zum Schluss: Ende.")
TIMES = ((1.0, 2.5), (3.0, 4.25), (5.0, 7.0))


def _srt(times=TIMES, texts=TEXTS, comma=",", number=True, gap="\n\n", arrow=" --> "):
    def clock(seconds):
        ms = round(seconds * 1000)
        return f"{ms // 3600000:02}:{ms // 60000 % 60:02}:{ms // 1000 % 60:02}{comma}{ms % 1000:03}"

    rows = []
    for i, ((start, end), text) in enumerate(zip(times, texts, strict=True), 1):
        head = f"{i}\n" if number else ""
        rows.append(f"{head}{clock(start)}{arrow}{clock(end)}\n{text}")
    return gap.join(rows) + "\n"


def _vtt(body=None, head="WEBVTT\n\n"):
    return head + (body or _srt(comma="."))


STAMPS = [[f"0:00:0{int(at)}.{round(at % 1 * 100):02}" for at in pair] for pair in TIMES]
ASS = ("[Script Info]\nScriptType: v4.00+\n\n[V4+ Styles]\nFormat: Name, Fontname\n"
       "Style: Default,Arial\n\n[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, "
       "MarginR, MarginV, Effect, Text\n" + "".join(
           f"Dialogue: 0,{start},{end},Default,,0,0,0,,{text}\n"
           for (start, end), text in zip(STAMPS, TEXTS, strict=True)))
TTML = ('<?xml version="1.0" encoding="utf-8"?><tt xmlns="http://www.w3.org/ns/ttml"><body>'
        "<div>" + "".join(f'<p begin="{a}s" end="{b}s">{text}</p>'
                  for (a, b), text in zip(TIMES, TEXTS, strict=True)) + "</div></body></tt>")
SRT = _srt()
FILES = {  # name -> bytes: all hold the three texts at their times
    **{f"{bom}.srt": SRT.encode(bom) for bom in ("utf-8", "utf-8-sig", "utf-16", "utf-32")},
    "crlf.srt": SRT.replace("\n", "\r\n").encode(), "cr.srt": SRT.replace("\n", "\r").encode(),
    "mixed ends.srt": SRT.replace("\n\n", "\r\n\r\n").encode(),
    "latin.srt": SRT.encode("cp1252"), "latin 15.srt": SRT.encode("iso8859-15"),
    "no numbers.srt": _srt(number=False).encode(),
    "wrong numbers.srt": re.sub(r"(?m)^\d$", "7", SRT).encode(),
    "full stops.srt": _srt(comma=".").encode(),
    "no blank lines.srt": _srt(gap="\n").encode(),
    "many blank lines.srt": _srt(gap="\n\n\n\n").encode(),
    "blanks at ends.srt": SRT.replace("\n", "   \n").encode(),
    "no last line end.srt": SRT.rstrip().encode(),
    "tabs.srt": _srt(arrow="\t-->\t").encode(), "tight arrow.srt": _srt(arrow="-->").encode(),
    "one digit hours.srt": re.sub(r"(?m)(^|> )00:", r"\g<1>0:", SRT).encode(),
    "places.srt": re.sub(r"(,\d{3})\n", r"\1 X1:40 X2:600 Y1:20 Y2:50\n", SRT).encode(),
    "italic.srt": SRT.replace("einmal", "<i>einmal</i>").encode(),
    "coloured.srt": SRT.replace("Wir", '<font color="#ff0000">Wir</font>').encode(),
    "curly.srt": SRT.replace("Wir", r"{\an8}Wir").encode(),
    "unclosed.srt": SRT.replace("Wir", "<b>Wir").encode(),
    "order.srt": _srt(TIMES[::-1], TEXTS[::-1]).encode(),
    "reversed.srt": _srt(tuple((b, a) for a, b in TIMES)).encode(),
    "zero.srt": SRT.replace("\n", "\x00\n", 2).encode(),
    "control.srt": SRT.replace("brennen", "bren\x07nen").encode(),
    "zero width.srt": ("\u200b" + SRT).encode(),
    "empty ones.srt": (SRT + "\n4\n00:00:08,000 --> 00:00:09,000\n\n").encode(),
    "wide spaces.srt": SRT.replace("im Jahr", "im\u00a0 Jahr").encode(),
    "utf-16 without mark.srt": SRT.encode("utf-16-le"),
    "utf-16 big without mark.srt": SRT.encode("utf-16-be"),
    "no suffix": SRT.encode(), "text.txt": SRT.encode(), "loud.SRT": SRT.encode(),
    "vtt named srt.srt": _vtt().encode(),
    "plain.vtt": _vtt().encode(), "bom.vtt": _vtt().encode("utf-8-sig"),
    "head.vtt": _vtt(head="WEBVTT - Kiln day\nKind: captions\n\n").encode(),
    "note.vtt": _vtt(head="WEBVTT\n\nNOTE made by hand\n\n").encode(),
    "style.vtt": _vtt(head="WEBVTT\n\nSTYLE\n::cue { color: red }\n\n").encode(),
    "settings.vtt": re.sub(r"(\.\d{3})\n", r"\1 align:start line:0%\n", _vtt()).encode(),
    "voices.vtt": _vtt().replace("Wir", "<v Ada>Wir").encode(),
    "classes.vtt": _vtt().replace("Wir", "<c.loud>Wir</c>").encode(),
    "short clock.vtt": _vtt().replace("00:00:0", "00:0").encode(),
    "ids.vtt": re.sub(r"(?m)^(\d)$", r"cue-\1", _vtt()).encode(),
    "crlf.vtt": _vtt().replace("\n", "\r\n").encode(),
    "plain.ass": ASS.encode(), "bom.ass": ASS.encode("utf-8-sig"),
    "crlf.ass": ASS.replace("\n", "\r\n").encode(), "legacy.ass": ASS.encode("cp1252"),
    "marks.ass": ASS.replace("Wir", r"{\i1\c&H00FF00&}Wir{\i0}").encode(),
    "two styles.ass": ASS.replace(",Default,,", ",Other,Ada,", 1).encode(),
    "comment.ass": ASS.replace("Dialogue: 0,0:00:01",
                               "Comment: 0,0:00:00.00,0:00:09.00,Default,,0,0,0,,no\n"
                               "Dialogue: 0,0:00:01").encode(),
    "ass as txt.txt": ASS.encode(),
    "indented.ttml": TTML.replace("<p", "\n    <p").encode(),
    "plain.ttml": TTML.encode(), "bom.ttml": TTML.encode("utf-8-sig"),
    "plain.dfxp": TTML.encode(), "plain.xml": TTML.encode(),
    "spans.ttml": TTML.replace("einmal", "<span>einmal</span>").encode(),
    "clock.ttml": re.sub(r'"(\d)\.(\d+)s"', r'"00:00:0\1.\2"', TTML).encode(),
}


def _read(tmp_path, name, data):
    path = tmp_path / name
    path.write_bytes(data)
    return read_captions(path)


def test_there_are_enough_of_them():
    assert len(FILES) >= 60


@pytest.mark.parametrize("name", FILES)
def test_nothing_is_lost_of_broken_files(tmp_path, name):
    found = _read(tmp_path, name, FILES[name])
    assert [" ".join(cue.text.split()) for cue in found.cues] == list(TEXTS), found
    assert [(cue.start_s, cue.end_s) for cue in found.cues] == [
        pytest.approx(times, abs=0.006) for times in TIMES]
    told = {"latin.srt": "not in UTF-8", "reversed.srt": "swapped", "empty ones.srt": "empty",
            "unclosed.srt": "formatting", "control.srt": "cannot be shown"}
    if name in told:
        assert any(told[name] in sentence for sentence in found.mended), found.mended
    if name in ("utf-8.srt", "plain.vtt", "plain.ass"):
        assert not found.mended


def test_times_that_overlap_or_lie_before_the_film(tmp_path):
    overlapping = _srt(((1, 3.5), (3, 4.25), (5, 7)))
    found = _read(tmp_path, "a.srt", overlapping.encode())
    assert [cue.end_s for cue in found.cues] == [3, 4.25, 7] and "overlapped" in found.mended[0]
    twice = _srt(((1, 2), (1, 2), (5, 7)), ("English", "Deutsch", "last"))
    found = _read(tmp_path, "b.srt", twice.encode())
    assert [cue.text for cue in found.cues] == ["English\nDeutsch", "last"]
    early = SRT.replace("00:00:01,000", "-00:00:01,000", 1)
    found = _read(tmp_path, "c.srt", early.encode())
    assert found.cues[0].start_s == 0 and "start of the film" in found.mended[0]
    long = _srt(((1, 2), (3, 4), (5, 7)), ("x" * 20_000, "b", "c"))
    found = _read(tmp_path, "d.srt", long.encode())
    assert len(found.cues[0].text) == 10_000 and "cut off" in found.mended[0]


@pytest.mark.parametrize(("name", "data"), [
    ("empty.srt", b""), ("words.srt", b"just some words\n"), ("film.srt", bytes(range(256)) * 40),
    ("cut.xml", b"<tt><body><div><p begin="), ("head.vtt", b"WEBVTT\n"),
    ("entities.ttml", b'<?xml version="1.0"?><!DOCTYPE t [<!ENTITY a "b">]><tt>&a;</tt>')])
def test_what_holds_no_captions_says_so(tmp_path, name, data):
    with pytest.raises(InputError, match=r"no captions|cannot be read"):
        _read(tmp_path, name, data)
    with pytest.raises(InputError, match="no such file"):
        read_captions(tmp_path / "missing.srt")


TEXT = st.text(st.characters(codec="utf-8", categories=("L", "N"), include_characters=" ,.!?'-"),
               min_size=1, max_size=60).map(lambda text: " ".join(text.split())).filter(bool)


@given(st.lists(st.tuples(st.integers(1, 4000), st.integers(250, 9000), TEXT), min_size=1,
                max_size=9), st.sampled_from([".srt", ".vtt"]))
def test_clean_files_come_back_exactly(tmp_path_factory, parts, suffix):
    at, cues = 0, []
    for gap, length, words in parts:
        at += gap
        text = f"No {words}" if words.isdigit() else words  # a number alone is the next one's
        cues.append(Cue(at / 1000, (at + length) / 1000, text))
        at += length
    path = tmp_path_factory.mktemp("clean") / f"a{suffix}"
    write_captions(path, cues)
    assert read_captions(path).cues == tuple(cues)


def test_captions_are_never_written_over_an_input_or_as_something_else(tmp_path):
    film = tmp_path / "film.srt"
    film.write_text("precious")
    with pytest.raises(InputError, match=r"is the film|input|master"):
        write_captions(film, [Cue(0, 1, "a")], [film])
    assert film.read_text() == "precious"
    with pytest.raises(InputError, match="cannot be written as"):
        captions_text([Cue(0, 1, "a")], ".docx")
    mine = tmp_path / "mine.txt"
    mine.write_text("precious")
    (tmp_path / "a.srt.part").symlink_to(mine)  # half-made files never go through a link
    write_captions(tmp_path / "a.srt", [Cue(0, 1, "a")])
    assert mine.read_text() == "precious" and read_captions(tmp_path / "a.srt").cues
    with pytest.raises(StorageError):
        write_captions(tmp_path / "nowhere" / "a.srt", [Cue(0, 1, "a")])


def test_what_is_wrong_in_time_is_told_and_mended():
    """Common practice: 0.33 s a word, 1 s a caption, no gap of one frame, no overlap."""
    rate = 25
    cues = (Cue(0, 2.5, "one two three"), Cue(2, 4, "four five"), Cue(4.04, 4.5, "six"),
            Cue(6, 6.9, "seven eight nine ten"))
    found = {(fault.number, fault.sentence.split()[2]) for fault in faults(cues, rate)}
    assert found == {(0, "the"), (1, "after"), (2, "seen"), (3, "seen")}
    made = mended(cues, rate, 20.0)
    assert not faults(made, rate)
    assert [cue.start_s for cue in made] == [cue.start_s for cue in cues]  # in step with the sound
    assert all(a.end_s <= b.start_s for a, b in pairwise(made))
