"""Edits of captions, their look, and cards: functions from a project to the next."""

from __future__ import annotations

import re
from collections.abc import Sequence
from fractions import Fraction
from typing import Literal

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.layout.card import Card, card_error
from caracal.core.layout.overlay import region_on
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Project, Version
from caracal.core.text.caption_look import (
    CaptionLook,
    LookStretch,
    look_error,
    with_stretch,
    without_stretch,
)
from caracal.core.text.caption_timing import mended
from caracal.core.text.cues import Cue, cues_error, in_order, joined, parted, with_text

NEW_S = 2.0  # of a caption that is added by hand
Which = Literal["opening", "closing"]


def _refuse(wrong: str) -> None:
    if wrong:
        raise InputError(tr("These captions are not valid: {wrong}.", wrong=wrong),
                         remedy=tr("Change the caption."))


def with_captions(project: Project, cues: Sequence[Cue], file: str | None = None) -> Project:
    """The film has these captions; ``file``: where they were read. Raises InputError."""
    ordered = in_order(cues)
    _refuse(cues_error(ordered))
    return msgspec.structs.replace(
        project, captions=ordered,
        captions_file=project.captions_file if file is None else file)


def with_cue(project: Project, number: int, cue: Cue) -> tuple[Project, int]:
    """Caption ``number`` is another; also its number then. Raises InputError."""
    held = list(project.captions)
    held[number] = cue
    made = with_captions(project, held)
    return made, made.captions.index(cue)


def with_cue_text(project: Project, number: int, text: str) -> Project:
    """Caption ``number`` says something else; words that stay keep their times."""
    return with_cue(project, number, with_text(project.captions[number], text))[0]


def with_cue_added(project: Project, at_s: float, film_s: float, text: str) -> tuple[Project, int]:
    """A new caption from ``at_s`` on, as long as there is room; also its number."""
    following = next((cue.start_s for cue in project.captions if cue.start_s > at_s), film_s)
    cue = Cue(round(at_s, 3), round(min(at_s + NEW_S, max(following, at_s + 0.2)), 3), text)
    made = with_captions(project, (*project.captions, cue))
    return made, made.captions.index(cue)


def without_cues(project: Project, numbers: Sequence[int]) -> Project:
    """The film without some of its captions."""
    gone = set(numbers)
    return with_captions(project, [cue for i, cue in enumerate(project.captions) if i not in gone])


def with_cue_parted(project: Project, number: int, at: int) -> Project:
    """Caption ``number`` in two, before the word at character ``at``. Raises InputError."""
    both = parted(project.captions[number], at)
    if both is None:
        raise InputError(tr("There is no text on one side of the cursor."),
                         remedy=tr("Put the cursor between two words."))
    held = [*project.captions[:number], *both, *project.captions[number + 1 :]]
    return with_captions(project, held)


def with_cue_joined(project: Project, number: int) -> Project:
    """Caption ``number`` and the next as one. Raises InputError."""
    if number + 1 >= len(project.captions):
        raise InputError(tr("No caption follows this one."), remedy=tr("Choose another."))
    whole = joined(project.captions[number], project.captions[number + 1])
    return with_captions(project, [*project.captions[:number], whole,
                                   *project.captions[number + 2 :]])


def with_words_replaced(project: Project, find: str, by: str) -> tuple[Project, int]:
    """``find`` gives way to ``by`` wherever it stands, in capitals or not; also how often."""
    if not find:
        return project, 0
    pattern, count, held = re.compile(re.escape(find), re.IGNORECASE), 0, []
    for cue in project.captions:
        text, found = pattern.subn(lambda _: by, cue.text)
        count += found
        held.append(with_text(cue, text) if found else cue)
    return with_captions(project, [cue for cue in held if cue.text.strip()]), count


def with_captions_mended(project: Project, rate: Fraction, film_s: float) -> Project:
    """Captions without overlaps and flickering gaps, seen longer where there is room."""
    return with_captions(project, mended(project.captions, rate, film_s))


def with_look(project: Project, letter: str, look: CaptionLook) -> Project:
    """How the captions of version ``letter`` look. Raises InputError."""
    _refuse(look_error(look))
    return changed_version(project, letter, look=look)


def with_look_apart(
    project: Project, letter: str, span: tuple[int, int], look: CaptionLook | None
) -> Project:
    """Captions of ``letter`` in the film frames [first, end) of ``span`` look otherwise; None: they
    are not shown. Raises InputError.
    """
    whole = project.version(letter).look
    own = look and msgspec.structs.replace(look, stretches=())
    return with_look(project, letter, with_stretch(whole, LookStretch(*span, own)))


def with_look_shared(project: Project, letter: str, number: int) -> Project:
    """Captions in stretch ``number`` of ``letter`` look like the others again."""
    return with_look(project, letter, without_stretch(project.version(letter).look, number))


def with_look_everywhere(project: Project, letter: str) -> Project:
    """The captions of every version look like those of ``letter``."""
    look = project.version(letter).look
    for version in project.versions:
        project = changed_version(project, version.letter, look=look)
    return project


def with_burnt(project: Project, letter: str, burnt: bool | None) -> Project:
    """Whether captions are in the picture of version ``letter``; None: as its sheet says."""
    return changed_version(project, letter, burnt=burnt)


def card_of(version: Version, which: Which) -> Card | None:
    """The opening or the closing card of a version."""
    return version.opening if which == "opening" else version.closing


def with_card(project: Project, letter: str, which: Which, card: Card | None) -> Project:
    """Version ``letter`` with such an opening or closing card; None: without. Raises InputError."""
    _refuse("" if card is None else card_error(card))
    return changed_version(project, letter, **{which: card})


def with_card_everywhere(
    project: Project, letter: str, which: Which, canvases: dict[str, tuple[int, int]]
) -> Project:
    """Every version has the card of ``letter``, in like proportions. ``canvases`` by letter."""
    card = card_of(project.version(letter), which)
    for other in (version.letter for version in project.versions if version.letter != letter):
        theirs = card and msgspec.structs.replace(card, overlays=tuple(
            msgspec.structs.replace(overlay, region=region_on(
                overlay.region, canvases[letter], canvases[other]))
            for overlay in card.overlays))
        project = with_card(project, other, which, theirs)
    return project
