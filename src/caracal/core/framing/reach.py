"""How much of a quick lead any window can keep, and where that window is.

The window's middle is looked for on a grid, frame by frame, by dynamic programming (Bellman 1957):
the most frames kept up to here, from anywhere within a frame's reach. Nothing within the speed
limit keeps more.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

Array = NDArray[np.float64]

CELLS = 4  # of the grid in a frame's reach
MOST_PLACES = 1200  # on the grid
CALM = 1e-4  # of a kept frame, for moving by a cell: of two paths as good the calmer


def best_coverage(
    asked: Sequence[tuple[Array, float]], fence_low: Array, fence_high: Array, speed: float
) -> Array:
    """Middles (n,) of the window that keeps most of what is ``asked``.

    Each of ``asked`` is the places of the middle that keep it (n, 2), NaN where nothing is asked,
    and what a frame that keeps it counts. The middle stays between ``fence_low`` and ``fence_high``
    (n,) and moves by ``speed`` pixels a frame at most.
    """
    low, high = float(fence_low.min()), float(fence_high.max())
    step = max(speed / CELLS, (high - low) / MOST_PLACES)
    grid = np.arange(low, high + step, step)
    reach = max(1, int(speed / step + 1e-6))
    frames = len(fence_low)
    if all(np.isnan(rooms).all() for rooms, _ in asked):
        return np.full(frames, (low + high) / 2)
    free = (grid[None] >= fence_low[:, None] - step) & (grid[None] <= fence_high[:, None] + step)
    good = np.zeros((frames, len(grid)))
    for rooms, counts in asked:
        good += counts * (free & (grid[None] >= rooms[:, :1] - step / 2)
                          & (grid[None] <= rooms[:, 1:] + step / 2))
    best = np.empty((frames, len(grid)))
    best[0] = good[0]
    for i in range(1, frames):
        calm = np.maximum(best[i - 1], maximum_filter1d(best[i - 1], 2 * reach + 1,
                                                        mode="nearest") - CALM)
        best[i] = calm + good[i]
    at = np.empty(frames, np.intp)
    at[-1] = int(best[-1].argmax())
    for i in range(frames - 2, -1, -1):
        near = slice(max(0, at[i + 1] - reach), at[i + 1] + reach + 1)
        values = best[i, near].copy()
        values[at[i + 1] - near.start] += CALM
        at[i] = near.start + int(values.argmax())
    return np.asarray(grid[at])
