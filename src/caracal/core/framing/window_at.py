"""The window of a path at one frame, as a person sets it: its middle, and how close it is."""

from __future__ import annotations

from caracal.core.base.geometry import Box, Shape, window_size
from caracal.core.framing.choice import Keyframe
from caracal.core.framing.path import ShotPath

FINE = 1000  # parts of a pixel: a window's shape is found from its sides


def zoom_of(picture: Box, path: ShotPath, at: int) -> float:
    """How much smaller than the widest of its shape in ``picture`` the window of ``path`` is at
    frame ``at``; from 1.
    """
    _, _, wide, high = (float(value) for value in path.windows[at - path.start])
    shape = Shape.of(round(wide * FINE), round(high * FINE))
    whole, _ = window_size(shape, picture, 1.0, path.finish.straighten)
    return max(1.0, round(whole / wide, 4))


def key_at(path: ShotPath, frame: int) -> Keyframe:
    """A keyframe that holds the window as ``path`` has it at ``frame``."""
    x, y, w, h = (float(value) for value in path.windows[frame - path.start])
    return Keyframe(frame, (round(x + w / 2, 2), round(y + h / 2, 2)))
