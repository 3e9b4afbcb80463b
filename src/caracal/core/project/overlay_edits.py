"""Edits of what lies over a version: overlays added, changed, taken away, brought forward; fades.
"""

from __future__ import annotations

import msgspec

from caracal.core.base.colours import rgb_of
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.layout.overlay import MOST_OVERLAYS, Overlay, overlay_error, region_on
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Fades, Project


def with_overlays(project: Project, letter: str, overlays: tuple[Overlay, ...]) -> Project:
    """``overlays`` over version ``letter``, the last one in front. Raises InputError."""
    wrong = overlays_error(overlays)
    if wrong:
        raise InputError(tr("This overlay is not valid: {wrong}.", wrong=wrong),
                         remedy=tr("Change its numbers."))
    return changed_version(project, letter, overlays=overlays)


def overlays_error(overlays: tuple[Overlay, ...]) -> str:
    """What is wrong with ``overlays``, or nothing."""
    if len(overlays) > MOST_OVERLAYS:
        return tr("a version has at most {most_overlays} overlays", most_overlays=MOST_OVERLAYS)
    return next(filter(None, map(overlay_error, overlays)), "")


def with_overlay_added(project: Project, letter: str, overlay: Overlay) -> Project:
    """``overlay`` in front of the others. Raises InputError."""
    return with_overlays(project, letter, (*project.version(letter).overlays, overlay))


def overlay_like(project: Project, letter: str, overlay: Overlay) -> int | None:
    """The number of the overlay of version ``letter`` that shows the same content at the same time
    as ``overlay``; None: it has none."""
    return next((number for number, other in enumerate(project.version(letter).overlays) if (
        other.content, other.start, other.end_exclusive) == (
            overlay.content, overlay.start, overlay.end_exclusive)), None)


def with_overlay_changed(project: Project, letter: str, number: int, **changes: object) -> Project:
    """Overlay ``number`` of version ``letter`` with other values. Raises InputError."""
    held = list(project.version(letter).overlays)
    held[number] = msgspec.structs.replace(held[number], **changes)
    return with_overlays(project, letter, tuple(held))


def without_overlay(project: Project, letter: str, number: int) -> Project:
    """The version without its overlay ``number``."""
    held = project.version(letter).overlays
    return with_overlays(project, letter, held[:number] + held[number + 1 :])


def with_overlay_everywhere(
    project: Project, letter: str, number: int, canvases: dict[str, tuple[int, int]]
) -> Project:
    """Overlay ``number`` of version ``letter`` over all other versions as well.

    ``canvases`` are theirs, by letter. Raises InputError.
    """
    overlay = project.version(letter).overlays[number]
    for other in (version.letter for version in project.versions if version.letter != letter):
        region = region_on(overlay.region, canvases[letter], canvases[other])
        project = with_overlay_added(
            project, other, msgspec.structs.replace(overlay, region=region))
    return project


def with_overlay_moved(project: Project, letter: str, number: int, to: int) -> Project:
    """Overlay ``number`` at place ``to`` of the order, from back to front."""
    held = list(project.version(letter).overlays)
    held.insert(max(0, min(to, len(held) - 1)), held.pop(number))
    return with_overlays(project, letter, tuple(held))


def with_fades(project: Project, letter: str, fades: Fades) -> Project:
    """How version ``letter`` begins and ends. Raises InputError."""
    wrong = fades_error(fades)
    if wrong:
        raise InputError(tr("These fades are not valid: {wrong}.", wrong=wrong),
                         remedy=tr("Change its numbers."))
    return changed_version(project, letter, fades=fades)


def fades_error(fades: Fades) -> str:
    """What is wrong with ``fades``, or nothing."""
    try:
        rgb_of(fades.colour)
    except InputError as problem:
        return problem.what
    wrong = min(fades.begin, fades.end, fades.joint) < 0
    return tr("a fade has a negative length") if wrong else ""
