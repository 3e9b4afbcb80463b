"""Captions as data: cues in the film's time, with the times of their words where these are known.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from fractions import Fraction

import msgspec

from caracal.core.base.time import FrameRange
from caracal.core.base.translation import tr

MOST_CUES = 50_000
MOST_TEXT = 10_000  # characters of a cue
ROUNDING_S = 0.0006  # times are written in thousandths of a second
SLIVER_S = 0.3  # what is left of a longer cue at the edge of a range, and is not worth showing
DOUBTFUL = 0.6  # of a word that was recognised: a person looks at it first


class Word(msgspec.Struct, frozen=True):
    """A word of a cue; ``sure`` is how probably it is right, 0 to 1."""

    text: str
    start_s: float
    end_s: float
    sure: float = 1.0


class Cue(msgspec.Struct, frozen=True):
    """Words that are seen from ``start_s`` to ``end_s``. A line break in ``text`` breaks the line.

    ``words`` are those of the text, in order; none: their times are not known.
    """

    start_s: float
    end_s: float
    text: str
    words: tuple[Word, ...] = ()

    @property
    def seconds(self) -> float:
        """How long it is seen."""
        return self.end_s - self.start_s

    @property
    def doubtful(self) -> bool:
        """Whether a word of it was recognised with little certainty."""
        return any(word.sure < DOUBTFUL for word in self.words)


def frames_of(start_s: float, end_s: float, rate: Fraction) -> tuple[int, int]:
    """The frames [first, end) whose time lies from ``start_s`` up to ``end_s``; one at least."""
    first, end = (math.ceil((time - ROUNDING_S) * rate) for time in (start_s, end_s))
    return max(0, first), max(first + 1, end)


def timed_words(cue: Cue) -> tuple[Word, ...]:
    """The words of ``cue`` with times: known ones, or spread by how long they are to read."""
    parts = cue.text.split()
    if len(cue.words) == len(parts):
        return cue.words
    lengths = [len(part) + 1 for part in parts]
    total, at, made = sum(lengths) or 1, 0, []
    for part, length in zip(parts, lengths, strict=True):
        made.append(Word(part, cue.start_s + cue.seconds * at / total,
                         cue.start_s + cue.seconds * (at + length) / total))
        at += length
    return tuple(made)


def in_order(cues: Iterable[Cue]) -> tuple[Cue, ...]:
    """Returns ``cues`` in the order in which they come."""
    return tuple(sorted(cues, key=lambda cue: (cue.start_s, cue.end_s)))


def cues_in(
    cues: Sequence[Cue], ranges: Sequence[FrameRange], rate: Fraction, before_s: float = 0.0
) -> tuple[Cue, ...]:
    """The cues of a version that shows ``ranges`` of a film, in the version's own time.

    The film begins ``before_s`` after the version does. Of a cue that a range cuts off, only the
    words are kept that are said within, if their times are known; what would only flash is not.
    """
    made: list[Cue] = []
    at_s = before_s
    for span in ranges:
        first_s, end_s = float(span.start / rate), float(span.end_exclusive / rate)
        for cue in cues:
            kept = _within(cue, first_s, end_s)
            if kept is not None:
                made.append(moved(kept, at_s - first_s) if span.percent == 100
                            else _paced(kept, first_s, at_s, span.percent / 100))
        at_s += float(span.duration_frames / rate)
    return tuple(made)


def _paced(cue: Cue, first_s: float, at_s: float, speed: float) -> Cue:
    """``cue`` where time runs ``speed`` times as fast from ``first_s`` on, which is ``at_s``."""
    def there(time_s: float) -> float:
        return at_s + (time_s - first_s) / speed

    return Cue(there(cue.start_s), there(cue.end_s), cue.text, tuple(
        msgspec.structs.replace(word, start_s=there(word.start_s), end_s=there(word.end_s))
        for word in cue.words))


def _within(cue: Cue, first_s: float, end_s: float) -> Cue | None:
    """What of ``cue`` is seen from ``first_s`` to ``end_s``."""
    start, end = max(cue.start_s, first_s), min(cue.end_s, end_s)
    if end - start <= ROUNDING_S:
        return None
    if start == cue.start_s and end == cue.end_s:
        return cue
    if end - start < min(SLIVER_S, cue.seconds / 2):
        return None
    words = [word for word in cue.words if first_s <= (word.start_s + word.end_s) / 2 < end_s]
    if cue.words and not words:
        return None
    text = cue.text if len(words) == len(cue.words) else " ".join(word.text for word in words)
    return Cue(start, end, text, tuple(
        msgspec.structs.replace(word, start_s=max(word.start_s, start),
                                end_s=min(word.end_s, end)) for word in words))


def moved(cue: Cue, by_s: float) -> Cue:
    """Returns ``cue`` as it is so many seconds later."""
    return Cue(cue.start_s + by_s, cue.end_s + by_s, cue.text, tuple(
        msgspec.structs.replace(word, start_s=word.start_s + by_s, end_s=word.end_s + by_s)
        for word in cue.words))


def with_text(cue: Cue, text: str) -> Cue:
    """``cue`` with another text; words that stay keep their times, new ones get what is between.
    """
    parts = text.split()
    old = timed_words(cue) if cue.words else ()
    if not old:
        return msgspec.structs.replace(cue, text=text, words=())
    if len(old) == len(parts):
        words = tuple(
            word if word.text == part else Word(part, word.start_s, word.end_s)
            for word, part in zip(old, parts, strict=True))
        return msgspec.structs.replace(cue, text=text, words=words)
    return msgspec.structs.replace(cue, text=text, words=_matched(cue, old, parts))


def _matched(cue: Cue, old: Sequence[Word], parts: Sequence[str]) -> tuple[Word, ...]:
    """Words for ``parts``: those at both ends that are as before, and the rest between them."""
    head = 0
    while head < min(len(old), len(parts)) and old[head].text == parts[head]:
        head += 1
    tail = 0
    while tail < min(len(old), len(parts)) - head and old[-1 - tail].text == parts[-1 - tail]:
        tail += 1
    start = old[head - 1].end_s if head else cue.start_s
    end = old[-tail].start_s if tail else cue.end_s
    between = Cue(start, max(end, start), " ".join(parts[head : len(parts) - tail]))
    return (*old[:head], *timed_words(between), *(old[len(old) - tail :] if tail else ()))


def parted(cue: Cue, at: int) -> tuple[Cue, Cue] | None:
    """``cue`` in two, before the word that holds character ``at``; None where one were empty."""
    words, begins, seen, count = timed_words(cue), [], 0, 0
    for word in words:
        begins.append(cue.text.index(word.text, seen))
        seen = begins[-1] + len(word.text)
        count += seen <= at
    if not 0 < count < len(words):
        return None
    middle = round(words[count].start_s, 3)
    if not cue.start_s < middle < cue.end_s:
        middle = round(cue.start_s + cue.seconds * count / len(words), 3)
    first, second = cue.text[: begins[count]].strip(), cue.text[begins[count] :].strip()
    known = bool(cue.words)
    return (Cue(cue.start_s, middle, first, words[:count] if known else ()),
            Cue(middle, cue.end_s, second, words[count:] if known else ()))


def joined(first: Cue, second: Cue) -> Cue:
    """Returns two cues as one, from the beginning of the first on."""
    both = first.words and second.words
    return Cue(min(first.start_s, second.start_s), max(first.end_s, second.end_s),
               f"{first.text} {second.text}".strip(), first.words + second.words if both else ())


def cues_error(cues: Sequence[Cue]) -> str:
    """What is wrong with ``cues``, or nothing."""
    if len(cues) > MOST_CUES:
        return tr("a film has at most {most_cues} captions", most_cues=MOST_CUES)
    for cue in cues:
        if not (math.isfinite(cue.start_s) and math.isfinite(cue.end_s)
                and 0 <= cue.start_s < cue.end_s):
            return tr("a caption ends before it begins")
        if len(cue.text) > MOST_TEXT or not cue.text.strip():
            return tr("a caption has 1 to {most_text} characters", most_text=MOST_TEXT)
    return ""
