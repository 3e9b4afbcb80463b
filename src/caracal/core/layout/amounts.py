"""What can be adjusted in a layout: each amount as a number that is read and set.

A new amount is one line here and no widget code.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeVar

import msgspec

from caracal.core.base.geometry import Region
from caracal.core.base.translation import mark, tr
from caracal.core.layout.kinds import WITH_PICTURE
from caracal.core.layout.model import (
    EVERYWHERE,
    MOST_BLUR,
    MOST_CUT,
    MOST_EDGE,
    MOST_ENLARGED,
    MOST_RADIUS,
    Canvas,
    Clip,
    Content,
    Edge,
    Layout,
    Pane,
    PictureFile,
    Shadow,
    SoftBackdrop,
    WholePicture,
    covered,
)
from caracal.core.layout.pane_splits import (
    LEAST_SHARE,
    MOST_GAP,
    MOST_SHARE,
    beside,
    gap_of,
    split_of,
    with_gap,
    with_split,
)

T = TypeVar("T")
OVERLAY_WIDE = 0.3  # of the canvas's width to begin with (common practice)
LEAST_INSET, MOST_INSET = 0.1, 1.0  # of the canvas's width


@dataclass(frozen=True)
class Amount:
    """A number of a layout, in percent: its name, its tip, its range and step.

    ``get`` returns it, or None where the layout has none; ``set_to`` returns a layout with another.
    """

    name: str
    tip: str
    low: float
    high: float
    step: float
    get: Callable[[Layout], float | None]
    set_to: Callable[[Layout, float], Layout]


def _with_pane(layout: Layout, number: int, pane: Pane) -> Layout:
    panes = list(layout.panes)
    panes[number] = pane
    return msgspec.structs.replace(layout, panes=tuple(panes))


def _with_content(layout: Layout, number: int, content: Content) -> Layout:
    return _with_pane(layout, number, msgspec.structs.replace(
        layout.panes[number], content=content))


def _shown(layout: Layout, kind: type[T]) -> tuple[int, T] | None:
    """The first pane that shows content of ``kind``: its number, and that content."""
    return next(((number, pane.content) for number, pane in enumerate(layout.panes)
                 if isinstance(pane.content, kind)), None)


def _from_content(kind: type[T], name: str) -> Callable[[Layout], float | None]:
    def get(layout: Layout) -> float | None:
        found = _shown(layout, kind)
        return None if found is None else float(getattr(found[1], name))

    return get


def _into_content(kind: type[Content], name: str) -> Callable[[Layout, float], Layout]:
    def set_to(layout: Layout, share: float) -> Layout:
        found = _shown(layout, kind)
        return layout if found is None else _with_content(
            layout, found[0], msgspec.structs.replace(found[1], **{name: share}))

    return set_to


def inset_of(layout: Layout) -> int | None:
    """The number of the pane that lies over a picture, if there is one."""
    if beside(layout):
        return None
    last = len(layout.panes) - 1
    pane = layout.panes[last]
    over = last > 0 and pane.region != EVERYWHERE and (
        layout.panes[0].region == EVERYWHERE
        or covered(msgspec.structs.replace(layout, panes=layout.panes[:last])))
    return last if over else None


def with_inset_at(layout: Layout, region: Region) -> Layout:
    """``layout`` with its inset at ``region``, where it stays: somebody put it there."""
    number = inset_of(layout)
    if number is None:
        return layout
    (left, right), (top, bottom) = region
    wide, high = min(right - left, 1.0), min(bottom - top, 1.0)
    left, top = min(max(left, 0.0), 1 - wide), min(max(top, 0.0), 1 - high)
    return _with_pane(layout, number, msgspec.structs.replace(
        layout.panes[number], region=((left, left + wide), (top, top + high)), avoids=False))


def with_inset_wide(layout: Layout, share: float) -> Layout:
    """``layout`` with its inset ``share`` of the canvas wide, in its own shape, round its middle.

    It stays inside the canvas.
    """
    number = inset_of(layout)
    if number is None:
        return layout
    pane = layout.panes[number]
    (left, right), (top, bottom) = pane.region
    share = min(max(share, LEAST_INSET), MOST_INSET, (right - left) / (bottom - top))
    high = (bottom - top) * share / (right - left)
    made = with_inset_at(layout, (
        ((left + right - share) / 2, (left + right + share) / 2),
        ((top + bottom - high) / 2, (top + bottom + high) / 2)))
    return _with_pane(made, number, msgspec.structs.replace(
        made.panes[number], avoids=pane.avoids))


def _with_inset_side(layout: Layout, axis: int, low: float, high: float) -> Layout:
    number = inset_of(layout)
    if number is None:
        return layout
    across, down = layout.panes[number].region
    return with_inset_at(layout, ((low, high), down) if axis == 0 else (across, (low, high)))


def _inset_side(axis: int, get: Callable[[float, float], float]) -> Callable[
        [Layout], float | None]:
    return lambda layout: _over(layout, lambda pane: get(*pane.region[axis]))


def _start_on(axis: int) -> Callable[[Layout], float | None]:
    """Where the inset begins along an axis; None where it takes all of that."""
    get = _inset_side(axis, lambda low, high: low if high - low < 1 else -1.0)
    return lambda layout: None if (start := get(layout)) is None or start < 0 else start


def _moved_to(axis: int) -> Callable[[Layout, float], Layout]:
    def set_to(layout: Layout, share: float) -> Layout:
        if _start_on(axis)(layout) is None:
            return layout
        long = _inset_side(axis, lambda low, high: high - low)(layout) or 0.0
        return _with_inset_side(layout, axis, share, share + long)

    return set_to


def _as_high(layout: Layout, share: float) -> Layout:
    top = _inset_side(1, lambda low, _: low)(layout) or 0.0
    return _with_inset_side(layout, 1, top, top + share)


def with_overlay(
    layout: Layout, content: PictureFile | Clip, ratio: float, canvas: Canvas
) -> Layout:
    """``layout`` with a picture or clip, of that width to height, over its middle."""
    wide = OVERLAY_WIDE
    high = min(wide * canvas[0] / ratio / canvas[1], 1.0)
    region = ((0.5 - wide / 2, 0.5 + wide / 2), (0.5 - high / 2, 0.5 + high / 2))
    panes = (*layout.panes, Pane(msgspec.structs.replace(content, fit=True), region))
    return Layout(f"{layout.kind.removesuffix(WITH_PICTURE)}{WITH_PICTURE}", panes)


def with_side_cut(layout: Layout, axis: int, far: bool, to: float) -> Layout:
    """``layout`` with a side of the whole picture in its inset cut off where the side lies ``to``
    there, a share of the canvas; what is left is as large as it was. ``axis`` and ``far`` name the
    side: (0, False) is the left one. As it is where the inset shows no whole picture.
    """
    number = inset_of(layout)
    if number is None or not isinstance(layout.panes[number].content, WholePicture):
        return layout
    pane, whole = layout.panes[number], layout.panes[number].content
    assert isinstance(whole, WholePicture)
    names = (("cut_left", "cut_right"), ("cut_top", "cut_bottom"))[axis]
    low, high = pane.region[axis]
    near, other = (getattr(whole, name) for name in (names[far], names[not far]))
    share = (1 - near - other) / (high - low)  # of the picture, for a share of the canvas
    moved = (high - to if far else to - low) * share
    cut = round(min(max(near + moved, 0.0), MOST_CUT), 4)
    by = (cut - near) / share
    span = (low, high - by) if far else (low + by, high)
    region = (span, pane.region[1]) if axis == 0 else (pane.region[0], span)
    made = _with_content(layout, number, msgspec.structs.replace(whole, **{names[far]: cut}))
    return with_inset_at(made, region)


def _inset_wide(layout: Layout) -> float | None:
    number = inset_of(layout)
    if number is None:
        return None
    across, _ = layout.panes[number].region
    return across[1] - across[0]


def _over(layout: Layout, get: Callable[[Pane], float]) -> float | None:
    number = inset_of(layout)
    return None if number is None else get(layout.panes[number])


def _over_set(layout: Layout, change: Callable[[Pane], Pane]) -> Layout:
    number = inset_of(layout)
    return layout if number is None else _with_pane(layout, number, change(layout.panes[number]))


def _edged(pane: Pane, width: float) -> Pane:
    edge = msgspec.structs.replace(pane.edge or Edge(), width=width) if width > 0 else None
    return msgspec.structs.replace(pane, edge=edge)


def _shaded(pane: Pane, strength: float) -> Pane:
    shadow = msgspec.structs.replace(pane.shadow or Shadow(), strength=strength)
    return msgspec.structs.replace(pane, shadow=shadow if strength > 0 else None)


AMOUNTS = (
    Amount(tr("Blur"), tr("How far the backdrop is blurred, of its size"), 0, 100 * MOST_BLUR, 1,
           _from_content(SoftBackdrop, "blur"), _into_content(SoftBackdrop, "blur")),
    Amount(tr("Dim"), tr("How much the backdrop is darkened"), 0, 100, 5,
           _from_content(SoftBackdrop, "dim"), _into_content(SoftBackdrop, "dim")),
    Amount(tr("Enlarge"),
           tr("How large the whole picture is shown; beyond 100 % its sides are cut off"), 100,
           100 * MOST_ENLARGED, 5, _from_content(WholePicture, "enlarged"),
           _into_content(WholePicture, "enlarged")),
    *(Amount(tr("Cut {side}", side=tr(side)),
             tr("How much of the whole picture is cut off {where}", where=where), 0, 100 * MOST_CUT,
             1, _from_content(WholePicture, f"cut_{side}"),
             _into_content(WholePicture, f"cut_{side}"))
      for side, where in ((mark("left"), tr("at its left")), (mark("right"), tr("at its right")),
                          (mark("top"), tr("above")), (mark("bottom"), tr("below")))),
    Amount(tr("Split"), tr("Where the two panes meet, of the canvas"), 100 * LEAST_SHARE,
           100 * MOST_SHARE, 1, split_of, with_split),
    Amount(tr("Gap"),
           tr("How much of the canvas is free between panes that meet; the backdrop is seen there"),
           0, 100 * MOST_GAP, 0.1, gap_of, with_gap),
    Amount(tr("Size"), tr("How wide the pane is, of the canvas"), 100 * LEAST_INSET,
           100 * MOST_INSET, 1, _inset_wide, lambda layout, share: with_inset_wide(layout, share)),
    Amount(tr("High"), tr("How high the pane is, of the canvas, as wide as it is"),
           100 * LEAST_INSET, 100, 1, _inset_side(1, lambda low, high: high - low), _as_high),
    Amount(tr("Left"),
           tr("Distance of the pane from the left edge of the canvas"), 0,
           100, 1, _start_on(0), _moved_to(0)),
    Amount(tr("Top"), tr("Distance of the pane from the top edge of the canvas"), 0,
           100, 1, _start_on(1), _moved_to(1)),
    Amount(tr("Corners"), tr("How round the pane's corners are, of its shorter side"), 0,
           100 * MOST_RADIUS, 1, lambda layout: _over(layout, lambda pane: pane.radius),
           lambda layout, share: _over_set(
               layout, lambda pane: msgspec.structs.replace(pane, radius=share))),
    Amount(tr("Edge"),
           tr("How wide the line inside the pane's border is, of the canvas's shorter side"), 0,
           100 * MOST_EDGE, 0.1,
           lambda layout: _over(layout, lambda pane: pane.edge.width if pane.edge else 0.0),
           lambda layout, share: _over_set(layout, lambda pane: _edged(pane, share))),
    Amount(tr("Shadow"), tr("How dark the pane's shadow is"), 0, 100, 5,
           lambda layout: _over(layout, lambda pane: pane.shadow.strength if pane.shadow else 0.0),
           lambda layout, share: _over_set(layout, lambda pane: _shaded(pane, share))),
)
