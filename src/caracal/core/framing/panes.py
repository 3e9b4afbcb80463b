"""The paths of a layout's panes: each crop follows one of its own, in a window of its shape."""

from __future__ import annotations

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import Flag, FlagKind, flags_of
from caracal.core.framing.lead import choose_lead, subjects
from caracal.core.framing.motion import Motion
from caracal.core.framing.path import STANDARD, ShotPath, shot_path
from caracal.core.geometry import FramingSpec, Shape, window_size
from caracal.core.layout.model import EVERYWHERE, Canvas, Crop, Pane, Role, target_of
from caracal.core.specs.sheet import SpecSheet

MOST_FACE = 0.45  # of a pane's height: a larger face is too close
WORTH = 1.05  # zoom: less moves nobody to the middle


def pane_paths(
    analysis: Analysis, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion = STANDARD
) -> tuple[ShotPath, ...]:
    """The path of each crop pane of ``choice``'s layout, back to front; of none: the window's own.
    """
    crops = [pane for pane in choice.layout.panes if isinstance(pane.content, Crop)]
    if len(crops) < 2:
        frame = sheet.frame if not crops else _spec(crops[0], sheet)
        return (shot_path(analysis, shot, frame, choice, motion),)
    lead, second = _two(analysis, shot, choice)
    made = []
    for pane in crops:
        assert isinstance(pane.content, Crop)
        asked = _alone(choice, lead, second)
        if pane.content.role is Role.SECOND:
            # What was set by hand was set for the lead.
            asked = msgspec.structs.replace(_alone(choice, second, lead), keyframes=(), swaps=(),
                                            punches=())
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


def _two(analysis: Analysis, shot: int, choice: ShotChoice) -> tuple[int | None, int | None]:
    """The lead, and who is shown beside it: who was chosen, else the next best with a face."""
    lead = choose_lead(analysis, shot, choice.lead, choice.ignored)
    number = lead.id if lead is not None else None
    if choice.second is not None:
        return number, choice.second
    others = [subject for subject in subjects(analysis, shot)
              if subject.id != number and subject.id not in choice.ignored]
    faces = [subject for subject in others if subject.face is not None]
    return number, next((subject.id for subject in (*faces, *others)), None)


def _alone(choice: ShotChoice, lead: int | None, other: int | None) -> ShotChoice:
    """``choice`` for a pane that is ``lead``'s: the ``other`` has one of its own."""
    ignored = choice.ignored if other is None else (*choice.ignored, other)
    # Nobody swaps: whoever the window would jump to has a pane.
    return msgspec.structs.replace(choice, lead=lead, second=None, ignored=ignored, swaps=())


def pane_flags(
    analysis: Analysis, shot: int, paths: tuple[ShotPath, ...], sheet: SpecSheet,
    choice: ShotChoice, motion: Motion, lost: tuple[tuple[int, int], ...],
) -> tuple[Flag, ...]:
    """What must be looked at in a shot's panes: each kind once, the worst of it first."""
    crops = [pane for pane in choice.layout.panes if isinstance(pane.content, Crop)]
    if not crops:
        return ()  # nothing is cut, so nothing is lost
    if len(crops) == 1 and crops[0].region == EVERYWHERE:
        return flags_of(analysis, shot, paths[0], sheet, motion, lost)
    worst: dict[FlagKind, Flag] = {}
    for pane, path in zip(crops, paths, strict=True):
        size: Canvas = target_of(pane.region, sheet.canvas)[2:]
        own = msgspec.structs.replace(sheet, canvas=size, covers=())
        for flag in flags_of(analysis, shot, path, own, motion, lost):
            # Words are seen in no pane as they lie in the picture.
            if flag.kind is not FlagKind.TEXT_CUT:
                worst[flag.kind] = max(worst.get(flag.kind, flag), flag,
                                       key=lambda found: found.severity)
    return tuple(sorted(worst.values(), key=lambda flag: -flag.severity))
