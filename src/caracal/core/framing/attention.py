"""Where a still window looks best in a shot without a lead."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import zoom

from caracal.core.analysis.model import ATTENTION_SHAPE, Analysis
from caracal.core.analysis.tracks import group_of

WORTH_LEAVING = 1.15  # the best place must hold this much more than the middle
PEOPLE_SHARE = 0.5  # small people weigh this much of the map
FINER = 8


def best_place(analysis: Analysis, shot: int, size: tuple[float, float]) -> tuple[float, float]:
    """Left and top of the window of ``size`` over the most telling part; else the middle."""
    active = analysis.active
    middle = (active[0] + (active[2] - size[0]) / 2, active[1] + (active[3] - size[1]) / 2)
    shares = np.asarray(analysis.shots[shot].attention)
    if shares.size != ATTENTION_SHAPE[0] * ATTENTION_SHAPE[1] or shares.sum() <= 0:
        return middle
    found = shares.reshape(ATTENTION_SHAPE) + _people(analysis, shot)
    return (
        _best_along(found.sum(axis=0), active[0], active[2], size[0], analysis.master.width),
        _best_along(found.sum(axis=1), active[1], active[3], size[1], analysis.master.height),
    )


def _people(analysis: Analysis, shot: int) -> np.ndarray:
    """A map like the attention's of the shot's people and animals, summing to their share."""
    rows, columns = ATTENTION_SHAPE
    made = np.zeros(ATTENTION_SHAPE)
    across, down = columns / analysis.master.width, rows / analysis.master.height
    for track in analysis.tracks_in(shot):
        if group_of(track.kind) in ("person", "animal"):
            x, y, w, h = track.boxes[len(track.boxes) // 2]
            column = min(columns - 1, int((x + w / 2) * across))
            row = min(rows - 1, int((y + h / 2) * down))
            made[row, column] += len(track.boxes)
    return made * (PEOPLE_SHARE / made.sum()) if made.sum() else made


def _best_along(
    profile: np.ndarray, start: float, length: float, size: float, whole: float
) -> float:
    fine = zoom(profile, FINER, order=1) / FINER
    scale = len(fine) / whole
    total = np.concatenate([[0.0], np.cumsum(fine)])
    spots = np.linspace(start, start + length - size, 65)

    def held(at: np.ndarray | float) -> np.ndarray:
        edges = np.arange(len(total))
        inside = np.interp((np.asarray(at) + size) * scale, edges, total)
        return np.asarray(inside - np.interp(np.asarray(at) * scale, edges, total))

    middle = start + (length - size) / 2
    values = held(spots)
    if float(values.max()) < WORTH_LEAVING * float(held(middle)):
        return middle
    best = spots[values >= values.max() * 0.995]
    return float(best[np.argmin(np.abs(best - middle))])
