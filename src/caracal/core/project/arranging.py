"""The overlays of a template arranged inside the clear area of another canvas, without overlaps.

A template is made for one canvas. On another its boxes may fall outside the clear area, and overlap
each other, because their heights depend on the canvas's shorter side. Overlays that overlap on the
template's own canvas, such as words on a badge, stay together.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import msgspec

from caracal.core.base.geometry import Region
from caracal.core.layout.model import EVERYWHERE
from caracal.core.layout.overlay import Overlay

ALL = 0.98  # of a canvas's width or height: what is so long goes from edge to edge on purpose
APART = 0.012  # of the canvas's height, between what is stacked
TOUCH = 0.001


class _Group(NamedTuple):
    """Numbers of overlays that stay together, and the box round them."""

    members: tuple[int, ...]
    box: Region


def arranged(
    overlays: Sequence[Overlay], before: Sequence[Region], clear: Region = EVERYWHERE
) -> tuple[Overlay, ...]:
    """``overlays`` in the ``clear`` part of a canvas, each group of them below the one before.

    ``before`` are their regions on the canvas that they were made for. What goes from edge to edge,
    and bars along an edge, stay where they are.
    """
    groups = sorted(_groups(overlays, before), key=lambda group: min(
        before[number][1][0] for number in group.members))
    placed: list[tuple[_Group, Region]] = []
    for group in groups:
        here = _inside(group.box, clear)
        for other, there in placed:
            if _together(overlays, group, other) and _over(here, there):
                top = there[1][1] + APART
                here = (here[0], (top, top + here[1][1] - here[1][0]))
        placed.append((group, here))
    lowest = max((here[1][1] for _, here in placed), default=0.0)
    if lowest > clear[1][1] + TOUCH:
        placed = [(group, _squeezed(here, clear, lowest)) for group, here in placed]
    made = list(overlays)
    for group, here in placed:
        if here != group.box:
            for number in group.members:
                made[number] = msgspec.structs.replace(made[number], region=_moved(
                    made[number].region, group.box, here))
    return tuple(made)


def _groups(overlays: Sequence[Overlay], before: Sequence[Region]) -> list[_Group]:
    """Overlays that lie over each other at some time on their own canvas, together."""
    numbers = [number for number, overlay in enumerate(overlays)
               if not overlay.is_bar and not _covers(before[number])]
    found: list[set[int]] = []
    for number in numbers:
        mine = {number}
        for other in [group for group in found if any(
                _at_once(overlays[number], overlays[each]) and _over(before[number], before[each])
                for each in group)]:
            found.remove(other)
            mine |= other
        found.append(mine)
    return [_Group(tuple(sorted(group)), _round([overlays[number].region for number in group]))
            for group in found]


def _covers(region: Region) -> bool:
    """Whether it goes from edge to edge: all of the canvas, or a stripe."""
    return any(high - low >= ALL for low, high in region)


def _at_once(one: Overlay, other: Overlay) -> bool:
    return one.start < other.end_exclusive and other.start < one.end_exclusive


def _together(overlays: Sequence[Overlay], one: _Group, other: _Group) -> bool:
    return any(_at_once(overlays[a], overlays[b]) for a in one.members for b in other.members)


def _over(one: Region, other: Region) -> bool:
    return all(min(a[1], b[1]) - max(a[0], b[0]) > TOUCH for a, b in zip(one, other, strict=True))


def _round(regions: Sequence[Region]) -> Region:
    across, down = zip(*regions, strict=True)
    return ((min(low for low, _ in across), max(high for _, high in across)),
            (min(low for low, _ in down), max(high for _, high in down)))


def _inside(box: Region, clear: Region) -> Region:
    """``box`` moved into the ``clear`` part, and made smaller if it has no room there."""
    share = min(1.0, *((high - low) / max(1e-9, right - left) for (left, right), (low, high)
                       in zip(box, clear, strict=True)))
    made = []
    for (left, right), (low, high) in zip(box, clear, strict=True):
        long = (right - left) * share
        start = min(max((left + right) / 2 - long / 2, low), high - long)
        made.append((start, start + long))
    return made[0], made[1]


def _squeezed(box: Region, clear: Region, lowest: float) -> Region:
    """``box`` of a column that ends at ``lowest``, where the column ends with the clear part."""
    (left, right), (top, bottom) = box
    share = (clear[1][1] - clear[1][0]) / (lowest - clear[1][0])
    middle, half = (left + right) / 2, (right - left) / 2 * share
    return ((middle - half, middle + half), (clear[1][0] + (top - clear[1][0]) * share,
                                             clear[1][0] + (bottom - clear[1][0]) * share))


def _moved(region: Region, box: Region, to: Region) -> Region:
    """``region``, which lies in ``box``, where it lies when the box is ``to``."""
    made = []
    for (low, high), (start, end), (left, right) in zip(region, box, to, strict=True):
        share = (right - left) / max(1e-9, end - start)
        made.append((left + (low - start) * share, left + (high - start) * share))
    return made[0], made[1]
