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
LONG = 0.55  # of the most characters, from which a comma ends a caption as well


def cues_of_words(words: Sequence[Word]) -> tuple[Cue, ...]:
    """``words`` in order as captions; each of their texts begins with no space."""
    groups: list[list[Word]] = []
    for word in words:
        if not groups or _begins(groups[-1], word):
            groups.append([])
        groups[-1].append(word)
    made = []
    for i, group in enumerate(groups):
        following = groups[i + 1][0].start_s if i + 1 < len(groups) else group[-1].end_s + LINGERS_S
        end = min(group[-1].end_s + LINGERS_S, max(following, group[-1].end_s))
        text = " ".join(word.text for word in group)
        made.append(Cue(round(group[0].start_s, 3), round(end, 3), text, tuple(group)))
    return tuple(made)


def _begins(group: Sequence[Word], word: Word) -> bool:
    """Whether ``word`` begins a caption of its own after ``group``."""
    length = sum(len(other.text) + 1 for other in group)
    last = group[-1]
    if word.start_s - last.end_s > PAUSE_S or last.text.endswith(ENDS):
        return True
    if length + len(word.text) > MOST_CHARACTERS or word.end_s - group[0].start_s > MOST_S:
        return True
    return last.text.endswith(COMMAS) and length > LONG * MOST_CHARACTERS
