"""A line as letters and emoji, which are drawn in colour by a font of their own.

What is an emoji: Unicode Technical Standard 51, ED-4 to ED-16, in the library's tables. Sequences
(skin tones, joined people, flags, keycaps) are one picture each.
"""

from __future__ import annotations

import functools
from typing import NamedTuple

from uniseg.emoji import emoji_presentation
from uniseg.graphemecluster import grapheme_clusters

AS_TEXT, AS_EMOJI, KEYCAP = "\ufe0e", "\ufe0f", "\u20e3"
WIDE = 1.15  # of an emoji, in sizes of the letters beside it
PLAIN_BELOW = "\u00a9"  # the first sign that can be an emoji by itself


class Run(NamedTuple):
    """A part of a line: letters, or one ``emoji``."""

    text: str
    emoji: bool


@functools.lru_cache(16_384)
def runs_of(line: str) -> tuple[Run, ...]:
    """``line`` in its runs, in order."""
    if all(letter < PLAIN_BELOW for letter in line):
        return (Run(line, False),) if line else ()
    made: list[Run] = []
    for cluster in grapheme_clusters(line):
        emoji = is_emoji(cluster)
        if made and not emoji and not made[-1].emoji:
            made[-1] = Run(made[-1].text + cluster, False)
        else:
            made.append(Run(cluster, emoji))
    return tuple(made)


def is_emoji(cluster: str) -> bool:
    """Whether a grapheme cluster is seen as a picture in colour."""
    if AS_TEXT in cluster:
        return False
    return AS_EMOJI in cluster or KEYCAP in cluster or bool(emoji_presentation(cluster[0]))


def letters_of(line: str) -> str:
    """``line`` without its emoji."""
    return "".join(run.text for run in runs_of(line) if not run.emoji)
