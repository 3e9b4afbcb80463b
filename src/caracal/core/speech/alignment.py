"""A text that is known, laid in time by the words that were recognised in the sound."""

from __future__ import annotations

import re
from collections.abc import Sequence
from difflib import SequenceMatcher

from caracal.core.text.cues import Cue, Word, timed_words


def aligned(text: str, heard: Sequence[Word]) -> tuple[Word, ...]:
    """The words of ``text`` with the times of those ``heard`` that are the same; the others lie
    between these, by how long they are to read. Empty where nothing was heard.
    """
    parts = text.split()
    if not parts or not heard:
        return ()
    plain, told = ([_plain(word) for word in words]
                   for words in (parts, (word.text for word in heard)))
    found: dict[int, Word] = {}
    for match in SequenceMatcher(None, plain, told, autojunk=False).get_matching_blocks():
        for i in range(match.size):
            word = heard[match.b + i]
            found[match.a + i] = Word(parts[match.a + i], word.start_s, word.end_s, word.sure)
    made: list[Word] = []
    at = 0
    while at < len(parts):
        if at in found:
            made.append(found[at])
            at += 1
            continue
        end = next((i for i in range(at, len(parts)) if i in found), len(parts))
        before = made[-1].end_s if made else heard[0].start_s
        after = found[end].start_s if end < len(parts) else max(heard[-1].end_s, before)
        between = Cue(before, max(after, before), " ".join(parts[at:end]))
        made += [Word(word.text, word.start_s, word.end_s, 0.0) for word in timed_words(between)]
        at = end
    return tuple(made)


def _plain(word: str) -> str:
    """``word`` without what is not said."""
    return re.sub(r"[\W_]+", "", word.casefold()) or word
