"""Captions from words with times: where sentences and pauses are, of a length that can be read."""

from __future__ import annotations

from collections.abc import Sequence

from caracal.core.text.cues import Cue, Word

MOST_CHARACTERS = 74  # two lines of 37 on a wide screen (common practice)
MOST_S = 6.0  # a caption stands no longer (common practice)
PAUSE_S = 0.7  # a new caption begins after a longer one
LINGERS_S = 0.4  # it stays so long after its last word, if nothing follows
ENDS = (".", "!", "?", "…", "。", "？", "！")
COMMAS = (",", ";", ":", "–", "—", "、", "，")
LEAST_S = 0.8  # a shorter caption only flashes (common practice)
ABBREVIATED = {  # after these a stop ends no sentence (from memory)
    "en": "mr mrs ms dr prof st jr sr vs etc no approx dept est fig gen gov hon inc ltd maj capt "
          "col sgt lt rev sen rep e.g i.e a.m p.m u.s u.k",
    "de": "hr fr dr prof dipl ing nr str ca bzw usw evtl ggf inkl max min mio mrd st tel vgl z.b "
          "d.h u.a o.ä i.d.r s.o s.u u.s.w jh abs bd",
    "fr": "m mm mme mmes mlle dr pr st ste etc av apr env max min n° p.ex c.-à-d cf éd fig vol",
    "es": "sr sra srta sres dr dra d dña ud uds etc av núm pág p.ej ee.uu a.c d.c",
    "it": "sig sigg dott dott.ssa prof avv ing arch ecc es pag vol p.es a.c d.c",
    "pt": "sr sra dr dra prof profa av etc ex pág núm p.ex a.c d.c",
    "nl": "dhr mevr mw dr prof ing ir drs mr bijv enz nr ca o.a d.w.z m.b.t a.u.b",
}
TITLES = ("mr", "mrs", "ms", "dr", "prof", "st", "capt", "col", "sgt")  # where it is not known
ORDINALS = ("de",)  # languages in which a number with a stop is an ordinal
LONG = 0.55  # of the most characters, from which a comma ends a caption as well


def cues_of_words(words: Sequence[Word], language: str = "") -> tuple[Cue, ...]:
    """``words`` of a ``language`` (a code) in order as captions; each of their texts begins with no
    space."""
    groups: list[list[Word]] = []
    for word in words:
        if not groups or _begins(groups[-1], word, language):
            groups.append([])
        groups[-1].append(word)
    made = []
    for i, group in enumerate(groups):
        end = max(group[-1].end_s + LINGERS_S, group[0].start_s + LEAST_S)
        if i + 1 < len(groups):
            end = min(end, max(groups[i + 1][0].start_s, group[-1].end_s))
        text = " ".join(word.text for word in group)
        made.append(Cue(round(group[0].start_s, 3), round(end, 3), text, tuple(group)))
    return tuple(made)


def _begins(group: Sequence[Word], word: Word, language: str) -> bool:
    """Whether ``word`` begins a caption of its own after ``group``."""
    length = sum(len(other.text) + 1 for other in group)
    last = group[-1]
    if word.start_s - last.end_s > PAUSE_S:
        return True
    brief = word.start_s - group[0].start_s < LEAST_S
    if _ends_sentence(last.text, word.text, language) and not brief:
        return True
    if length + len(word.text) > MOST_CHARACTERS or word.end_s - group[0].start_s > MOST_S:
        return True
    return last.text.endswith(COMMAS) and length > LONG * MOST_CHARACTERS


def _ends_sentence(text: str, following: str, language: str) -> bool:
    """Whether a sentence ends with ``text``, before the word ``following``."""
    if not text.endswith(ENDS):
        return False
    if not text.endswith(".") or text.endswith("..."):
        return True
    bare = text.strip("\"'„“”«»()[]").rstrip(".").casefold()
    known = tuple(ABBREVIATED.get(language, "").split()) if language else TITLES
    if bare in known or (len(bare) == 1 and bare.isalpha() and bare != "i"):  # an initial
        return False
    if bare.isdigit() and language in ORDINALS:
        return False
    return not following[:1].islower()
