"""Hard cuts: a step of the picture that stands out of its neighbours and leads somewhere else.

The step from each frame to the next is its mean difference in luma. At a cut it is many times that
of the frames around (the adaptive threshold usual in shot boundary detection), every frame after
differs from every frame before, and those on either side are like each other. Ordinary movement
fails one of the three: a pan has many such steps, a flash leads back, judder repeats.
"""

from __future__ import annotations

from collections import deque
from enum import Enum
from itertools import pairwise

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.media.planes import Plane

ROUND = 12  # frames on either side that a step is compared with
SIDE = 3  # frames on either side of a cut that are alike among themselves
NEAR = 1.8  # times its four neighbours: less is never looked at more closely
LEAST_ACROSS = 3.0  # luma steps between any frame before a cut and any after it
# (contrast, peak, third, across) at which a cut stands, any row: it stands out alone, among other
# cuts, or on the side of lively movement. The liveliest filmed movement has a peak of 1.7.
STANDS = ((1.35, 2.2, 0.0, 3.0), (2.2, 0.0, 3.0, 8.0), (0.9, 2.0, 0.0, 10.0))
DOUBT_ACROSS, DOUBT_CONTRAST = 7.0, 0.7  # and at which it is worth asking, if it stands out a
DOUBT_PEAK, DOUBT_THIRD = 1.15, 1.6  # little: drawn pictures change by as much every second frame
FLOOR = 0.05  # luma steps: still pictures would divide by nothing

Pictures = NDArray[np.float32]


class Verdict(Enum):
    """What the differences say of a step."""

    CUT = "cut"
    DOUBTFUL = "doubtful"
    NONE = "none"


class Step(msgspec.Struct, frozen=True):
    """How a step between two frames compares with those around it.

    ``across`` is the least difference in luma of any of the three frames before and any of the
    three after; ``contrast`` is that to the most which frames of one side differ; ``peak`` and
    ``third`` are the step to the largest and third largest of the steps around, ``near`` to the
    mean of its four neighbours.
    """

    near: float
    contrast: float
    peak: float
    third: float
    across: float

    @property
    def verdict(self) -> Verdict:
        """Says whether a step between two frames is a cut, is none, or is doubtful."""
        if self.near < NEAR or self.across < LEAST_ACROSS:
            return Verdict.NONE
        said = (self.contrast, self.peak, self.third, self.across)
        if any(all(a >= b for a, b in zip(said, row, strict=True)) for row in STANDS):
            return Verdict.CUT
        stands_out = self.peak >= DOUBT_PEAK or self.third >= DOUBT_THIRD
        asks = self.across >= DOUBT_ACROSS and self.contrast >= DOUBT_CONTRAST and stands_out
        return Verdict.DOUBTFUL if asks else Verdict.NONE


class HardCutFinder:
    """Give it every frame in order; it says which begin a new shot, ``ROUND`` frames late."""

    def __init__(self) -> None:
        self._pictures: deque[Plane] = deque(maxlen=2 * ROUND + 2)
        self._steps: deque[float] = deque(maxlen=2 * ROUND + 1)  # to each picture but the first
        self._next = 0

    def add(self, luma: Plane) -> tuple[int, Step] | None:
        """(frame, how it stands out) if the frame ``ROUND`` before this one may begin a shot."""
        if self._pictures:
            self._steps.append(cv2.norm(luma, self._pictures[-1], cv2.NORM_L1) / luma.size)
        self._pictures.append(luma)
        self._next += 1
        return self._look(len(self._pictures) - 1 - ROUND)

    def rest(self) -> list[tuple[int, Step]]:
        """The same for the film's last frames, when no more will come."""
        last = len(self._pictures)
        found = [self._look(place) for place in range(max(1, last - ROUND), last)]
        return [cut for cut in found if cut is not None]

    def _look(self, place: int) -> tuple[int, Step] | None:
        """The step to the picture at ``place`` of those held."""
        if place < 1:
            return None
        step = self._steps[place - 1]
        if step < NEAR * self._neighbours(place) or self._across_at_most(place) < LEAST_ACROSS:
            return None
        return self._next - len(self._pictures) + place, self._measured(place, step)

    def _neighbours(self, place: int) -> float:
        steps, at = list(self._steps), place - 1
        near = steps[max(0, at - 2) : at] + steps[at + 1 : at + 3]
        return sum(near) / len(near) if near else 0.0

    def _across_at_most(self, place: int) -> float:
        """More than ``across`` cannot be: light that changes is still counted here."""
        pictures = self._pictures
        least = self._steps[place - 1]
        for before in range(max(0, place - SIDE), place):
            for after in range(place, min(place + SIDE, len(pictures))):
                if least < LEAST_ACROSS:
                    return least
                change = cv2.norm(pictures[before], pictures[after], cv2.NORM_L1)
                least = min(least, change / pictures[after].size)
        return least

    def _measured(self, place: int, step: float) -> Step:
        first = max(0, place - ROUND - 1)
        pictures = np.asarray(list(self._pictures)[first : place + ROUND + 1], np.float32)
        pictures = pictures.reshape(len(pictures), -1)
        at = place - first
        steps = [_apart(a, b) for a, b in pairwise(pictures)]
        own = steps.pop(at - 1)
        others = sorted(steps, reverse=True) or [0.0]
        before, after = pictures[max(0, at - SIDE - 1) : at], pictures[at : at + SIDE + 1]
        within = max([_apart(earlier, before[-1]) for earlier in before[:-1]]
                     + [_apart(after[0], later) for later in after[1:]], default=0.0)
        across = min(_apart(a, b) for a in before[-SIDE:] for b in after[:SIDE])
        return Step(step / max(self._neighbours(place), FLOOR), across / max(within, FLOOR),
                    own / max(others[0], FLOOR), own / max(others[min(2, len(others) - 1)], FLOOR),
                    across)


def _apart(a: Pictures, b: Pictures) -> float:
    """Mean difference in luma, without what is the same everywhere: light that changes."""
    change = b - a
    return float(np.abs(change - np.median(change)).mean())
