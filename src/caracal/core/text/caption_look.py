"""How a version's captions look and come, in all of the film and in stretches of it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum
from itertools import pairwise

import msgspec

from caracal.core.base.translation import mark, tr
from caracal.core.text.style import Stroke, TextShadow, TextStyle, style_error

CAPTION_STYLE = TextStyle(outline=Stroke(), shadow=TextShadow())
MOST_LINES, MOST_GROUP = 4, 12
MOST_STRETCHES = 400


class CaptionManner(StrEnum):
    """How captions come: in lines, word by word, in groups, or typed."""

    LINES = mark("lines")
    WORDS = mark("word by word")
    GROUPS = mark("groups")
    TYPED = mark("typed")


class CaptionPlace(StrEnum):
    """Where in the clear area captions stand."""

    LOW = mark("low")
    MIDDLE = mark("middle")
    TOP = mark("top")
    BESIDE = mark("by the speaker")


class CaptionLook(msgspec.Struct, frozen=True):
    """How a version's captions look.

    They have up to ``most_lines`` lines or, in groups, one with up to ``group_words`` words.
    ``said`` is the colour of words that were said. Captions that ``avoid`` faces leave their
    ``place`` in shots where they would lie on one. In ``stretches`` of the film they look
    otherwise; those have none of their own.
    """

    style: TextStyle = CAPTION_STYLE
    manner: CaptionManner = CaptionManner.LINES
    place: CaptionPlace = CaptionPlace.LOW
    most_lines: int = 2
    group_words: int = 4
    said: str = "#f2b35e"
    avoid: bool = True
    stretches: tuple[LookStretch, ...] = ()


class LookStretch(msgspec.Struct, frozen=True):
    """Film frames from ``start`` to ``end_exclusive``; captions whose middle lies there have
    another ``look`` (None: they are not shown).
    """

    start: int
    end_exclusive: int
    look: CaptionLook | None = None


def looks_of(look: CaptionLook) -> tuple[CaptionLook, ...]:
    """``look`` itself, and those of its stretches that show captions."""
    return (look, *(stretch.look for stretch in look.stretches if stretch.look is not None))


def stretch_at(look: CaptionLook, frame: float) -> int | None:
    """The number of the stretch of ``look`` in which a ``frame`` of the film lies; None: none."""
    return next((number for number, stretch in enumerate(look.stretches)
                 if stretch.start <= frame < stretch.end_exclusive), None)


def shown_as(look: CaptionLook, frame: float) -> int | None:
    """Which of :func:`looks_of` captions have whose middle is at ``frame``; None: none is seen."""
    number = stretch_at(look, frame)
    if number is None:
        return 0
    if look.stretches[number].look is None:
        return None
    return 1 + sum(stretch.look is not None for stretch in look.stretches[:number])


def with_stretch(look: CaptionLook, new: LookStretch) -> CaptionLook:
    """``look`` with a ``new`` stretch; others give way where it lies."""
    kept: list[LookStretch] = []
    for old in look.stretches:
        for start, end in ((old.start, min(old.end_exclusive, new.start)),
                           (max(old.start, new.end_exclusive), old.end_exclusive)):
            if start < end:
                kept.append(msgspec.structs.replace(old, start=start, end_exclusive=end))
    return _with(look, [*kept, new])


def without_stretch(look: CaptionLook, number: int) -> CaptionLook:
    """``look`` without its stretch ``number``: captions there look like the others again."""
    return _with(look, [*look.stretches[:number], *look.stretches[number + 1 :]])


def _with(look: CaptionLook, stretches: Iterable[LookStretch]) -> CaptionLook:
    return msgspec.structs.replace(look, stretches=tuple(
        sorted(stretches, key=lambda stretch: stretch.start)))


def look_error(look: CaptionLook) -> str:
    """What is wrong with ``look``, or nothing."""
    wrong = _stretches_error(look.stretches)
    if wrong:
        return wrong
    for each in looks_of(look):
        if not (1 <= each.most_lines <= MOST_LINES and 1 <= each.group_words <= MOST_GROUP):
            return tr("captions have an impossible number of lines or words")
        wrong = style_error(each.style) or style_error(
            msgspec.structs.replace(each.style, colour=each.said))
        if wrong:
            return wrong
    return ""


def _stretches_error(stretches: Sequence[LookStretch]) -> str:
    if len(stretches) > MOST_STRETCHES:
        return tr("there are more than {most_stretches} stretches of other captions",
                  most_stretches=MOST_STRETCHES)
    if any(not 0 <= stretch.start < stretch.end_exclusive for stretch in stretches) or any(
            later.start < earlier.end_exclusive for earlier, later in pairwise(stretches)):
        return tr("a stretch with its own caption style is empty, or overlaps another")
    if any(stretch.look is not None and stretch.look.stretches for stretch in stretches):
        return tr("a stretch of other captions has stretches of its own")
    return ""
