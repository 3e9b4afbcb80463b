"""What the window must hold in each frame, as allowed places of its middle along one axis."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from caracal.core.analysis.model import Box, FoundShot, Track
from caracal.core.framing.lead import Subject

Array = NDArray[np.float64]

FACE_SIDE = 0.30  # of the face's width, free at each side: ears and hair
FACE_ABOVE = 0.45  # of the face's height: hair and headroom
FACE_BELOW = 0.35  # of the face's height: never the chin
BODY_MARGIN = 0.04  # of the window: arms swing a little beyond what is found between looks
EYES_AT = 1 / 3  # of the window's height, for faces when the window may move up and down
LOOSE = 0.96  # of the window: companions must fit into this
WORDS_MARGIN = 0.01  # of the window, free beside words

LOOK_ROOM = 0.10  # of the window, ahead of a lead that moves: common practice
LOOK_SPEED = 0.008  # of the window a frame from which on it has all of that room
LOOK_FRAMES = 10  # over which its direction is taken

WHOLE_WINDOW = (0.0, 1.0)


@dataclass(frozen=True)
class Demand:
    """Allowed places of the window's middle along one axis, frame by frame, in master pixels.

    ``must`` holds the face (or the whole lead where it has none), ``want`` all of the lead and its
    company, ``clear`` the face inside the version's clear area, ``words`` cuts no burnt-in words.
    Rows are frames, columns lowest and highest place; NaN where nothing is asked. ``wish`` (n,) is
    where the window would sit best. ``extent`` (n, 2) is the lead itself.
    """

    must: Array
    want: Array
    clear: Array
    wish: Array
    extent: Array
    words: Array


def demand_along(
    axis: int, shot: FoundShot, lead: Subject, others: tuple[Subject, ...], sizes: Array,
    clear: tuple[float, float] = WHOLE_WINDOW,
) -> Demand:
    """The demand along ``axis`` (0 across, 1 down) for windows ``sizes`` (n,) pixels long.

    ``clear`` is the part of the window (from, to; 0..1) that lies in the clear area.
    """
    body = extents(shot, lead.box_at, axis)
    face = extents(shot, _face_with_margins(lead), axis)
    core = np.where(np.isnan(face), body, face)
    group = _with_company(body, [extents(shot, one.box_at, axis) for one in others], sizes)
    want = allowed(group, sizes, BODY_MARGIN * sizes)
    must = allowed(core, sizes, np.zeros_like(sizes))
    share = EYES_AT + 0.05 if axis == 1 and lead.face is not None else 0.5
    middle = core.mean(axis=1)
    fits = (group[:, 1] - group[:, 0]) <= sizes
    centre = np.where(fits & (axis == 0), group.mean(axis=1), middle)
    if axis == 0:
        centre = centre + _look_room(middle, sizes)
    nothing = np.full((shot.frames, 2), np.nan)
    return Demand(must, want, _in_part(core, sizes, clear), centre + sizes * (0.5 - share), body,
                  nothing)


def words_demand(shot: FoundShot, words: tuple[Track, ...], axis: int, sizes: Array,
                 must: Array, fence: tuple[Array, Array]) -> Array:
    """Places (n, 2) of the window's middle at which burnt-in ``words`` are not cut.

    Words lie inside the window where that agrees with ``must``, else wholly outside at the side
    that does; words for which neither is possible ask nothing (they will be flagged). Where nobody
    leads, the window has words that are too wide for it in its middle.
    """
    held = np.full((shot.frames, 2), np.nan)
    for one in words:
        rows = slice(max(0, one.first_frame - shot.start),
                     max(0, min(one.end_frame, shot.end) - shot.start))
        if rows.stop <= rows.start:
            continue
        low = min(box[axis] for box in one.boxes)
        high = max(box[axis] + box[axis + 2] for box in one.boxes)
        room = (max(_most(fence[0][rows]), _most(must[rows, 0]), _most(held[rows, 0])),
                min(_least(fence[1][rows]), _least(must[rows, 1]), _least(held[rows, 1])))
        half, margin = float(sizes[rows].max()) / 2, WORDS_MARGIN * float(sizes[rows].max())
        if one.kind == "face":  # ears and hair belong to it
            low, high = low - FACE_SIDE * (high - low), high + FACE_SIDE * (high - low)
        inside = (high + margin - half, low - margin + half)
        before, after = (-np.inf, low - half), (high + half, np.inf)
        middle = ((low + high) / 2, (low + high) / 2)
        asked = not np.isnan(must[rows]).all()
        # Where nobody leads, words are what there is to see: they are never left out.
        for spot in (inside, before, after) if asked else (inside, middle):
            both = (max(room[0], spot[0]), min(room[1], spot[1]))
            if spot[0] <= spot[1] and both[0] <= both[1]:
                held[rows] = both
                break
    return held


def _most(values: Array) -> float:
    return float(np.nanmax(values, initial=-np.inf))


def _least(values: Array) -> float:
    return float(np.nanmin(values, initial=np.inf))


def _face_with_margins(lead: Subject) -> Callable[[int], Box | None]:
    def box(frame: int) -> Box | None:
        found = lead.face.box_at(frame) if lead.face is not None else None
        if found is None:
            return None
        x, y, w, h = found
        return (x - FACE_SIDE * w, y - FACE_ABOVE * h, w * (1 + 2 * FACE_SIDE),
                h * (1 + FACE_ABOVE + FACE_BELOW))

    return box


def extents(shot: FoundShot, box_at: Callable[[int], Box | None], axis: int) -> Array:
    """Low and high end (n, 2) along ``axis`` of the boxes in each frame; NaN where there is none"""
    rows = np.full((shot.frames, 2), np.nan)
    for i in range(shot.frames):
        box = box_at(shot.start + i)
        if box is not None:
            rows[i] = (box[axis], box[axis] + box[axis + 2])
    return rows


def _with_company(lead: Array, others: list[Array], sizes: Array) -> Array:
    """The lead's extent widened by each companion with whom it fits through most of the shot."""
    group = lead
    for other in others:
        both = np.stack([np.fmin(group[:, 0], other[:, 0]), np.fmax(group[:, 1], other[:, 1])], 1)
        if np.nanpercentile((both[:, 1] - both[:, 0]) / sizes, 95) <= LOOSE:
            group = np.where(np.isnan(group), np.nan, both)
    return group


def allowed(extent: Array, sizes: Array, margins: Array) -> Array:
    """Middles of windows ``sizes`` long that hold ``extent``, or lie inside it if it is longer."""
    low, high = extent[:, 0], extent[:, 1]
    spare = np.clip((sizes - (high - low)) / 2, 0, margins)
    holding = np.stack([high + spare - sizes / 2, low - spare + sizes / 2], axis=1)
    inside = np.stack([low + sizes / 2, high - sizes / 2], axis=1)
    longer = ((high - low) > sizes)[:, None]
    return np.where(longer, inside, holding)


def _look_room(middle: Array, sizes: Array) -> Array:
    """How far (n,) the window sits ahead of a lead that moves, in pixels: room to go into."""
    seen = np.flatnonzero(~np.isnan(middle))
    if len(seen) < 3:
        return np.zeros_like(middle)
    filled = np.interp(np.arange(len(middle)), seen, middle[seen])
    calm = gaussian_filter1d(filled, LOOK_FRAMES, mode="nearest")
    speed = np.gradient(calm) / sizes
    return np.asarray(np.clip(speed / LOOK_SPEED, -1.0, 1.0) * LOOK_ROOM * sizes)


def _in_part(extent: Array, sizes: Array, part: tuple[float, float]) -> Array:
    """Middles that bring ``extent`` into ``part`` of the window; NaN where it does not fit."""
    length = extent[:, 1] - extent[:, 0]
    fits = length <= (part[1] - part[0]) * sizes
    places = np.stack([extent[:, 1] + (0.5 - part[1]) * sizes,
                       extent[:, 0] + (0.5 - part[0]) * sizes], axis=1)
    return np.where(fits[:, None], places, np.nan)
