"""Sets captions for one canvas: breaks their lines, groups their words, and places them."""

from __future__ import annotations

import functools
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from fractions import Fraction
from itertools import islice
from pathlib import Path

import msgspec

from caracal.core.base.geometry import Region
from caracal.core.base.time import FrameRange
from caracal.core.base.work import Check, unchecked
from caracal.core.text.block import TextBlock, block_of, lines_within, margin_of, set_lines
from caracal.core.text.breaking import broken
from caracal.core.text.caption_look import (
    MOST_LINES,
    CaptionLook,
    CaptionManner,
    looks_of,
    shown_as,
)
from caracal.core.text.caption_track import (
    CaptionTrack,
    Places,
    SetCaption,
    SetWord,
    Stands,
    stand_in,
)
from caracal.core.text.cues import Cue, Word, cues_in, frames_of, timed_words
from caracal.core.text.fonts import font_for, width_of
from caracal.core.text.spelling import language_of
from caracal.core.text.style import TextStyle

LEAST_GROUP_S = 1.0  # a group of words is seen at least so long (common practice)
DASHES = ("-", "–", "—")


class Stage(msgspec.Struct, frozen=True):
    """Where captions are set: the canvas's size, the ``clear`` part of it, the file's rate, and the
    ``language`` by which their words are hyphenated."""

    canvas: tuple[int, int]
    clear: Region
    rate: Fraction
    language: str = "en"

    def widest(self, style: TextStyle) -> float:
        """How wide a line may be, in sizes of ``style``."""
        (left, right), _ = self.clear
        return (right - left) * self.canvas[0] / min(self.canvas) / style.size


def set_captions(
    cues: Sequence[Cue], look: CaptionLook, stage: Stage, ranges: Sequence[FrameRange],
    film_rate: Fraction, places: Places, before_s: float = 0.0, check: Check = unchecked,
) -> CaptionTrack:
    """``cues`` of a film set for a file that shows ``ranges`` of it, ``before_s`` after it begins.

    ``places`` says where captions of each look stand from which frame of the film on: they move
    only there. ``check`` is called for each cue, and may raise to stop: there may be thousands.
    Raises InputError when a font cannot be used.
    """
    stage = msgspec.structs.replace(stage, language=language_of(cue.text for cue in cues))
    made: list[SetCaption] = []
    looks, by_look = looks_of(look), _by_look(cues, look, film_rate)
    at_s = before_s
    for span in ranges:
        first_s = float(span.start / film_rate)
        times = [(max(0.0, float(frame / film_rate) - first_s) * 100 / span.percent + at_s, stands)
                 for frame, stands in places if frame < span.end_exclusive]
        edges = [(frames_of(at, at, stage.rate)[0], stands) for at, stands in times]
        for number, mine in by_look.items():
            for cue in cues_in(mine, (span,), film_rate, at_s):
                check()
                for piece in _pieces(cue, looks[number], stage):
                    made += _where(_set(piece, looks[number], stage, number), edges)
        at_s += float(span.duration_frames / film_rate)
    return CaptionTrack(_one_at_a_time(made), looks, stage.clear)


def _by_look(cues: Sequence[Cue], look: CaptionLook, rate: Fraction) -> dict[int, list[Cue]]:
    """Those of ``cues`` that are seen, by the number of their look."""
    found: dict[int, list[Cue]] = {}
    for cue in cues:
        number = shown_as(look, (cue.start_s + cue.end_s) / 2 * float(rate))
        if number is not None:
            found.setdefault(number, []).append(cue)
    return found


def _one_at_a_time(captions: list[SetCaption]) -> tuple[SetCaption, ...]:
    """``captions`` in order, each over when the next one comes."""
    kept = sorted(captions, key=lambda caption: caption.start)
    ends = [caption.start for caption in kept[1:]] + [kept[-1].end_exclusive] if kept else []
    made = (msgspec.structs.replace(caption, end_exclusive=min(caption.end_exclusive, end))
            for caption, end in zip(kept, ends, strict=True))
    return tuple(caption for caption in made if caption.end_exclusive > caption.start)


def _where(
    caption: SetCaption, edges: Sequence[tuple[int, Stands]]
) -> Iterator[SetCaption]:
    """``caption`` where it stands in each of the shots over which it is seen.

    ``edges`` say from which frame of the file on captions of each look stand where, in order.
    """
    first = bisect_right(edges, caption.start, key=lambda edge: edge[0])
    stand = edges[first - 1][1][caption.look] if first else caption.stand
    start = caption.start
    for frame, stands in islice(edges, first, None):
        there = stands[caption.look]
        if frame >= caption.end_exclusive:
            break
        if there != stand:
            yield msgspec.structs.replace(caption, start=start, end_exclusive=frame, stand=stand)
            start, stand = frame, there
    yield msgspec.structs.replace(caption, start=start, stand=stand)


def _pieces(cue: Cue, look: CaptionLook, stage: Stage) -> list[Cue]:
    """``cue`` as it is shown: whole, or one after the other what has room in the lines there are.
    """
    if look.manner is CaptionManner.GROUPS:
        return _groups(cue, look, stage)
    lines = _lines(cue.text, look.style, stage, look.most_lines)
    if len(lines) <= look.most_lines:
        return [msgspec.structs.replace(cue, text="\n".join(lines))]
    return _apart(cue, lines, look.most_lines)


def _lines(text: str, style: TextStyle, stage: Stage, most_lines: int) -> list[str]:
    """``text`` in lines; its own breaks stay where they fit, and between speakers."""
    font = font_for(style.font, set_lines(text, style))
    width = functools.partial(_written_width, font, style)
    room = stage.widest(style) - 2 * margin_of(style)
    own = text.split("\n")
    fits = len(own) <= most_lines and all(width(line) <= room for line in own)
    if fits or all(line.lstrip().startswith(DASHES) for line in own):
        return broken(text, room, width, language=stage.language)
    return broken(" ".join(own), room, width, language=stage.language)


def _written_width(font: Path, style: TextStyle, line: str) -> float:
    return width_of(font, set_lines(line, style))


def _apart(cue: Cue, lines: Sequence[str], most_lines: int) -> list[Cue]:
    """``lines`` of a cue in turn, each while its words are said."""
    parts = [list(lines[at : at + most_lines]) for at in range(0, len(lines), most_lines)]
    counts = [sum(len(line.split()) for line in part) for part in parts]
    words = timed_words(cue)
    if sum(counts) != len(words):  # a line broke within a word, as where none have spaces
        pieces = _in_turn(Word(cue.text, cue.start_s, cue.end_s), ["".join(part) for part in parts])
        return [Cue(piece.start_s, piece.end_s, "\n".join(part))
                for part, piece in zip(parts, pieces, strict=True)]
    made: list[Cue] = []
    at = 0
    for part, count in zip(parts, counts, strict=True):
        mine, last = words[at : at + count], at + count == len(words)
        start = made[-1].end_s if made else cue.start_s
        end = cue.end_s if last else max(mine[-1].end_s, start)
        made.append(Cue(start, end, "\n".join(part), mine))
        at += count
    return made


def _in_turn(word: Word, texts: Sequence[str]) -> list[Word]:
    """The pieces of ``word`` one after the other, each as long as its characters say."""
    total, at, made = sum(map(len, texts)) or 1, 0, []
    long_s = word.end_s - word.start_s
    for text in texts:
        start, at = at, at + len(text)
        made.append(Word(text, word.start_s + long_s * start / total,
                         word.start_s + long_s * at / total, word.sure))
    return made


def _groups(cue: Cue, look: CaptionLook, stage: Stage) -> list[Cue]:
    """The words of ``cue`` in short groups of one line."""
    style = look.style
    font = font_for(style.font, set_lines(cue.text, style))
    most = stage.widest(style) - 2 * margin_of(style)
    width = functools.partial(_written_width, font, style)
    words = [piece for word in timed_words(cue)
             for piece in _in_turn(
                 word, broken(word.text, most, width, language=stage.language))]
    groups: list[list[Word]] = []
    for word in words:
        group = groups[-1] if groups else []
        line = " ".join([*(other.text for other in group), word.text])
        long_enough = group and word.start_s - group[0].start_s >= LEAST_GROUP_S
        if not group or len(group) >= look.group_words or long_enough or width(line) > most:
            groups.append([word])
        else:
            group.append(word)
    starts = [cue.start_s, *(group[0].start_s for group in groups[1:]), cue.end_s]
    return [Cue(starts[i], max(starts[i + 1], starts[i]), " ".join(word.text for word in group),
                tuple(group)) for i, group in enumerate(groups)]


def _set(cue: Cue, look: CaptionLook, stage: Stage, number: int) -> SetCaption:
    style, words = look.style, set_lines(cue.text, look.style)
    font = font_for(style.font, words)
    lines = words.split("\n") if look.manner is not CaptionManner.GROUPS else [words]
    block = block_of(lines, font, style)
    widest = stage.widest(style)
    if block.width > widest * 1.001:  # a word that is wider than any line
        block = lines_within(words.replace("\n", " "), style, widest, MOST_LINES,
                             stage.language)
    start, end = frames_of(cue.start_s, cue.end_s, stage.rate)
    told = (_set_words(cue, block, style, stage.rate)
            if look.manner in (CaptionManner.WORDS, CaptionManner.TYPED) else ())
    return SetCaption(start, end, block, stand_in(look.place, stage.clear), told, number)


def _set_words(
    cue: Cue, block: TextBlock, style: TextStyle, rate: Fraction
) -> tuple[SetWord, ...]:
    """Where in the joined lines each word stands, and when it is said."""
    text, at, made = " ".join(block.lines), 0, []
    for word in timed_words(cue):
        while at < len(text) and text[at].isspace():
            at += 1
        first = at
        for letter in set_lines(word.text, style):
            while at < len(text) and not letter.isspace() and (
                    text[at].isspace() or (text[at] == "-" != letter)):  # a hyphen of ours
                at += 1
            at += 1
        start, stop = frames_of(word.start_s, word.end_s, rate)
        made.append(SetWord(first, min(at, len(text)), start, stop))
    return tuple(made)
