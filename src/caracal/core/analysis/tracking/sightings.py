"""What detectors saw in a shot, and where flow carried it: as data."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.detection import Detection
from caracal.core.analysis.detectors.attention import Map
from caracal.core.analysis.tracking.motion_maps import MotionLook

Drift = NDArray[np.float32]
NOWHERE: Drift = np.zeros((0, 2), np.float32)


@dataclass(frozen=True)
class Sighting:
    """One thing seen in one look, box in master pixels, and where flow carried it.

    ``drift`` (n, 2): how far the box's middle had moved 1..n frames after the look, in master
    pixels. ``mouth`` (n,): how much a face's mouth changed more than its brow in those frames.
    """

    seen: Detection
    drift: Drift = field(default_factory=lambda: NOWHERE)
    mouth: Drift = field(default_factory=lambda: NOWHERE[:, 0])


FrameDetections = tuple[int, list[Sighting]]


@dataclass(frozen=True)
class ShotDetections:
    """What was seen in a span of frames, boxes in master pixels.

    Looks and looks for words are in order, with their frames. ``maps`` are of attention, one for
    each look. ``camera`` (n, 2) is how far the background moved to each frame, float32.
    ``motions`` say at each look what moved by itself since the one before.
    """

    looks: list[FrameDetections]
    words: list[tuple[int, list[Detection]]]
    maps: list[Map]
    camera: NDArray[np.float32]
    motions: list[MotionLook] = field(default_factory=list)
