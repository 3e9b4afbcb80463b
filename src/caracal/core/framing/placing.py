"""Where a pane that avoids lies in a shot: the corner in which it covers least."""

from __future__ import annotations

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box, Region, region_in_window, shared_area
from caracal.core.base.paths import text_of
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import EssentialBoxes, essential_boxes
from caracal.core.framing.lead import subjects
from caracal.core.framing.motion import Motion
from caracal.core.framing.pane_people import people_for_panes, roles_of, with_fewer_panes
from caracal.core.framing.panes import pane_paths
from caracal.core.framing.path import STANDARD, ShotPath
from caracal.core.layout.kinds import INSET_MARGIN
from caracal.core.layout.model import EVERYWHERE, Crop, Layout, Pane, Person, Role
from caracal.core.specs.sheet import SpecSheet

ROOM = 0.3  # of the side of what somebody takes: round it they are cut out
LEAST_PART = 0.25  # of the picture's height: who is smaller is looked for in so much
BODY_WIDE, BODY_HIGH = 4.0, 6.0  # of a face's size: what belongs to it in a close picture
LOOKED_AT = 5  # frames from one look to the next: a pane stays for the whole shot
WORDS_COUNT = 0.7  # as much as a face


def solved_layout(
    analysis: Analysis, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion = STANDARD
) -> tuple[Layout, tuple[ShotPath, ...]]:
    """The choice's layout with its panes in their places, and the paths of its crops.

    It has fewer panes where nobody is there to fill the others.
    """
    if set(roles_of(choice.layout)) - {Role.LEAD}:
        people = people_for_panes(analysis, shot, choice, sheet, motion)
        choice = with_fewer_panes(choice, people, sheet)
    paths = pane_paths(analysis, shot, sheet, choice, motion)
    return placed(choice.layout, analysis, shot, paths, sheet), paths


def placed(
    layout: Layout, analysis: Analysis, shot: int, paths: tuple[ShotPath, ...], sheet: SpecSheet
) -> Layout:
    """``layout`` with each pane that avoids in the corner where it covers least through the shot.

    Panes that come later or go earlier do so at moments of the film. What is covered is seen in the
    pane behind it that fills the canvas; where none does, panes stay where they are.
    """
    layout = _with_people(_timed(layout, analysis, shot), analysis, shot, paths)
    back = layout.panes[0]
    if back.region != EVERYWHERE or not any(pane.avoids for pane in layout.panes):
        return layout
    seen = essential_boxes(analysis, shot, paths[0])
    panes = tuple(_avoiding(pane, analysis, shot, paths[0], seen, sheet) if pane.avoids else pane
                  for pane in layout.panes)
    return msgspec.structs.replace(layout, panes=panes)


def _with_people(
    layout: Layout, analysis: Analysis, shot: int, paths: tuple[ShotPath, ...]
) -> Layout:
    """``layout`` with where those who are cut out are looked for, whom ``paths`` follow in turn."""
    if not any(pane.lifted for pane in layout.panes):
        return layout
    crops, panes = iter(paths), []
    found = analysis.shots[shot]
    for pane in layout.panes:
        path, made = next(crops) if isinstance(pane.content, Crop) else None, pane
        if path is not None and pane.lifted:
            person = Person(text_of(analysis.master.file), _surroundings(analysis, shot, path.lead),
                            (found.start, found.end))
            made = msgspec.structs.replace(
                pane, content=msgspec.structs.replace(pane.content, person=person))
        panes.append(made)
    return msgspec.structs.replace(layout, panes=tuple(panes))


def _surroundings(analysis: Analysis, shot: int, lead: int | None) -> Box:
    """The part of the picture in which ``lead`` is through the shot, with room all round: as square
    as the picture allows. All of it where nobody is followed.
    """
    left, top, width, height = analysis.active
    subject = next((found for found in subjects(analysis, shot) if found.id == lead), None)
    if subject is None:
        return analysis.active
    boxes = np.array(subject.main.boxes)
    if subject.body is None:  # a face alone: shoulders and arms belong to it
        across, down = boxes[:, 2] * BODY_WIDE, boxes[:, 3] * BODY_HIGH
        boxes = np.column_stack([boxes[:, 0] + boxes[:, 2] / 2 - across / 2,
                                 boxes[:, 1] - boxes[:, 3], across, down])
    low, high = boxes[:, :2].min(0), (boxes[:, :2] + boxes[:, 2:]).max(0)
    side = max(*(high - low) * (1 + ROOM), LEAST_PART * height)
    sides = [min(side, most) for most in (width, height)]
    x, y = (min(max((first + last) / 2 - long / 2, start), start + most - long)
            for first, last, long, start, most in zip(
                low, high, sides, (left, top), (width, height), strict=True))
    return (round(float(x), 1), round(float(y), 1), round(float(sides[0]), 1),
            round(float(sides[1]), 1))


def _timed(layout: Layout, analysis: Analysis, shot: int) -> Layout:
    """``layout`` with what its panes stay in seconds of the film."""
    if not any(pane.stay for pane in layout.panes):
        return layout
    found, rate = analysis.shots[shot], float(analysis.master.rate)
    panes = tuple(pane if pane.stay is None else msgspec.structs.replace(
        pane, stay=pane.stay.placed(found.start / rate, found.end / rate)) for pane in layout.panes)
    return msgspec.structs.replace(layout, panes=panes)


def _avoiding(
    pane: Pane, analysis: Analysis, shot: int, path: ShotPath, seen: EssentialBoxes,
    sheet: SpecSheet,
) -> Pane:
    places = [pane.region, *corners(pane.region, sheet)]
    costs = [round(_covered(place, analysis, shot, path, seen), 3) for place in places]
    return msgspec.structs.replace(pane, region=places[int(np.argmin(costs))])


def corners(region: Region, sheet: SpecSheet) -> list[Region]:
    """``region`` in each corner of the sheet's clear area; low on the right first."""
    across, down = sheet.clear.part if sheet.clear else EVERYWHERE
    margin = INSET_MARGIN * min(sheet.canvas)
    found: list[Region] = []
    for bottom in (True, False):
        for right in (True, False):
            (x, y) = (_side(span, part, margin / side, far) for span, part, side, far in zip(
                region, (across, down), sheet.canvas, (right, bottom), strict=True))
            found.append((x, y))
    return found


def _side(
    span: tuple[float, float], part: tuple[float, float], margin: float, far: bool
) -> tuple[float, float]:
    """``span`` moved to the near or ``far`` end of ``part``, inside the canvas."""
    length = span[1] - span[0]
    start = part[1] - margin - length if far else part[0] + margin
    start = min(max(start, 0.0), 1.0 - length)
    return start, start + length


def _covered(
    place: Region, analysis: Analysis, shot: int, path: ShotPath, seen: EssentialBoxes
) -> float:
    """How much of the lead, and of words, a pane at ``place`` covers: 1 is all of a face always."""
    (left, right), (top, bottom) = region_in_window(place, path.finish.quarter_turns)
    words = analysis.words_in(shot)
    total, looks = 0.0, range(0, len(path.windows), LOOKED_AT)
    for i in looks:
        x, y, w, h = path.window(path.start + i)
        here = (x + left * w, y + top * h, (right - left) * w, (bottom - top) * h)
        essential = seen[i]
        if essential is not None:
            total += shared_area(here, essential[1]) / (essential[1][2] * essential[1][3])
        frame = path.start + i
        shown = [word.boxes[frame - word.first_frame] for word in words
                 if word.first_frame <= frame < word.end_frame]
        total += WORDS_COUNT * max((shared_area(here, box) / (box[2] * box[3]) for box in shown),
                                   default=0.0)
    return total / len(looks)
