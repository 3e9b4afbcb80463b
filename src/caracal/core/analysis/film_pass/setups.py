"""Shots of one set-up: the same camera on the same scene, recognised by how alike they look."""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.labels import MOVING_THING, group_of
from caracal.core.analysis.model import THUMBNAIL, Analysis, FoundShot, Track
from caracal.core.base.identity import Same, kept_for
from caracal.core.media.planes import Plane

ALIKE = 0.85  # correlation of two thumbnails: most outdoor shots reach that, sky above ground below
ALIKE_ACROSS = 0.75  # and of what differs along their rows: on the demo other set-ups reach 0.68
BLUR = 1.0  # cells: people move within a set-up
SAME_GROUND = 6.0  # luma steps between two backgrounds; on the demo other places differ by 9 up
LEAST_CONTRAST = 12.0  # luma steps of deviation: plain grounds are all alike
LEAST_GROUND = 0.35  # of the picture must be seen beside the people of both shots
MOVERS = ("person", "face", "animal", "ride", "mover")
AS_LARGE = 0.4  # of the other's height: a creature comes nearer within a set-up, though not so far

LEAST_LENGTH = 1e-3  # of a thumbnail's differences: below, it is plain

Mask = NDArray[np.bool_]
Array = NDArray[np.float64]


def thumbnail(luma: Plane) -> bytes:
    """A picture's luma (h, w) at THUMBNAIL's size, row by row."""
    return np.asarray(cv2.resize(luma, THUMBNAIL, interpolation=cv2.INTER_AREA), np.uint8).tobytes()


def alike(a: bytes, b: bytes) -> bool:
    """Whether two thumbnails show one set-up; never where one of them says nothing."""
    if not a or len(a) != len(b):
        return False
    first, other = _calmed(a), _calmed(b)
    rows = [part - part.mean(axis=1, keepdims=True) for part in (first, other)]
    return (_correlation(first - first.mean(), other - other.mean()) >= ALIKE
            and _correlation(*rows) >= ALIKE_ACROSS)


def _correlation(array: np.ndarray, other: np.ndarray) -> float:
    size = float(np.linalg.norm(array) * np.linalg.norm(other))
    return float((array * other).sum()) / size if size > 1e-6 else 0.0


def _calmed(part: bytes) -> np.ndarray:
    picture = np.frombuffer(part, np.uint8).reshape(THUMBNAIL[::-1]).astype(np.float32)
    return np.asarray(cv2.GaussianBlur(picture, (0, 0), BLUR))


def similar_shots(analysis: Analysis, shot: int) -> tuple[int, ...]:
    """The other shots of the set-up of ``shot``, in film order.

    All shots are compared at once: of 2,000, one by one takes a second.
    """
    looks, free = _looks(analysis.shots), _grounds(analysis)
    if not looks.seen[shot]:
        return ()
    alike_all = ((looks.centred @ looks.centred[shot] >= ALIKE)
                 & (looks.by_rows @ looks.by_rows[shot] >= ALIKE_ACROSS))
    ground = free & free[shot]
    cells = np.maximum(ground.sum(axis=1), 1)
    apart = np.abs(looks.calmed - looks.calmed[shot])
    same = ((ground.mean(axis=1) >= LEAST_GROUND)
            & (_deviation(looks.calmed, ground, cells) >= LEAST_CONTRAST)
            & (_deviation(looks.calmed[shot], ground, cells) >= LEAST_CONTRAST)
            & ((apart * ground).sum(axis=1) / cells <= SAME_GROUND))
    found = np.nonzero(looks.seen & (alike_all | same))[0]
    return tuple(int(number) for number in found if number != shot)


def _deviation(values: Array, where: Mask, cells: Array) -> Array:
    """The standard deviation of each row of ``values`` (n, cells) where its row of ``where`` is."""
    mean = (values * where).sum(axis=1) / cells
    return np.asarray(np.sqrt((((values - mean[:, None]) ** 2) * where).sum(axis=1) / cells))


@dataclass(frozen=True)
class _Looks:
    """The thumbnails of all shots, a row each (n, cells): calmed; less their mean, and less the
    mean of each line of the picture, both of length 1; and which shots have one."""

    calmed: Array
    centred: Array
    by_rows: Array
    seen: Mask


@kept_for(most=2)
def _looks(shots: tuple[FoundShot, ...]) -> _Looks:
    columns, rows = THUMBNAIL
    seen = np.array([len(shot.thumbnail) == columns * rows for shot in shots], np.bool_)
    calmed = np.zeros((len(shots), rows, columns))
    for number in np.nonzero(seen)[0]:
        calmed[number] = _calmed(shots[number].thumbnail)
    centred = calmed - calmed.mean(axis=(1, 2), keepdims=True)
    by_rows = calmed - calmed.mean(axis=2, keepdims=True)
    flat = (len(shots), -1)
    return _Looks(calmed.reshape(flat), _of_length_1(centred.reshape(flat)),
                  _of_length_1(by_rows.reshape(flat)), seen)


def _of_length_1(vectors: Array) -> Array:
    """Each row of ``vectors`` at length 1; what has no length stays."""
    long = np.linalg.norm(vectors, axis=1, keepdims=True)
    return np.asarray(np.where(long > LEAST_LENGTH, vectors / np.maximum(long, LEAST_LENGTH), 0.0))


def _grounds(analysis: Analysis) -> Mask:
    """Where nobody is in the poster frame of each shot (n, cells)."""
    size = analysis.master.width, analysis.master.height
    return _grounds_of(Same(analysis.shots), Same(analysis.tracks), size)


@functools.lru_cache(maxsize=2)  # an analysis with another sound has the same shots and tracks
def _grounds_of(
    shots: Same[tuple[FoundShot, ...]], tracks: Same[tuple[Track, ...]], size: tuple[int, int]
) -> Mask:
    columns, rows = THUMBNAIL
    free = np.ones((len(shots.value), rows, columns), np.bool_)
    across, down = columns / size[0], rows / size[1]
    for track in tracks.value:
        box = track.box_at(shots.value[track.shot].poster_frame)
        if box is not None and group_of(track.kind) in MOVERS:
            x, y, w, h = box
            free[track.shot, max(0, int(y * down)) : int((y + h) * down) + 1,
                 max(0, int(x * across)) : int((x + w) * across) + 1] = False
    return free.reshape(len(shots.value), -1)


def _comparison(analysis: Analysis) -> Callable[[int, int], bool]:
    """Tells of two shots whether they are of one set-up."""
    columns, rows = THUMBNAIL
    grounds = _grounds(analysis).reshape(-1, rows, columns)

    def similar(one: int, other: int) -> bool:
        a, b = analysis.shots[one].thumbnail, analysis.shots[other].thumbnail
        return alike(a, b) or same_ground(a, b, grounds[one] & grounds[other])

    return similar


def same_ground(a: bytes, b: bytes, ground: Mask) -> bool:
    """Whether two thumbnails show the same light and dark where ``ground`` (rows, columns) is.

    So people may be anywhere: what is compared lies beside them.
    """
    if not a or len(a) != len(b) or ground.mean() < LEAST_GROUND:
        return False
    first, other = _calmed(a)[ground], _calmed(b)[ground]
    if min(float(first.std()), float(other.std())) < LEAST_CONTRAST:
        return False
    return float(np.abs(first - other).mean()) <= SAME_GROUND


def with_known_movers(analysis: Analysis) -> Analysis:
    """``analysis`` with the names of animals that were known in one shot of a set-up for what moves
    by itself in the others: a detector may know a creature from one side only.
    """
    animals = [track for track in analysis.tracks if group_of(track.kind) == "animal"]
    if not animals or not any(track.kind == MOVING_THING for track in analysis.tracks):
        return analysis
    similar = _comparison(analysis)
    return msgspec.structs.replace(analysis, tracks=tuple(
        msgspec.structs.replace(track, kind=_known_as(track, animals, similar))
        if track.kind == MOVING_THING else track for track in analysis.tracks))


def _known_as(
    mover: Track, animals: Sequence[Track], similar: Callable[[int, int], bool]
) -> str:
    tall = _height(mover)
    known = [track for track in animals if track.shot != mover.shot
             and min(tall, _height(track)) >= AS_LARGE * max(tall, _height(track))
             and similar(mover.shot, track.shot)]
    best = max(known, key=lambda track: len(track.boxes) * track.score, default=mover)
    return best.kind


def _height(track: Track) -> float:
    return float(np.median([box[3] for box in track.boxes]))
