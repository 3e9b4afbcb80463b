"""Where lines break: by Unicode's rules (UAX 14, by uniseg) and, where words are written without
blanks, where words end (by BudouX), in few and balanced lines.

Words that belong together stay together where they can: an article and its noun, a number and its
unit (common practice of subtitling).
"""

from __future__ import annotations

import functools
import math
import re
import unicodedata
from collections.abc import Callable, Sequence
from itertools import accumulate, pairwise

import budoux
from uniseg.graphemecluster import grapheme_clusters
from uniseg.linebreak import line_break_units

from caracal.core.text.hyphenation import SOFT_HYPHEN, as_line, hyphenated

Width = Callable[[str], float]

# Words that lean on the next one, in English, German, French, Spanish, Italian and Dutch.
WORDS_THAT_LEAN = (
    "a an the of to in on at by for from with and or but as is my your his her its our their no "
    "der die das ein eine einen einem einer dem den des und oder von zu im am mit für auf "
    "le la les un une du de et ou à au aux en el los las una unos unas y o con por para del al "
    "il lo gli i uno di da e het een van")
SCRIPTS = {  # in this order: Japanese has Chinese letters, too
    "thai": re.compile("[\u0e01-\u0e4e]"),
    "japanese": re.compile("[\u3041-\u30ff]"),
    "chinese": re.compile("[\u4e00-\u9fff]"),
}
LEANING = frozenset(WORDS_THAT_LEAN.split())
APART = 0.35  # what parting such words costs, beside lines of quite unequal length (1)
WITHIN_WORD = 0.2  # what parting "ill-disposed" costs
HYPHENS = ("-", "\u2010")
RAGGED_END = 0.02  # what a longer last line costs


def opportunities(text: str) -> list[str]:
    """``text`` cut wherever a line may break: after blanks, and where UAX 14 says so in a word.

    Signs by themselves stay with the word before, opening ones with the word after.
    """
    made: list[str] = []
    opening = ""
    for token in re.findall(r"[^ \t]+[ \t]*|[ \t]+", text):
        if any(letter.isalnum() for letter in token) or not (made or opening):
            made += _within(opening + token)
            opening = ""
        elif unicodedata.category(token[0]) in ("Ps", "Pi"):
            opening += token
        elif made:
            made[-1] += token
        else:
            opening += token
    return [*made, opening] if opening else made


@functools.lru_cache(16_384)
def _within(word: str) -> tuple[str, ...]:
    """The parts of one word; uniseg takes milliseconds for a sentence, and words come again.

    Where words are written without blanks UAX 14 parts between any two letters of Chinese and
    Japanese, and nowhere in Thai: there a line breaks where a word, or a phrase, ends.
    """
    units = list(line_break_units(word))
    script = next((name for name, letters in SCRIPTS.items() if letters.search(word)), None)
    if script is None:
        return tuple(units)
    allowed = set(accumulate(map(len, units)))
    ends = set(accumulate(map(len, _parser(script).parse(word))))
    # Thai has no places of its own; beside other letters and signs those of UAX 14 hold.
    places = sorted((ends | allowed if script == "thai" else ends & allowed) | {len(word)})
    return tuple(word[start:end] for start, end in pairwise((0, *places)))


@functools.lru_cache(4)
def _parser(script: str) -> budoux.Parser:
    return {"thai": budoux.load_default_thai_parser,
            "japanese": budoux.load_default_japanese_parser,
            "chinese": budoux.load_default_simplified_chinese_parser}[script]()


def broken(
    text: str, most: float, width: Width, most_lines: int = 99, language: str = "en"
) -> list[str]:
    """``text`` in the fewest lines no wider than ``most``, balanced.

    ``width`` says how wide a line is. A word wider than ``most`` is hyphenated as its ``language``
    does, or parted between letters where that is not enough. Where ``most_lines`` are too few the
    lines are wider than ``most``. A line break in the text breaks.
    """
    lines: list[str] = []
    paragraphs = [line.strip() for line in text.split("\n")]
    paragraphs = [line for line in paragraphs if line] or [""]
    for at, paragraph in enumerate(paragraphs):
        room = max(1, most_lines - len(lines) - (len(paragraphs) - at - 1))
        lines += _broken(paragraph, most, width, room, language)
    return lines


def _broken(text: str, most: float, width: Width, most_lines: int, language: str) -> list[str]:
    if width(text) <= most or most_lines == 1:
        return [text]
    units = Units(_units(text, most, width, language), width)
    fewest = min(max(units.fewest(most), 1), most_lines)
    for count in range(fewest, min(len(units.texts), most_lines) + 1):
        lines = _balanced(units, count)
        if max(width(line) for line in lines) <= most:
            return lines
    return _balanced(units, min(len(units.texts), most_lines))


def _units(text: str, most: float, width: Width, language: str) -> list[str]:
    """What may not be parted, in order; what is too wide for any line is parted all the same."""
    units: list[str] = []
    for unit in opportunities(text):
        if width(unit.rstrip()) <= most:
            units.append(unit)
            continue
        parts = syllables(unit, language)
        fits = all(width(as_line(part)) <= most for part in parts)
        units += parts if fits else _letters(unit, most, width)
    return units


def syllables(unit: str, language: str) -> list[str]:
    """The parts of ``unit`` that a hyphen may part, each but the last with a soft hyphen."""
    return re.findall(f"[^{SOFT_HYPHEN}]+{SOFT_HYPHEN}?", hyphenated(unit, language))


def _letters(unit: str, most: float, width: Width) -> list[str]:
    """``unit`` parted between letters, each part as long as fits."""
    parts, part = [], ""
    for cluster in grapheme_clusters(unit):
        if part and width(part + cluster) > most:
            parts.append(part)
            part = ""
        part += cluster
    return [*parts, part]


class Units:
    """What may not be parted, with widths: each is measured once, and lines are sums of them."""

    def __init__(self, texts: Sequence[str], width: Width) -> None:
        self.texts = tuple(texts)
        self._before = [0.0, *accumulate(width(text.rstrip(SOFT_HYPHEN)) for text in self.texts)]
        self._blank = [self._before[i + 1] - self._before[i] - width(as_line(text))
                       for i, text in enumerate(self.texts)]

    def length(self, start: int, end: int) -> float:
        """How wide those from ``start`` to ``end`` are in one line, without the blank at its end.
        """
        return self._before[end] - self._before[start] - self._blank[end - 1]

    def fewest(self, most: float) -> int:
        """How many lines there are when each takes as much as it can."""
        count, start = 1, 0
        for end in range(1, len(self.texts) + 1):
            if end - start > 1 and self.length(start, end) > most:
                count, start = count + 1, end - 1
        return count


def _balanced(units: Units, count: int) -> list[str]:
    """``units`` in ``count`` lines whose lengths differ least, by dynamic programming."""
    total = len(units.texts)
    ideal = (units.length(0, total) or 1.0) / count

    @functools.cache
    def best(start: int, left: int) -> tuple[float, tuple[int, ...]]:
        if left == 1:
            over = (units.length(start, total) - ideal) / ideal
            return over * over + (RAGGED_END if over > 0 else 0.0), (total,)
        found: tuple[float, tuple[int, ...]] = (math.inf, ())
        for end in range(start + 1, total - left + 2):
            over = (units.length(start, end) - ideal) / ideal
            cost = over * over + _parted(units.texts[end - 1], units.texts[end])
            rest, ends = best(end, left - 1)
            if cost + rest < found[0]:
                found = (cost + rest, (end, *ends))
        return found

    lines, start = [], 0
    for end in best(0, count)[1]:
        lines.append(as_line("".join(units.texts[start:end])))
        start = end
    return lines


def _parted(before: str, after: str) -> float:
    """What it costs to break between two units."""
    word = before.strip().lower()
    if word[-1:] in ".,;:!?…—":
        return -0.08  # a good place
    if word in LEANING:
        return APART
    if before == before.rstrip() and word.endswith((*HYPHENS, SOFT_HYPHEN)):
        return WITHIN_WORD
    number = word[:1].isdigit() and word[-1:].isdigit()
    return APART if number and after[:1].isalpha() else 0.0


def balanced(text: str, width: Width, count: int, language: str = "") -> list[str]:
    """``text`` in ``count`` balanced lines, or in as many as its own line breaks ask for.

    Words are hyphenated as their ``language`` does where one is given.
    """
    if "\n" in text.strip():
        return [line.strip() for line in text.strip().split("\n") if line.strip()] or [""]
    whole = opportunities(text.strip())
    units = Units(whole if not language else [
        part for unit in whole for part in syllables(unit, language)], width)
    if not units.texts:
        return [""]
    return _balanced(units, min(count, len(units.texts)))
