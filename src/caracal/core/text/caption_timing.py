"""What is wrong with captions in time, and captions mended: overlaps, gaps, reading speed.

The limits are common practice of subtitling; reading speed as public broadcasters ask for it (160
to 180 words a minute, from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

import msgspec

from caracal.core.base.translation import tr
from caracal.core.text.cues import MOST_TEXT, ROUNDING_S, Cue, in_order, joined

MOST_WORDS_S = 180 / 60  # words a second
LEAST_WORD_S = 1 / MOST_WORDS_S
LEAST_CUE_S = 1.0
GAP_FRAMES = 2  # a shorter gap between captions only flickers


class CueFault(msgspec.Struct, frozen=True):
    """What is wrong with cue ``number``, in a sentence and in a word or two."""

    number: int
    sentence: str
    word: str


def least_s(cue: Cue) -> float:
    """How long it takes to read ``cue``."""
    return max(LEAST_CUE_S, len(cue.text.split()) * LEAST_WORD_S)


def faults(cues: Sequence[Cue], rate: Fraction) -> tuple[CueFault, ...]:
    """All that is wrong in time with ``cues``, which are in order."""
    found, gap_s = [], GAP_FRAMES / float(rate)
    for number, cue in enumerate(cues):
        following = cues[number + 1] if number + 1 < len(cues) else None
        if following is not None and following.start_s < cue.end_s - ROUNDING_S:
            found.append(CueFault(number, tr("It overlaps the next caption."),
                                  tr("overlap")))
        elif following is not None and (
                ROUNDING_S < following.start_s - cue.end_s < gap_s - ROUNDING_S):
            found.append(CueFault(number, tr("The gap after it is so short that it flickers."),
                                  tr("flickers")))
        if cue.seconds < least_s(cue) - ROUNDING_S:
            speed = len(cue.text.split()) / cue.seconds * 60
            found.append(CueFault(number, tr("It is seen too briefly: {speed:.0f} words a minute, "
                                             "{seconds:.1f} s.", speed=speed, seconds=cue.seconds),
                                  tr("too quick")))
    return tuple(found)


def mended(cues: Sequence[Cue], rate: Fraction, film_s: float) -> tuple[Cue, ...]:
    """``cues`` without overlaps and flickering gaps, seen longer where there is room.

    Beginnings stay, for they are in step with the sound; ends move. Those that begin within a frame
    of each other stand under each other.
    """
    ordered, made = _one_at_a_time(in_order(cues), rate), []
    for number, cue in enumerate(ordered):
        room = ordered[number + 1].start_s if number + 1 < len(ordered) else max(film_s, cue.end_s)
        end = min(max(cue.end_s, cue.start_s + least_s(cue)), room)
        if 0 < room - end < GAP_FRAMES / rate:
            end = room
        made.append(msgspec.structs.replace(cue, end_s=round(end, 3)))
    return tuple(made)


def _one_at_a_time(cues: Sequence[Cue], rate: Fraction) -> list[Cue]:
    """``cues``, which are in order, with those joined that begin within a frame of each other."""
    made = list[Cue]()
    for cue in cues:
        if made and cue.start_s - made[-1].start_s < float(1 / rate) - ROUNDING_S:
            text = f"{made[-1].text}\n{cue.text}"[:MOST_TEXT]
            made[-1] = msgspec.structs.replace(joined(made[-1], cue), text=text)
        else:
            made.append(cue)
    return made
