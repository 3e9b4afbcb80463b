"""Templates: what lies over a version and how it begins and ends, kept for the next of a series.

A template is open TOML, with its pictures beside it. Times are seconds, counted from the version's
beginning or, below zero, from its end: so it fits versions of any length.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Region
from caracal.core.base.time import FrameRange
from caracal.core.base.toml_text import read_toml, write_toml
from caracal.core.base.translation import tr
from caracal.core.layout.card import Card, card_error
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.model import (
    EVERYWHERE,
    FILL,
    Canvas,
    Layout,
)
from caracal.core.layout.overlay import Overlay, region_on
from caracal.core.project.arranging import arranged
from caracal.core.project.assets import with_copies_beside, with_files_beside
from caracal.core.project.caption_edits import with_card, with_look
from caracal.core.project.edits import with_layout
from caracal.core.project.model import Fades, Project
from caracal.core.project.overlay_edits import (
    fades_error,
    overlays_error,
    with_fades,
    with_overlays,
)
from caracal.core.text.caption_look import CaptionLook, look_error

WHAT = "template"
MOST_S = 86_400.0  # a day
LEAST_RATE, MOST_RATE = 0.1, 1000.0  # frames a second
LEAST_SIDE, MOST_SIDE = 16, 16_384  # pixels of a canvas
Ranges = tuple[FrameRange, ...]


class TimedOverlay(msgspec.Struct, frozen=True):
    """An overlay whose frames are told by a version's own time.

    It comes ``from_s`` after the version's beginning, or before its end if that is negative, and
    goes at ``to_s``; None: with the end.
    """

    overlay: Overlay
    from_s: float = 0.0
    to_s: float | None = None


class Template(msgspec.Struct, frozen=True):
    """Overlays and fades of a version that had this ``canvas`` and ``rate`` (frames a second).

    ``layout`` is that of all its shots about which nothing else was decided. ``opening`` and
    ``closing`` are its cards, ``look`` is that of its captions.
    """

    canvas: Canvas
    rate: float
    overlays: tuple[TimedOverlay, ...] = ()
    fades: Fades = Fades()
    layout: Layout = FILL
    opening: Card | None = None
    closing: Card | None = None
    look: CaptionLook = CaptionLook()


def template_of(
    project: Project, letter: str, rate: Fraction, canvas: Canvas, layout: Layout = FILL
) -> Template:
    """What lies over version ``letter`` of ``project``, as a template with that ``layout``."""
    ranges = project.ranges_of(letter)
    version = project.version(letter)
    return Template(canvas, float(rate), tuple(
        _timed(overlay, ranges, float(rate)) for overlay in version.overlays), version.fades,
        layout, version.opening, version.closing,
        msgspec.structs.replace(version.look, stretches=()))  # those are this film's


def _timed(overlay: Overlay, ranges: Ranges, rate: float) -> TimedOverlay:
    first, last = ranges[0].start, ranges[-1].end_exclusive
    middle = (first + last) / 2
    start = (overlay.start - (first if overlay.start <= middle else last)) / rate
    end: float | None = None
    if overlay.end_exclusive < last:
        end = (overlay.end_exclusive - (first if overlay.end_exclusive <= middle else last)) / rate
    return TimedOverlay(overlay, start, end)


def overlays_in(
    template: Template, ranges: Ranges, rate: Fraction, canvas: Canvas, clear: Region = EVERYWHERE
) -> tuple[Overlay, ...]:
    """The overlays of ``template`` in a version that shows ``ranges`` of a film of that ``rate``.

    They lie in the ``clear`` part of the canvas, apart from each other. One that has no room in
    time, because the version is shorter, is left out. Raises InputError when one would be too large
    there.
    """
    first, last = ranges[0].start, ranges[-1].end_exclusive
    made, before = list[Overlay](), list[Region]()
    for timed in template.overlays:
        start = _frame(timed.from_s, first, last, rate)
        end = last if timed.to_s is None else _frame(timed.to_s, first, last, rate)
        start, end = max(first, start), min(end, last)
        if start < end:
            moving = round(timed.overlay.moving / template.rate * float(rate))
            before.append(timed.overlay.region)
            made.append(msgspec.structs.replace(
                timed.overlay, start=start, end_exclusive=end, moving=moving,
                region=_region(timed.overlay.region, template.canvas, canvas)))
    wrong = overlays_error(tuple(made))
    if wrong:
        raise InputError(tr("This template does not fit the canvas: {wrong}.", wrong=wrong),
                         remedy=tr("Save it from a version of a similar shape."))
    return arranged(made, before, clear)


def _frame(seconds: float, first: int, last: int, rate: Fraction) -> int:
    return (first if seconds >= 0 else last) + round(seconds * float(rate))


def _region(region: Region, canvas: Canvas, other: Canvas) -> Region:
    return region if canvas == other else region_on(region, canvas, other)


def fades_in(template: Template, rate: Fraction) -> Fades:
    """The fades of ``template`` in a film of that ``rate``."""
    fades, times = template.fades, float(rate) / template.rate
    return msgspec.structs.replace(
        fades, begin=round(fades.begin * times), end=round(fades.end * times),
        joint=round(fades.joint * times))


def card_in(
    card: Card | None, template: Template, rate: Fraction, canvas: Canvas,
    clear: Region = EVERYWHERE,
) -> Card | None:
    """A ``card`` of ``template`` on such a canvas, in a film of that ``rate``; its words lie in the
    ``clear`` part, apart from each other.
    """
    if card is None:
        return None
    times = float(rate) / template.rate
    frames = max(1, round(card.frames * times))
    overlays = tuple(msgspec.structs.replace(
        overlay, start=round(overlay.start * times),
        end_exclusive=max(round(overlay.end_exclusive * times), round(overlay.start * times) + 1),
        moving=round(overlay.moving * times),
        region=_region(overlay.region, template.canvas, canvas)) for overlay in card.overlays)
    return msgspec.structs.replace(card, frames=frames, overlays=arranged(
        overlays, [overlay.region for overlay in card.overlays], clear))


def with_template(
    project: Project, letter: str, template: Template, rate: Fraction, canvas: Canvas, shots: int,
    clear: Region = EVERYWHERE,
) -> Project:
    """``template`` over version ``letter`` of a film with so many ``shots``, in the ``clear`` part
    of its canvas; it replaces what lay over it. Shots laid out otherwise than plainly stay so."""
    made = with_overlays(
        project, letter, overlays_in(template, project.ranges_of(letter), rate, canvas, clear))
    look = msgspec.structs.replace(
        template.look, stretches=project.version(letter).look.stretches)
    made = with_look(with_fades(made, letter, fades_in(template, rate)), letter, look)
    made = with_card(made, letter, "opening",
                     card_in(template.opening, template, rate, canvas, clear))
    made = with_card(made, letter, "closing",
                     card_in(template.closing, template, rate, canvas, clear))
    if template.layout != FILL:
        for shot in range(shots):
            if made.choice(letter, shot).layout == FILL:
                made = with_layout(made, letter, shot, template.layout)
    return made


def read_template(path: Path) -> Template:
    """The template in the file at ``path``, its pictures found beside it. Raises InputError."""
    found = read_toml(path, Template, WHAT)
    wrong = (fades_error(found.fades) or layout_error(found.layout)
             or overlays_error(tuple(timed.overlay for timed in found.overlays))
             or look_error(found.look)
             or next(filter(None, (card_error(card) for card in (found.opening, found.closing)
                                   if card is not None)), ""))
    times = [time for timed in found.overlays for time in (timed.from_s, timed.to_s or 0.0)]
    if not wrong and not all(abs(time) <= MOST_S for time in times):
        wrong = tr("its times are out of range")
    if not wrong and not (LEAST_RATE <= found.rate <= MOST_RATE and all(
            LEAST_SIDE <= side <= MOST_SIDE for side in found.canvas)):
        wrong = tr("no version has this canvas or rate")
    if wrong:
        raise InputError(tr("This template is not valid: {wrong}.", wrong=wrong), path,
                         tr("Correct it."))
    return with_files_beside(found, path, older=True)


def write_template(path: Path, template: Template) -> None:
    """Keep ``template`` at ``path``, with copies of its pictures and fonts beside it.

    Raises StorageError when it cannot be written, InputError when a file is missing.
    """
    write_toml(path, with_copies_beside(template, path))
