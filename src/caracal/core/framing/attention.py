"""Where a still window looks best in a shot without a lead."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import zoom

from caracal.core.analysis.labels import group_of
from caracal.core.analysis.model import ATTENTION_SHAPE, Analysis

WORTH_LEAVING = 1.15  # the best place must hold this much more than the middle
PEOPLE_SHARE = 0.5  # small people weigh this much of the map
FINER = 8
LEAST_THING = 0.15  # of the picture's height: an edge may cut what is smaller
THERE = 0.5  # of the shot's frames
RIM = 0.08  # of a thing's length: found boxes have air at their ends
WHOLE_THINGS = 0.7  # of a place's worth is left where its edge cuts a thing in two


def best_place(analysis: Analysis, shot: int, size: tuple[float, float]) -> tuple[float, float]:
    """Left and top of the window of ``size`` over the most telling part; else the middle."""
    active = analysis.active
    middle = (active[0] + (active[2] - size[0]) / 2, active[1] + (active[3] - size[1]) / 2)
    shares = np.asarray(analysis.shots[shot].attention)
    if shares.size != ATTENTION_SHAPE[0] * ATTENTION_SHAPE[1] or shares.sum() <= 0:
        return middle
    found = shares.reshape(ATTENTION_SHAPE) + _people(analysis, shot)
    whole = (analysis.master.width, analysis.master.height)
    across, down = (
        _best_along(found.sum(axis=i), active[i], active[i + 2], size[i], whole[i],
                    _things(analysis, shot, i)) for i in (0, 1))
    return across, down


def _things(analysis: Analysis, shot: int, axis: int) -> list[tuple[float, float]]:
    """From where to where along ``axis`` the things lie that an edge should not cut."""
    frames, least = analysis.shots[shot].frames, LEAST_THING * analysis.master.height
    made = []
    for track in analysis.tracks_in(shot):
        boxes = np.array(track.boxes)
        if len(boxes) >= THERE * frames and float(np.median(boxes[:, 3])) >= least:
            low, high = boxes[:, axis], boxes[:, axis] + boxes[:, axis + 2]
            made.append((float(np.median(low)), float(np.median(high))))
    return made


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
    profile: np.ndarray, start: float, length: float, size: float, whole: float,
    things: list[tuple[float, float]],
) -> float:
    fine = zoom(profile, FINER, order=1) / FINER
    scale = len(fine) / whole
    total = np.concatenate([[0.0], np.cumsum(fine)])
    spots = np.linspace(start, start + length - size, 65)

    def held(at: np.ndarray | float) -> np.ndarray:
        edges = np.arange(len(total))
        inside = np.interp((np.asarray(at) + size) * scale, edges, total)
        share = np.asarray(inside - np.interp(np.asarray(at) * scale, edges, total))
        for low, high in things:
            rim = RIM * (high - low)
            cut = [(low + rim < edge) & (edge < high - rim)
                   for edge in (np.asarray(at), np.asarray(at) + size)]
            share = share * np.where(cut[0] ^ cut[1], WHOLE_THINGS, 1.0)
        return share

    middle = start + (length - size) / 2
    values = held(spots)
    if float(values.max()) < WORTH_LEAVING * float(held(middle)):
        return middle
    best = spots[values >= values.max() * 0.995]
    return float(best[np.argmin(np.abs(best - middle))])
