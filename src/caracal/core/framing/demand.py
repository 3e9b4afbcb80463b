"""What the window must hold in each frame, as bounds of its middle along one axis."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from caracal.core.analysis.model import FoundShot, Track
from caracal.core.analysis.tracking.global_motion import GlobalMotion
from caracal.core.base.geometry import Box
from caracal.core.framing.lead import Subject

Array = NDArray[np.float64]

FACE_SIDE = 0.30  # of the face's width, free at each side: ears and hair
FACE_ABOVE = 0.45  # of the face's height: hair and headroom
HAT_ABOVE = 1.1  # of the face's height: what an outline has above that is no head
AT_BOTTOM = 24.0  # pixels: an outline that ends so near the picture's edge is cut by it
BUST = 0.6  # of such an outline, from its top
HEAD = 0.22  # of an outline's height: where no face is seen, the head is there
FACE_BELOW = 0.35  # of the face's height: never the chin
BODY_MARGIN = 0.06  # of the window: arms swing a little beyond what is found between looks
EYES_AT = 1 / 3  # of the window's height, for faces when the window may move up and down
FITS_IN = 90  # per cent of a shot's frames in which what is asked for must fit
NEARLY = 1.25  # times the window: a body up to that length is centred, of a longer one the face
HEART = 0.5  # of the window: so much of the middle of what is longer than it must be seen
MOST_FACE = 0.8  # of the window: of a larger face the rim may be cut before the window trembles
LOOSE = 0.96  # of the window: companions must fit into this
WORDS_MARGIN = 0.01  # of the window, free beside words

LOOK_ROOM = 0.10  # of the window, ahead of a lead that moves: common practice
LOOK_SPEED = 0.008  # of the window a frame from which on it has all of that room
LOOK_FRAMES = 10  # over which its direction is taken
GAZE_UNSURE = 0.15  # faces turned less may as well look into the camera
GAZE_FULL = 0.35  # turned so much more, a face has all of the room

WHOLE_WINDOW = (0.0, 1.0)


@dataclass(frozen=True)
class Interval:
    """What a window must hold along one axis, for windows of any size; arrays are (n,).

    The window's middle lies between ``least - least_share * size`` and ``most + most_share *
    size``; NaN where nothing is asked. To hold [a, b] is least b, most a, and both shares a half.
    """

    least: Array
    least_share: Array
    most: Array
    most_share: Array

    @classmethod
    def nothing(cls, frames: int) -> Interval:
        """Returns a demand that asks for nothing in any frame."""
        none, zero = np.full(frames, np.nan), np.zeros(frames)
        return cls(none, zero, none, zero)

    @classmethod
    def between(cls, places: Array) -> Interval:
        """The middle between ``places`` (n, 2), whatever the size."""
        zero = np.zeros(len(places))
        return cls(places[:, 0], zero, places[:, 1], zero)

    @property
    def asked(self) -> NDArray[np.bool_]:
        """The frames (n,) in which anything is asked."""
        return ~np.isnan(self.least)

    def places(self, sizes: Array) -> Array:
        """The allowed places (n, 2) of the middle of windows ``sizes`` (n,) long."""
        return np.stack([self.least - self.least_share * sizes,
                         self.most + self.most_share * sizes], axis=1)


@dataclass(frozen=True)
class Demand:
    """What the window should do along one axis, frame by frame, in master pixels.

    ``must`` holds the face (or the whole lead where it has none), ``want`` all of the lead and its
    company, ``clear`` the face inside the version's clear area, ``words`` cuts no burnt-in words.
    ``wish`` and ``wish_share`` (n,): the middle would sit best at wish + wish_share * size.
    ``extent`` (n, 2) is the lead itself. ``essential`` (n, 2) is the least of it that must be seen:
    its face or, without one, the middle of its body. ``after`` (n,): where the middle is to be when
    the lead has left for good; a window that rests is not moved for that.
    """

    must: Interval
    want: Interval
    clear: Interval
    wish: Array
    wish_share: Array
    extent: Array
    words: Interval
    essential: Array
    after: Array

    def gone_after(self) -> Demand:
        """This, for a window that moves anyhow: it leaves the edge at which the lead went."""
        asked = ~np.isnan(self.after)
        place = Interval.between(np.repeat(self.after[:, None], 2, axis=1))
        must = Interval(*(np.where(asked, getattr(place, side), getattr(self.must, side))
                      for side in Interval.__dataclass_fields__))
        return replace(self, must=must, wish=np.where(asked, self.after, self.wish),
                       wish_share=np.where(asked, 0.0, self.wish_share))

    def wished(self, sizes: Array) -> Array:
        """Where (n,) the middle of windows ``sizes`` (n,) long would sit best."""
        return np.asarray(self.wish + self.wish_share * sizes)


def no_demand(frames: int, wish: Array) -> Demand:
    """Nobody leads: only ``wish`` (n,) pulls."""
    nothing = Interval.nothing(frames)
    none = np.full((frames, 2), np.nan)
    return Demand(nothing, nothing, nothing, wish, np.zeros(frames), none, nothing, none,
                  np.full(frames, np.nan))


def joined(demands: list[Demand]) -> Demand:
    """The demands of parts that follow each other, as one."""
    made: dict[str, Array | Interval] = {}
    for name in Demand.__dataclass_fields__:
        parts = [getattr(demand, name) for demand in demands]
        if isinstance(parts[0], Interval):
            made[name] = Interval(*(np.concatenate([getattr(part, side) for part in parts])
                                for side in Interval.__dataclass_fields__))
        else:
            made[name] = np.concatenate(parts)
    return Demand(**made)  # type: ignore[arg-type]


def demand_along(
    axis: int, shot: FoundShot, lead: Subject, others: tuple[Subject, ...], sizes: Array,
    clear: tuple[float, float] = WHOLE_WINDOW, camera: GlobalMotion | None = None,
    bottom: float = np.inf,
) -> Demand:
    """The demand along ``axis`` (0 across, 1 down) for windows about ``sizes`` (n,) pixels long.

    ``clear`` is the part of the window (from, to; 0..1) that lies in the clear area. ``camera``
    says how the background moves: a lead that goes against it needs room ahead. ``bottom`` is where
    the picture ends: of a body that it cuts the window need not hold the lower part.
    """
    body = extents(shot, lead.box_at, axis)
    bare = extents(shot, lead.face_at, axis)
    roomy = extents(shot, _face_with_margins(lead), axis)
    face = roomy if _fits(roomy, sizes) else bare
    whole = _fits(body, sizes)
    heads = axis == 1 and lead.kind == "person"
    centres = _heads(body) if heads else _middles(body)
    core = _shortened(np.where(np.isnan(face), body if whole else centres, face), sizes,
                      HEART * sizes)
    shorter = (_from_top(core, bare, MOST_FACE * sizes) if axis == 1
               else _shortened(core, MOST_FACE * sizes, MOST_FACE * sizes))
    core = np.where(np.isnan(bare), core, shorter)
    group = body
    if whole:
        group = _with_company(body, [extents(shot, other.box_at, axis) for other in others], sizes)
    middle = core.mean(axis=1)
    ends = body[~np.isnan(body[:, 1]), 1]
    if axis == 1 and lead.face is not None and len(ends) and (
            float(np.median(ends)) >= bottom - AT_BOTTOM):
        group = np.stack([group[:, 0], group[:, 0] + BUST * (group[:, 1] - group[:, 0])], axis=1)
    want = allowed(group, sizes, BODY_MARGIN) if whole else Interval.nothing(shot.frames)
    fits = (group[:, 1] - group[:, 0]) <= sizes
    centre = np.where(fits & (axis == 0), group.mean(axis=1), middle)
    if not whole and not np.isnan(middle).all():  # what cannot fit is centred once
        nearly = not heads and _fits(body / NEARLY, sizes)
        place = np.nanmedian(body.mean(axis=1) if nearly else middle)
        centre = np.where(np.isnan(middle), np.nan, place)
    by_head = axis == 1 and (lead.face is not None or (heads and not whole))
    share = np.full(shot.frames, 0.5 - EYES_AT - 0.05 if by_head else 0.0)
    if axis == 0:
        ahead = _look_room(middle, sizes, shot, lead, camera or GlobalMotion.still())
        spare = np.nan_to_num(_beside(bare, sizes), nan=LOOK_ROOM)
        share = share + np.clip(ahead, -spare, spare)
    essential = _shortened(np.where(np.isnan(bare), centres, bare), sizes, HEART * sizes)
    return Demand(allowed(core, sizes, 0.0), want, _in_part(core, sizes, clear), centre, share,
                  body, Interval.nothing(shot.frames), essential, np.full(shot.frames, np.nan))


def _fits(extent: Array, sizes: Array) -> bool:
    """Whether ``extent`` (n, 2) fits into windows of ``sizes`` (n,) through most of the shot.

    Decided once: what fits in one frame and not in the next would pull the window to and fro.
    """
    seen = ~np.isnan(extent[:, 0])
    long = (extent[seen, 1] - extent[seen, 0]) / sizes[seen]
    return bool(seen.any()) and float(np.percentile(long, FITS_IN)) <= 1.0


def _from_top(head: Array, face: Array, longest: Array) -> Array:
    """``head`` (n, 2), cut from below to ``longest`` (n,), though not within its ``face``; a face
    that is longer itself is cut round its middle."""
    kept = np.stack([head[:, 0], np.minimum(head[:, 1], np.fmax(
        face[:, 1], head[:, 0] + longest))], axis=1)
    large = (face[:, 1] - face[:, 0]) > longest
    return np.where(large[:, None], _shortened(head, longest, longest), kept)


def _beside(face: Array, sizes: Array) -> Array:
    """The room (n,) that a ``face`` (n, 2) leaves on each side of a window, a share of it, beside
    its ears: a face that fills the window lies in its middle, wherever it looks."""
    long = (face[:, 1] - face[:, 0]) * (1 + 2 * FACE_SIDE) / sizes
    return np.asarray(np.clip((1 - long) / 2, 0.0, None))


def _middles(extent: Array) -> Array:
    """The middles of ``extent`` (n, 2), as extents without a length."""
    return np.repeat(extent.mean(axis=1)[:, None], 2, axis=1)


def _heads(extent: Array) -> Array:
    """The upper parts of outlines of people (n, 2), from top to bottom: their heads."""
    return np.stack([extent[:, 0], extent[:, 0] + HEAD * (extent[:, 1] - extent[:, 0])], axis=1)


def _shortened(extent: Array, longest: Array, to: Array) -> Array:
    """``extent`` (n, 2), cut round its middle to ``to`` (n,) where longer than ``longest`` (n,)."""
    middle, length = extent.mean(axis=1), extent[:, 1] - extent[:, 0]
    half = np.where(length > longest, to, length) / 2
    return np.stack([middle - half, middle + half], axis=1)


def words_demand(shot: FoundShot, words: tuple[Track, ...], axis: int, sizes: Array,
                 must: Array, fence: tuple[Array, Array]) -> Interval:
    """Where the window's middle may be so that burnt-in ``words`` are not cut.

    ``must`` (n, 2) are the places that the lead allows.

    Words lie inside the window where that agrees with ``must``, else wholly outside at the side
    that does; words for which neither is possible ask nothing (they will be flagged). Where nobody
    leads, the window has words that are too wide for it in its middle.
    """
    held = np.full((shot.frames, 2), np.nan)
    shares = np.zeros((shot.frames, 2))
    for word in words:
        rows = slice(max(0, word.first_frame - shot.start),
                     max(0, min(word.end_frame, shot.end) - shot.start))
        if rows.stop <= rows.start:
            continue
        low = min(box[axis] for box in word.boxes)
        high = max(box[axis] + box[axis + 2] for box in word.boxes)
        room = (max(_most(fence[0][rows]), _most(must[rows, 0]), _most(held[rows, 0])),
                min(_least(fence[1][rows]), _least(must[rows, 1]), _least(held[rows, 1])))
        half, margin = float(sizes[rows].max()) / 2, WORDS_MARGIN * float(sizes[rows].max())
        if word.kind == "face":  # ears and hair belong to it
            low, high = low - FACE_SIDE * (high - low), high + FACE_SIDE * (high - low)
        inside = (high + margin - half, low - margin + half), (0.5, 0.5)
        before, after = ((-np.inf, low - half), (0.0, -0.5)), ((high + half, np.inf), (-0.5, 0.0))
        middle = ((low + high) / 2, (low + high) / 2), (0.0, 0.0)
        asked = not np.isnan(must[rows]).all()
        # Where nobody leads, words are what there is to see: they are never left out.
        for spot, share in (inside, before, after) if asked else (inside, middle):
            both = (max(room[0], spot[0]), min(room[1], spot[1]))
            if spot[0] <= spot[1] and both[0] <= both[1]:
                for side, (place, by) in enumerate(zip(spot, share, strict=True)):
                    binds = place == both[side]  # else what was held before is the stricter
                    held[rows, side] = both[side]
                    shares[rows, side] = by if binds else shares[rows, side]
                break
    least, most = held[:, 0] + shares[:, 0] * sizes, held[:, 1] - shares[:, 1] * sizes
    return Interval(np.where(np.isnan(held[:, 0]), np.nan, least), shares[:, 0],
                np.where(np.isnan(held[:, 0]), np.nan, most), shares[:, 1])


def _most(values: Array) -> float:
    return float(np.nanmax(values, initial=-np.inf))


def _least(values: Array) -> float:
    return float(np.nanmin(values, initial=np.inf))


def _face_with_margins(lead: Subject) -> Callable[[int], Box | None]:
    def box(frame: int) -> Box | None:
        found = lead.face_at(frame)
        if found is None:
            return None
        x, y, w, h = found
        top, body = y - FACE_ABOVE * h, lead.body.box_at(frame) if lead.body is not None else None
        if body is not None and y - HAT_ABOVE * h <= body[1] < top:
            top = body[1]  # hair, or a hat, up to where the outline begins
        return (x - FACE_SIDE * w, top, w * (1 + 2 * FACE_SIDE), y + h * (1 + FACE_BELOW) - top)

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


def allowed(extent: Array, sizes: Array, margin: float) -> Interval:
    """Windows that hold ``extent`` (n, 2), or lie inside it where it is longer than ``sizes``.

    ``margin``, a share of the window, stays free at each side as far as it fits.
    """
    low, high = extent[:, 0], extent[:, 1]
    longer = (high - low) > sizes
    spare = np.clip((1 - (high - low) / sizes) / 2, 0, margin)
    share = np.where(longer, -0.5, 0.5 - spare)
    return Interval(np.where(longer, low, high), share, np.where(longer, high, low), share)


def _look_room(
    middle: Array, sizes: Array, shot: FoundShot, lead: Subject, camera: GlobalMotion
) -> Array:
    """How far (n,) the window sits ahead of its lead, a share of it: room to go or look into.

    The room is on the side it moves to in the scene; of one that stands, on the side it looks to.
    """
    seen = np.flatnonzero(~np.isnan(middle))
    if len(seen) < 3:
        return np.zeros_like(middle)
    gone = camera.over_frames(shot.start, len(middle))[:, 0]
    filled = np.interp(np.arange(len(middle)), seen, middle[seen]) - gone
    calm = gaussian_filter1d(filled, LOOK_FRAMES, mode="nearest")
    speed = np.clip(np.gradient(calm) / sizes / LOOK_SPEED, -1.0, 1.0)
    return np.asarray(LOOK_ROOM * (speed + (1 - np.abs(speed)) * _gaze(shot, lead)))


def _gaze(shot: FoundShot, lead: Subject) -> float:
    """Where the lead looks through most of the shot, -1 left to 1 right; 0 into the camera."""
    turned = [value for frame, value in (lead.face.gaze if lead.face is not None else ())
              if shot.start <= frame < shot.end]
    if not turned:
        return 0.0
    usual = float(np.median(turned))
    return float(np.sign(usual) * np.clip((abs(usual) - GAZE_UNSURE) / GAZE_FULL, 0.0, 1.0))


def _in_part(extent: Array, sizes: Array, part: tuple[float, float]) -> Interval:
    """Windows that bring ``extent`` into ``part`` of them; nothing where it does not fit."""
    fits = extent[:, 1] - extent[:, 0] <= (part[1] - part[0]) * sizes
    frames = len(extent)
    return Interval(np.where(fits, extent[:, 1], np.nan), np.full(frames, part[1] - 0.5),
                np.where(fits, extent[:, 0], np.nan), np.full(frames, 0.5 - part[0]))
