"""The paths of a layout's panes: each crop follows one of its own, in a window of its shape."""

from __future__ import annotations

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import Flag, FlagKind, flags_of
from caracal.core.framing.lead import choose_lead, subjects
from caracal.core.framing.motion import Manner, Motion
from caracal.core.framing.path import STANDARD, ShotPath, shot_path
from caracal.core.geometry import FramingSpec, Region, Shape, window_size
from caracal.core.layout.model import EVERYWHERE, Canvas, Crop, Layout, Pane, Role, target_of
from caracal.core.specs.sheet import SpecSheet, Zone
from caracal.core.translation import tr

MOST_FACE = 0.45  # of a pane's height: a larger face is too close
WORTH = 1.05  # zoom: less moves nobody to the middle
ROLES = (Role.LEAD, Role.SECOND, Role.THIRD)


def pane_paths(
    analysis: Analysis, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion = STANDARD
) -> tuple[ShotPath, ...]:
    """The path of each crop pane of ``choice``'s layout, back to front; of none: the window's own.
    """
    crops = [pane for pane in choice.layout.panes if isinstance(pane.content, Crop)]
    if not crops or (len(crops) == 1 and crops[0].content == Crop()):
        frame = sheet.frame if not crops else _spec(crops[0], sheet)
        return (shot_path(analysis, shot, frame, choice, motion),)
    cast = _cast(analysis, shot, choice)
    made = []
    for pane in crops:
        assert isinstance(pane.content, Crop)
        mine = cast[ROLES.index(pane.content.role)]
        others = tuple(number for number in cast if number is not None and number != mine)
        # Nobody swaps: whoever the window would jump to has a pane.
        asked = msgspec.structs.replace(choice, lead=mine, second=None, swaps=(),
                                        ignored=(*choice.ignored, *others))
        if pane.content.role is not Role.LEAD:  # the rest was set by hand for the lead
            own, manner = choice.framing(pane.content.role), choice.manner
            if own.keyframes or manner is Manner.BY_HAND:
                manner = Manner.BY_HAND if own.keyframes else Manner.AUTO
            asked = msgspec.structs.replace(
                asked, keyframes=own.keyframes, zoom=own.zoom or asked.zoom,
                punches=own.punches, manner=manner)
        spec = _spec(pane, sheet)
        if asked.zoom is None:
            zoom = _centring_zoom(analysis, shot, asked.lead, spec, motion)
            asked = msgspec.structs.replace(asked, zoom=zoom)
        made.append(shot_path(analysis, shot, spec, asked, motion))
    return tuple(made)


def _centring_zoom(
    analysis: Analysis, shot: int, lead: int | None, spec: FramingSpec, motion: Motion
) -> float | None:
    """How close a pane must come so that ``lead`` can stand in its middle; None: as it will.

    Not so close that a face fills the pane, or that pixels are blown up more than they may be.
    """
    subject = next((found for found in subjects(analysis, shot) if found.id == lead), None)
    if subject is None or spec.canvas is None:
        return None
    boxes = np.array((subject.face or subject.main).boxes)
    left, _, width, _ = analysis.active
    middle = float(np.mean(boxes[:, 0] + boxes[:, 2] / 2))
    across, down = window_size(spec.shape, analysis.active)
    wanted = across / max(2 * min(middle - left, left + width - middle), 1.0)
    least_high = float(np.max(boxes[:, 3])) / (MOST_FACE if subject.face else 1.0)
    sharp = motion.enlarged_past * across / spec.canvas[0]
    zoom = min(wanted, down / max(least_high, 1.0), sharp)
    return round(zoom, 3) if zoom > WORTH else None


def _spec(pane: Pane, sheet: SpecSheet) -> FramingSpec:
    """What framing must know of a pane; all of the canvas is what the sheet says."""
    if pane.region == EVERYWHERE:
        return sheet.frame
    size = target_of(pane.region, sheet.canvas)[2:]
    return FramingSpec(Shape.of(*size), None, size)


def _cast(analysis: Analysis, shot: int, choice: ShotChoice) -> list[int | None]:
    """The lead, and who is shown beside it: who was chosen, else the next best with faces."""
    lead = choose_lead(analysis, shot, choice.lead, choice.ignored)
    cast = [lead.id] if lead is not None else []
    if choice.second is not None:
        cast.append(choice.second)
    others = [subject for subject in subjects(analysis, shot)
              if subject.id not in (*cast, *choice.ignored)]
    faces = [subject.id for subject in others if subject.face is not None]
    rest = [subject.id for subject in others if subject.face is None]
    return [*cast, *faces, *rest, *[None] * len(ROLES)][: len(ROLES)]


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
