"""Caption files read and written: SubRip, WebVTT, ASS (read by pysubs2) and TTML.

Real files are read whatever is wrong with them, with a report of what was mended. WebVTT follows
W3C WebVTT, sections 4 and 6 (from memory).
"""

from __future__ import annotations

import codecs
import html
import re
import unicodedata
from collections.abc import Sequence
from pathlib import Path

import charset_normalizer
import msgspec
import pysubs2

from caracal.core.base.atomic_write import write_text
from caracal.core.base.errors import InputError
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.paths import refuse_inputs
from caracal.core.base.reading_text import read_bounded
from caracal.core.base.translation import counted, tr
from caracal.core.exchange.ttml import CaptionEvent, ttml_events
from caracal.core.text.cues import MOST_CUES, MOST_TEXT, Cue, in_order, joined

FORMATS = {".srt": "srt", ".vtt": "vtt", ".ass": "ass", ".ssa": "ssa", ".ttml": "ttml",
           ".dfxp": "ttml", ".xml": "ttml"}
BESIDE = (".srt", ".vtt", ".ass", ".ttml")  # in what order they are looked for beside a film
WRITTEN = (".srt", ".vtt", ".ass")
LEAST_S = 0.2  # of a cue without a length of its own
BOMS = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF32_LE, "utf-32"),
        (codecs.BOM_UTF32_BE, "utf-32"), (codecs.BOM_UTF16_LE, "utf-16"),
        (codecs.BOM_UTF16_BE, "utf-16"))
WESTERN = "cp1252"
MOST_GUESSED_BY = 200_000  # bytes that an encoding is guessed by
HEAD = re.compile(r"\AWEBVTT[^\n]*\n(?:(?![^\n]*-->)[^\n]+\n)*")
NO_CUE = re.compile(r"(?:(?<=\n\n)|\A)(?:NOTE|STYLE|REGION)(?:[ \t][^\n]*)?(?:\n|\Z)"
                    r"(?:(?![^\n]*-->)[^\n]+(?:\n|\Z))*")
TAG = re.compile(r"<[^<>\n]{0,500}>")  # of WebVTT: classes, voices, times within a cue
# Cues at 100 hours and later: pysubs2 would read the last two digits.
FAR = re.compile(r"(?m)^[ \t]{0,20}\d{3,9}:\d\d:\d\d[.,]\d{1,3}[ \t]{0,20}-->[^\n]*(?:\n[^\n]+)*")
# What means something to pysubs2 and nothing in SubRip or WebVTT, and what stands for it meanwhile:
# such characters were left out before.
PROTECTED = str.maketrans({"\\": "\ue000", "{": "\ue001", "}": "\ue002"})
RESTORED = {ord(str(value)): chr(key) for key, value in PROTECTED.items()}
MARKS = re.compile(r"<(?= *[/A-Za-z])|--(?=>)|\{(?=\\)|\\(?=[Nnh])")  # as readers see them
TAG_START = re.compile(r"<(?= *[/A-Za-z])")
OVERRIDE = re.compile(r"\{(?=\\)")  # of ASS, which many files in other formats have, too
ESCAPED = {"\\{": "\ue001", "\\}": "\ue002"}  # braces of ASS that are words, as libass reads them
JOINER = "\u2060"  # cannot be seen; parts what would be read as a mark, as FFmpeg's writer does
CUE_NAME = re.compile(r"(?:(?<=\n\n)|\A)[^\n]+\n(?=[^\n]*-->)")  # WebVTT: before its times
MINUS = re.compile(r"(?m)^\s*(?:\d+\s+)?-\d{1,2}:\d\d.*-->|-->\s*-\d{1,2}:\d\d")
MARKUP = re.compile(r"< */? *[ibusIBUS] *>|</?[A-Za-z][^<>\n]{0,200}>|\{\\[^{}\n]{0,200}\}")
MOST_MARKED = 100_000  # characters of one text in which marks are looked for


class CaptionsRead(msgspec.Struct, frozen=True):
    """The cues of a file, in order, and sentences about what was mended in it."""

    cues: tuple[Cue, ...]
    mended: tuple[str, ...] = ()


def captions_beside(film: Path) -> Path | None:
    """The caption file that lies beside ``film`` under its name; None: none does."""
    return next((path for suffix in BESIDE if (path := film.with_suffix(suffix)).is_file()), None)


def read_captions(path: Path) -> CaptionsRead:
    """The captions in the file at ``path``. Raises InputError when there are none."""
    data = read_bounded(path, MOST_TEXT_BYTES, "captions file")
    mended: list[str] = []
    text = _plain(_decoded(data, mended), mended)
    kind = FORMATS.get(path.suffix.lower()) or _kind_of(text)
    if MINUS.search(text):
        mended.append(tr("Times before the start of the film were set to its start."))
        text = re.sub(r"-(\d{1,2}:\d\d:\d\d[.,]\d{1,3})", "00:00:00,000", text)
    try:
        events = ttml_events(text) if kind == "ttml" else _events(text, kind, mended)
    except Exception as problem:
        raise InputError(tr("These captions cannot be read."), path,
                         tr("Save them as SRT or WebVTT.")) from problem
    cues = _cues(events, mended)
    if not cues:
        raise InputError(tr("There are no captions in this file."), path, tr("Choose another."))
    return CaptionsRead(cues, tuple(mended))


def _events(text: str, kind: str, mended: list[str]) -> list[CaptionEvent]:
    """What stands in SubRip, WebVTT or ASS, without its marks."""
    plain = kind in ("srt", "vtt")
    if plain:
        text, far = FAR.subn("", text.translate(PROTECTED))
        if far:
            mended.append(counted(far, "{count} caption after 99 hours was left out.",
                                  "{count} captions after more than 99 hours were left out."))
    if kind == "vtt":
        text = CUE_NAME.sub("", NO_CUE.sub("", HEAD.sub("WEBVTT\n", text)))
    if not plain:
        for brace, meanwhile in ESCAPED.items():
            text = text.replace(brace, meanwhile)
    options = {"keep_html_tags": True} if plain else {}
    made = []
    for event in pysubs2.SSAFile.from_string(text, format_=kind, **options).events:
        if event.is_comment or (not plain and event.is_drawing):
            continue
        words = event.plaintext[:MOST_MARKED]
        if plain:
            words = words.translate(RESTORED)
        stripped = MARKUP.sub("", words)
        marked = stripped != words or "{\\" in event.text
        if kind == "vtt":
            stripped = html.unescape(TAG.sub("", stripped))
        made.append(CaptionEvent(event.start / 1000, event.end / 1000,
                                 stripped.translate(RESTORED).replace(JOINER, ""), marked))
    return made


def _decoded(data: bytes, mended: list[str]) -> str:
    for bom, name in BOMS:
        if data.startswith(bom):
            return data.decode(name, "replace")
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        pass
    wide = _wide(data)
    if wide:
        return data.decode(wide, "replace")
    name = WESTERN
    if not _latin(data):
        best = charset_normalizer.from_bytes(data[:MOST_GUESSED_BY]).best()
        name = best.encoding if best is not None else WESTERN
    mended.append(tr("The file is not in UTF-8; it was read as {name}. Check its accents.",
                     name=name))
    return data.decode(name, "replace")


def _wide(data: bytes) -> str:
    """UTF-16 without a mark: every other byte of its digits and line ends is zero."""
    start = data[:MOST_GUESSED_BY]
    for name, first in (("utf-16-le", 1), ("utf-16-be", 0)):
        if start and start[first::2].count(0) > len(start) / 4 > start[1 - first :: 2].count(0):
            return name
    return ""


def _latin(data: bytes) -> bool:
    """Whether letters with accents stand among plain ones, as in western languages."""
    words = [word for word in re.split(rb"[\s<>,;:]+", data[:MOST_GUESSED_BY])
             if any(byte >= 0x80 for byte in word)]
    letters = b"".join(words)
    return sum(65 <= byte & 0xDF <= 90 for byte in letters) > len(letters) / 2


def _plain(text: str, mended: list[str]) -> str:
    """``text`` with plain line ends and without characters that cannot be seen."""
    text = text.replace("\r\n", "\n").replace("\r", "\n").replace("\u2028", "\n")
    clean = "".join(letter for letter in text
                    if letter in "\n\t" or unicodedata.category(letter) not in ("Cc", "Cs", "Co"))
    if clean != text:
        mended.append(tr("Characters that cannot be shown were left out."))
    return clean


def _kind_of(text: str) -> str:
    start = text.lstrip("\ufeff \n\t")[:400]
    if start.startswith("WEBVTT"):
        return "vtt"
    if "[Script Info]" in start or "[Events]" in text:
        return "ass"
    return "ttml" if start.startswith("<") and "<tt" in text[:4000] else "srt"


def _cues(events: Sequence[CaptionEvent], mended: list[str]) -> tuple[Cue, ...]:
    made: list[Cue] = []
    reversed_, empty, marked, long = 0, 0, 0, 0
    for event in events:
        marked += event.marked
        lines = [" ".join(line.split()) for line in event.text.split("\n")]
        text = "\n".join(line for line in lines if line)
        if not text:
            empty += 1
            continue
        if len(text) > MOST_TEXT:
            text, long = text[:MOST_TEXT], long + 1
        start, end = max(0.0, event.start_s), max(0.0, event.end_s)
        reversed_ += end < start
        start, end = min(start, end), max(start, end)
        made.append(Cue(start, end if end > start else start + LEAST_S, text))
    for count, words in ((reversed_, tr("ended before they started; their times were swapped")),
                         (empty, tr("were empty and left out")),
                         (marked, tr("had formatting of another program, which was removed")),
                         (long, tr("were longer than {most_text} characters and cut off",
                                   most_text=MOST_TEXT))):
        if count:
            mended.append(f"{counted(count, '{count} caption', '{count} captions')} {words}.")
    if len(made) > MOST_CUES:
        mended.append(tr("Only the first {most_cues} captions were taken.", most_cues=MOST_CUES))
    return _apart(in_order(made[:MOST_CUES]), mended)


def _apart(cues: tuple[Cue, ...], mended: list[str]) -> tuple[Cue, ...]:
    """Cues that do not overlap: those of one time are joined, line under line."""
    made: list[Cue] = []
    together = shortened = 0
    for cue in cues:
        last = made[-1] if made else None
        if last is None or cue.start_s >= last.end_s:
            made.append(cue)
        elif cue.start_s - last.start_s < LEAST_S:
            text = f"{last.text}\n{cue.text}"
            made[-1] = msgspec.structs.replace(joined(last, cue), text=text[:MOST_TEXT])
            together += 1
        else:
            made[-1] = msgspec.structs.replace(last, end_s=cue.start_s)
            made.append(cue)
            shortened += 1
    if together:
        mended.append(tr("{together} captions had the time of another and were joined to it.",
                         together=together))
    if shortened:
        mended.append(tr("{shortened} captions overlapped the next one and were shortened.",
                         shortened=shortened))
    return tuple(made)


def captions_text(cues: Sequence[Cue], suffix: str) -> str:
    """``cues`` as the text of a file with that suffix: .srt, .vtt or .ass. Raises InputError."""
    if suffix.lower() not in WRITTEN:
        raise InputError(tr("Captions cannot be written as “{suffix}”.", suffix=suffix),
                         remedy=tr("Give a file name that ends with {written}.",
                                   written=", ".join(WRITTEN)))
    shown = [msgspec.structs.replace(cue, text="\n".join(
        line for line in cue.text.split("\n") if line.strip())) for cue in cues]
    return {".srt": _as_srt, ".vtt": _as_vtt, ".ass": _as_ass}[suffix.lower()](shown)


def _as_srt(cues: Sequence[Cue]) -> str:
    """SubRip knows no escapes: a joiner parts what would be read as a mark."""
    return "".join(
        f"{number}\n{_clock(cue.start_s, ',')} --> {_clock(cue.end_s, ',')}\n"
        + MARKS.sub(rf"\g<0>{JOINER}", cue.text) + "\n\n"
        for number, cue in enumerate(cues, 1))


def _as_vtt(cues: Sequence[Cue]) -> str:
    return "WEBVTT\n\n" + "".join(
        f"{_clock(cue.start_s, '.')} --> {_clock(cue.end_s, '.')}\n"
        + html.escape(OVERRIDE.sub(rf"\g<0>{JOINER}", cue.text), quote=False) + "\n\n"
        for cue in cues)


def _as_ass(cues: Sequence[Cue]) -> str:
    file = pysubs2.SSAFile()
    for cue in cues:
        text = TAG_START.sub(f"<{JOINER}", cue.text).replace("\\", f"\\{JOINER}")
        text = text.replace("{", "\\{").replace("}", "\\}")
        file.append(pysubs2.SSAEvent(round(cue.start_s * 1000), round(cue.end_s * 1000),
                                     text.replace("\n", "\\N")))
    return str(file.to_string("ass"))


def _clock(seconds: float, point: str) -> str:
    """Seconds as hours, minutes, seconds and thousandths, with two digits for hours or more."""
    minutes, ms = divmod(round(seconds * 1000), 60_000)
    return (f"{minutes // 60:02}:{minutes % 60:02}:{ms // 1000:02}{point}{ms % 1000:03}")


def write_captions(path: Path, cues: Sequence[Cue], inputs: Sequence[Path] = ()) -> None:
    """Write ``cues`` to ``path``; never over one of ``inputs``. Raises StorageError."""
    text = captions_text(cues, path.suffix)
    refuse_inputs(path, list(inputs))
    write_text(path, text)
