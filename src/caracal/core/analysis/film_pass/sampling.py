"""When to look: often while things move, rarely while nothing does, on both sides of a jump."""

from __future__ import annotations

from collections import deque

import cv2
import numpy as np

from caracal.core.analysis.detectors.network import MOST_GAIN
from caracal.core.media.planes import Plane

LEAST_S = 0.4  # between two looks while things move; flow carries them in between
QUICK_S = 0.16  # between two looks while something large passes
MOST_S = 1.2  # between two looks while nothing does
ENOUGH_MOTION = 2.0  # summed luma change (mean over the picture, 0..255) that calls for a look
QUICK_MOTION = 32.0  # summed as above since the last look: more than flow can carry over
GRAIN = 2  # luma steps up to this are noise, not motion: grain of 5 is 0.5 after averaging
JUMP = 1.2  # luma change of one frame that may be a cut
JUMP_RATIO = 2.5  # and so many times the change of the frames before: pans change all the time
REMEMBERED = 8  # frames; twelve pictures a second change three or four times in as many
MOST_SPARE = 4.0  # jumps in a row that stand out of the usual step only; one more each second
LIGHT_EVERY = 10  # frames between two measures of how bright it is
LIT = 150.0  # luma of the highlights above black below which motion counts for more


class AdaptiveSampling:
    """Give it every frame in order; it says which are worth a look by the detectors."""

    def __init__(self, rate: float) -> None:
        self._rate = rate
        self._last: Plane | None = None
        self._steps: deque[float] = deque(maxlen=REMEMBERED)
        self._motion, self._light = 0.0, LIT
        self._looked = -1_000_000
        self._spare = MOST_SPARE

    def at(self, number: int, tiny: Plane) -> tuple[bool, bool]:
        """(whether this frame is to be looked at, whether the one before it is, too)."""
        step = moved = 0.0
        if self._last is not None:
            change = cv2.absdiff(tiny, self._last)
            step = cv2.mean(change)[0]
            moved = cv2.mean(cv2.threshold(change, GRAIN, 0, cv2.THRESH_TOZERO)[1])[0]
            if number % LIGHT_EVERY == 0:
                self._light = float(np.percentile(tiny, 99)) - 16.0
            moved *= min(MOST_GAIN, LIT / max(self._light, 1.0)) if self._light < LIT else 1.0
        jumped = self._jumped(step)
        self._last = tiny
        self._steps.append(step)
        self._motion += moved
        since = (number - self._looked) / self._rate
        due = (jumped or since >= MOST_S
               or (self._motion >= ENOUGH_MOTION and since >= LEAST_S)
               or (self._motion >= QUICK_MOTION and since >= QUICK_S))
        if due:
            self._looked, self._motion = number, 0.0
        return due, jumped

    def _jumped(self, step: float) -> bool:
        """Whether a frame differs so much from the one before that it may begin a shot.

        A cut stands out of all steps but one that are remembered: there may have been another just
        before. What moves only now and then stands out of the usual step; where pictures stand for
        two or three frames each of them does, so there is a limit to those.
        """
        self._spare = min(MOST_SPARE, self._spare + 1 / self._rate)
        steps = sorted(self._steps)
        if step <= max(JUMP, JUMP_RATIO * float(np.median(steps) if steps else 0.0)):
            return False
        if len(steps) < 2 or step > JUMP_RATIO * steps[-2]:
            return True
        if self._spare < 1:
            return False
        self._spare -= 1
        return True
