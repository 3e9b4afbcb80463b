"""Where a word that is wider than any line may be parted: by the patterns of TeX, from Pyphen."""

from __future__ import annotations

import functools
import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from pyphen import Pyphen

SOFT_HYPHEN = "\u00ad"  # marks such a place; it is seen only at the end of a line
PATTERNS = {"en": "en_US", "de": "de_DE", "fr": "fr", "it": "it_IT", "pt": "pt_PT", "nl": "nl_NL"}
WORD = re.compile(r"([\W_]*)([^\W\d_]+)([\W_]*)")  # no address, no number
LEAST = 6  # letters: shorter words stay whole
LEFT, RIGHT = 2, 3  # letters that stay together at a word's beginning and end (TeX's defaults)


def hyphenated(text: str, language: str) -> str:
    """``text``, a word with the signs beside it, with soft hyphens where it is a longer one.

    ``language`` is one of PATTERNS, else English is taken.
    """
    found = WORD.fullmatch(text)
    if found is None or len(found.group(2)) < LEAST:
        return text
    before, word, after = found.groups()
    patterns = _patterns(language if language in PATTERNS else "en")
    return f"{before}{patterns.inserted(word, SOFT_HYPHEN)}{after}"


@functools.lru_cache(8)
def _patterns(language: str) -> Pyphen:
    import pyphen  # noqa: PLC0415 - it takes 50 ms to import, and few words need it

    return pyphen.Pyphen(lang=PATTERNS[language], left=LEFT, right=RIGHT)


def as_line(text: str) -> str:
    """``text`` as a line shows it: a soft hyphen is seen at its end only."""
    text = text.strip()
    ends = text.endswith(SOFT_HYPHEN)
    return text.replace(SOFT_HYPHEN, "") + ("-" if ends else "")
