"""The paths of a layout's panes: each crop follows one of its own, in a window of its shape."""

from __future__ import annotations

import msgspec

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Region
from caracal.core.base.translation import tr
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import Flag, FlagKind, flags_of
from caracal.core.framing.motion import Manner, Motion
from caracal.core.framing.pane_people import people_for_panes, roles_of
from caracal.core.framing.pane_zoom import pane_spec, pane_zoom
from caracal.core.framing.path import STANDARD, ShotPath, shot_path
from caracal.core.layout.model import (
    EVERYWHERE,
    Canvas,
    Crop,
    Layout,
    Role,
    WholePicture,
    target_of,
)
from caracal.core.specs.sheet import SpecSheet, Zone


def pane_paths(
    analysis: Analysis, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion = STANDARD
) -> tuple[ShotPath, ...]:
    """The path of each crop pane of ``choice``'s layout, back to front; of none: the window's own.
    """
    crops = [pane for pane in choice.layout.panes if isinstance(pane.content, Crop)]
    whole = any(isinstance(pane.content, WholePicture) for pane in choice.layout.panes)
    if not crops or (len(crops) == 1 and crops[0].content == Crop() and not whole):
        frame = sheet.frame if not crops else pane_spec(crops[0], sheet)
        return (shot_path(analysis, shot, frame, choice, motion),)
    people = people_for_panes(analysis, shot, choice, sheet, motion)
    shown = [found for role in roles_of(choice.layout) if (found := people.at(role)) is not None]
    made = []
    for pane in crops:
        assert isinstance(pane.content, Crop)
        mine, asked = people.at(pane.content.role), choice
        if pane.lifted or roles_of(choice.layout) != (Role.LEAD,):
            others = tuple(found.id for found in people.people if found is not mine)
            # Nobody swaps: everybody to whom the window would jump has a pane.
            asked = msgspec.structs.replace(choice, lead=mine.id if mine else None, second=None,
                                            swaps=(), ignored=(*choice.ignored, *others))
        if pane.content.role is not Role.LEAD:  # the rest was set by hand for the lead
            own, manner = choice.framing(pane.content.role), choice.manner
            if own.keyframes or manner is Manner.BY_HAND:
                manner = Manner.BY_HAND if own.keyframes else Manner.AUTO
            asked = msgspec.structs.replace(
                asked, keyframes=own.keyframes, zoom=own.zoom or asked.zoom,
                punches=own.punches, manner=manner)
        spec = pane_spec(pane, sheet)
        if asked.zoom is None:
            company = [found for found in shown if found is not mine]
            asked = msgspec.structs.replace(asked, zoom=pane_zoom(
                mine, company, spec, analysis.active, motion, whole,
                centred=pane.region != EVERYWHERE or len(crops) > 1))
        made.append(shot_path(analysis, shot, spec, asked, motion))
    return tuple(made)


def pane_flags(
    analysis: Analysis, shot: int, paths: tuple[ShotPath, ...], sheet: SpecSheet,
    layout: Layout, motion: Motion, lost: tuple[tuple[int, int], ...],
) -> tuple[Flag, ...]:
    """What must be looked at in a shot's panes: each kind once, the worst of it first."""
    panes = layout.panes
    crops = [pane for pane in panes if isinstance(pane.content, Crop)]
    if not crops:
        return ()  # nothing is cut, so nothing is lost
    if len(panes) == 1 and crops[0].region == EVERYWHERE:
        return flags_of(analysis, shot, paths[0], sheet, motion, lost)
    worst: dict[FlagKind, Flag] = {}
    for pane, path in zip(crops, paths, strict=True):
        size: Canvas = target_of(pane.region, sheet.canvas)[2:]
        over = [above.region for above in panes[panes.index(pane) + 1 :]]
        own = msgspec.structs.replace(
            sheet, canvas=size, covers=_covers(pane.region, sheet.covers, over))
        for flag in flags_of(analysis, shot, path, own, motion, lost):
            # Words are seen in no pane as they lie in the picture.
            if flag.kind is not FlagKind.TEXT_CUT or (
                    pane.region == EVERYWHERE and not pane.lifted):
                worst[flag.kind] = max(worst.get(flag.kind, flag), flag,
                                       key=lambda found: found.severity)
    return tuple(sorted(worst.values(), key=lambda flag: -flag.severity))


def _covers(region: Region, covers: tuple[Zone, ...], over: list[Region]) -> tuple[Zone, ...]:
    """What lies over a pane's ``region``, in shares of it: the destination's covers, and panes."""
    made = []
    for what, part in (*((zone.what, zone.part) for zone in covers),
                       *((tr("another pane"), above) for above in over)):
        (left, right), (top, bottom) = (
            (max(low, start), min(high, end))
            for (low, high), (start, end) in zip(part, region, strict=True))
        (x, wide), (y, tall) = ((start, end - start) for start, end in region)
        if left < right and top < bottom:
            made.append(Zone(what, (left - x) / wide, (top - y) / tall, (right - left) / wide,
                             (bottom - top) / tall))
    return tuple(made)
