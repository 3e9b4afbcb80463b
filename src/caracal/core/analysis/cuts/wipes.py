"""Wipes: a border moves over the picture, behind it lies the next shot.

In a wipe each place of the picture changes at one blow, at the moment when the border passes; the
moments lie on a straight ramp over the picture, because the border is straight and moves evenly
(common practice for horizontal, vertical and diagonal wipes). Both shots may move meanwhile: what
counts is that no other change of a place comes near that one. In a pan every place changes again
and again, in a dissolve all change slowly.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Cells = NDArray[np.float32]
Array = NDArray[np.float64]

APART = 10.0  # luma by which a cell must change at the blow, and from the first picture to the last
LEAST_CELLS = 0.3  # of all cells must tell: like skies lie in many shots
UNDECIDED = 0.4  # of the cells may be between the shots half-way: those on the border, and movers
PASSING = 2  # frames on either side of the blow that belong to it
ALONE = 0.5  # of the blow: other changes of the cell are smaller
ON_RAMP_FRAMES = 2.0  # a cell changes so near to the ramp
ON_RAMP = 0.8  # of the cells do
LEAST_TRAVEL = 0.6  # of the span: the border moves all the while
LEAST_SPREAD = 0.2  # of the ramp (standard deviation): cells lie all over it; evenly is 0.29


def wiped(pictures: Cells, size: tuple[int, int]) -> bool:
    """Whether a border moves over ``pictures`` (n, cells) of ``size`` (width, height) in cells.

    The first picture is of one shot alone, the last of the next.
    """
    if not _split_half_way(pictures):
        return False
    blows = np.abs(pictures[2:] - pictures[:-2])  # over two frames: a border may stand on a cell
    when = blows.argmax(axis=0)
    blow = blows.max(axis=0)
    frames = np.arange(len(blows))[:, None]
    others = np.where(np.abs(frames - when) > PASSING + 1, blows, 0.0).max(axis=0)
    telling = (blow > APART) & (others < ALONE * blow)
    if telling.mean() < LEAST_CELLS:
        return False
    rows, columns = np.divmod(np.flatnonzero(telling), size[0])
    places = np.stack([columns, rows, np.ones(len(rows))], axis=1)
    ramp, near = _ramp(places, when[telling].astype(np.float64))
    travel = abs(ramp[0]) * size[0] + abs(ramp[1]) * size[1]
    spread = (places[near, :2] @ ramp[:2]).std() / max(travel, 1e-6)
    return bool(near.mean() >= ON_RAMP and travel >= LEAST_TRAVEL * len(pictures)
                and spread >= LEAST_SPREAD)


def _split_half_way(pictures: Cells) -> bool:
    """Whether half-way a part of the picture is of the last shot, and the rest of the first.

    Cheap, and true of little else.
    """
    first, last, half = pictures[0], pictures[-1], pictures[len(pictures) // 2]
    telling = np.abs(last - first) > APART
    if telling.mean() < LEAST_CELLS:
        return False
    share = (half - first)[telling] / (last - first)[telling]
    undecided = ((share > 0.25) & (share < 0.75)).mean()
    return bool(undecided <= UNDECIDED and 0.2 < (share > 0.5).mean() < 0.8)


def _ramp(places: Array, when: Array) -> tuple[Array, NDArray[np.bool_]]:
    """The straight ramp through most moments ``when`` at ``places`` (n, 3), and who lies on it."""
    near = np.ones(len(when), bool)
    for _ in range(3):  # each time without those that are far off
        ramp, *_ = np.linalg.lstsq(places[near], when[near], rcond=None)
        off = np.abs(places @ ramp - when)
        near = off <= max(ON_RAMP_FRAMES, float(np.median(off)))
    return np.asarray(ramp, np.float64), off <= ON_RAMP_FRAMES
