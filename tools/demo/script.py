"""Who is in the film, what they say and when: for the pictures, the voices and the captions."""

from __future__ import annotations

import functools
import math
import re
from dataclasses import dataclass

from demo.face import Person

FPS = 25

INES = Person("Ines", "#d9a27e", "#3a2418", "#3f6f73", "#3c3f4a", "bun", apron="#b5713a")
TOBIAS = Person("Tobias", "#8a5a3c", "#1c1512", "#a0522d", "#2f3a4a", beard=True)
WREN = Person("Wren", "#e8bd9c", "#8a4f26", "#5b6f4a", "#4a3a30", "long")
OTTO = Person("Otto", "#c98f68", "#6f6a66", "#7a3b2e", "#39424a", "cap", iris="#3d5a66")
MIRA = Person("Mira", "#6f4630", "#15100e", "#d0a24c", "#4a3d55", "curly")


@dataclass(frozen=True)
class Line:
    """One spoken sentence: who, from which second, the words."""

    who: str
    start_s: float
    text: str


LINES = (
    Line("Ines", 6.75, "We fire the big kiln once a year, and the whole quay comes."),
    Line("Ines", 11.0, "You never know what you will find when the door opens."),
    Line("Ines", 17.5, "Tobias says the fire decides."),
    Line("Tobias", 19.6, "It does! You can only feed it, and wait."),
    Line("Tobias", 43.75, "My first bowl cracked. My second one is still on the table."),
    Line("Wren", 54.0, "To the kiln, and to everyone who carried wood."),
)


@dataclass(frozen=True)
class Syllable:
    """A vowel with the consonants before it, from ``start_s`` to ``end_s``."""

    start_s: float
    end_s: float
    vowel: str
    onset: str


@functools.cache
def syllables(line: Line) -> tuple[Syllable, ...]:
    """Crude syllables of a line with pauses at commas and stops."""
    at = line.start_s
    made: list[Syllable] = []
    for word in line.text.split():
        for onset, vowel in re.findall(r"([^aeiouy]*)([aeiouy]+)", word.lower()):
            if vowel == "e" and word.lower().rstrip(".,!").endswith(onset + "e") and made:
                continue
            length = 0.135 + 0.03 * len(vowel) + 0.02 * min(len(onset), 2)
            made.append(Syllable(at, at + length, vowel[0], onset.strip("'")))
            at += length
        at += 0.04
        at += 0.26 if word.endswith(",") else 0.42 if word[-1] in ".!" else 0.0
    return tuple(made)


def line_end_s(line: Line) -> float:
    """When the last syllable of ``line`` ends."""
    return syllables(line)[-1].end_s


def mouth(who: str, time_s: float) -> float:
    """How far ``who`` opens the mouth at ``time_s``: 0 closed, 1 wide."""
    wide = {"a": 1.0, "o": 0.8, "e": 0.6, "u": 0.5, "i": 0.45, "y": 0.45}
    for line in LINES:
        if line.who != who:
            continue
        for part in syllables(line):
            if part.start_s <= time_s < part.end_s:
                phase = (time_s - part.start_s) / (part.end_s - part.start_s)
                return wide[part.vowel] * math.sin(math.pi * phase)
    return 0.0
