"""Words of the master's picture covered in a version, and written anew as a title."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from caracal.core.analysis.burnt_text import BurntText
from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Region, shared_area
from caracal.core.base.translation import tr
from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.redaction import Redaction, redactions_error
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Project
from caracal.core.project.overlay_edits import with_overlay_added
from caracal.core.text.style import DEFAULT_FONT, TextShadow, TextStyle, Title

COVERED = 0.8  # of a line: then it is not seen any more
MOST_SIZE = 0.14  # of the canvas's shorter side
STYLE = TextStyle(DEFAULT_FONT, shadow=TextShadow())
MOVING = 8  # frames that new words take to come and go


def with_words_covered(
    project: Project, letter: str, text: BurntText, colour: str | None = None
) -> Project:
    """The words of ``text`` are covered in version ``letter``: with a ``colour``, or with what lies
    round them. Raises InputError.
    """
    new = Redaction(text.start, text.end_exclusive, text.box, colour)
    kept = tuple(each for each in project.version(letter).redactions if each.box != new.box)
    made = (*kept, new)
    wrong = redactions_error(made)
    if wrong:
        raise InputError(tr("These covered words are not valid: {wrong}.", wrong=wrong),
                         remedy=tr("Cover fewer words."))
    return changed_version(project, letter, redactions=made)


def with_words_rewritten(
    project: Project, letter: str, text: BurntText, region: Region, canvas: tuple[int, int],
    colour: str | None = None,
) -> Project:
    """The words of ``text`` covered in version ``letter``, and written anew in ``region`` of its
    ``canvas``, in the brand's style if there is one. Raises InputError.
    """
    made = with_words_covered(project, letter, text, colour)
    style = project.brand.titles if project.brand and project.brand.titles else STYLE
    high = (region[1][1] - region[1][0]) * canvas[1] / (text.text.count("\n") + 1)
    style = msgspec.structs.replace(style, size=min(MOST_SIZE, max(0.03, high / min(canvas))))
    title = Overlay(Title(text.text, style, most_lines=6), text.start, text.end_exclusive, region,
                    moving=MOVING)
    same = [number for number, overlay in enumerate(made.version(letter).overlays)
            if isinstance(overlay.content, Title) and overlay.content.text == text.text
            and (overlay.start, overlay.end_exclusive) == (text.start, text.end_exclusive)]
    if same:
        return made  # it was written anew before
    return with_overlay_added(made, letter, title)


def with_words_seen(project: Project, letter: str) -> Project:
    """All words of the master's picture are seen in version ``letter`` again."""
    return changed_version(project, letter, redactions=())


def without_covered(
    flags: Sequence[Flag], analysis: Analysis, shot: int, redactions: Sequence[Redaction]
) -> tuple[Flag, ...]:
    """``flags`` of a shot without those of cut words, if all words in it are covered."""
    if not redactions:
        return tuple(flags)
    for track in analysis.words_in(shot):
        middle = track.first_frame + len(track.boxes) // 2
        box = track.box_at(middle)
        if box is not None and not any(
                each.start <= middle < each.end_exclusive
                and shared_area(each.box, box) >= COVERED * box[2] * box[3]
                for each in redactions):
            return tuple(flags)
    return tuple(flag for flag in flags if flag.kind is not FlagKind.TEXT_CUT)
