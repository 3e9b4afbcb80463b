"""Words of captions that are in no word list of their language, and what was probably meant.

The lists are those of pyspellchecker (MIT), by how often words occur.
"""

from __future__ import annotations

import functools
import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from spellchecker import SpellChecker


LANGUAGES = ("en", "de", "fr", "it", "pt", "nl")  # lists of others lack too many words
WORD = re.compile(r"[^\W\d_]+(?:['\u2019][^\W\d_]+)*")
ENDS = ".?!\u2026:\u201c\u00bb"  # after these a capital letter is no name's
SMALL = {  # words by which a language is known
    "en": "the and of to is that it you with for on are was this we have not be",
    "de": "der die das und ist nicht ein eine zu mit auf den wir ich sie es sind war",
    "fr": "le la les et est que des une dans pour pas vous nous sur avec ce qui",
    "it": "il lo la e che di un una per non con sono si come del della",
    "pt": "o os a e que de um uma para com não se em do da por como",
    "nl": "de het een en van is dat niet op te zijn voor met wij ik hij",
}
BRITISH = (("our", "or"), ("re", "er"), ("is", "iz"), ("ys", "yz"), ("ll", "l"), ("ogue", "og"),
           ("ae", "e"), ("oe", "e"), ("ce", "se"), ("mme", "m"))
LEAST = 3  # letters: shorter ones are mostly signs


def language_of(texts: Iterable[str]) -> str:
    """The code of the language that most of the small words in ``texts`` are of."""
    words = Counter(word.lower() for text in texts for word in WORD.findall(text))
    return max(LANGUAGES, key=lambda code: sum(words[word] for word in SMALL[code].split()))


def misspelt(
    texts: Iterable[str], language: str, names: Iterable[str] = ()
) -> Mapping[str, str]:
    """The words in ``texts`` that no list knows, in small letters, each with what was probably
    meant ("": nothing is like it). Names are left out: those given, and what is written with a
    capital letter within a sentence.
    """
    if language not in LANGUAGES:
        return {}
    known = _list(language)
    given = {word.lower() for name in names for word in WORD.findall(name)}
    asked = {word for text in texts for word in _words(text, language)} - given
    found = {}
    for word in sorted(known.unknown(asked)):
        if language == "en" and any(
                known.known([word.replace(british, other)]) for british, other in BRITISH
                if british in word):
            continue
        parts = [part for part in re.split("['\u2019]", word) if len(part) > 1]
        if parts != [word] and len(known.known(parts)) == len(set(parts)):
            continue
        better = known.correction(word) or ""
        found[word] = "" if better == word else better
    return found


def _words(text: str, language: str) -> Iterator[str]:
    """The words of ``text`` that may be wrong, in small letters."""
    begins = True
    for match in WORD.finditer(text):
        word = match.group()
        before = text[: match.start()].rstrip(" \"'\u201e\u201c\u00ab-\u2013(")
        begins = not before or before[-1] in ENDS
        name = word[0].isupper() and not begins and language != "de"  # German nouns have capitals
        if len(word) >= LEAST and not name and not (word.isupper() and len(word) > 1):
            yield word.lower()


@functools.lru_cache(2)
def _list(language: str) -> SpellChecker:
    from spellchecker import SpellChecker  # noqa: PLC0415 - only when it is asked for

    return SpellChecker(language=language, distance=1)
