"""What a detector says about one picture."""

from __future__ import annotations

import msgspec
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]

SURE_SCORE = 0.35  # the models' own advice; weaker sightings only continue what was seen before


class Detection(msgspec.Struct, frozen=True):
    """One thing seen in one picture; ``box`` is (x, y, w, h) in pixels of that picture.

    ``appearance`` describes the colours of a face's owner (see appearance.py), or is empty.
    ``gaze`` is where a face is turned: -1 far left, 0 into the camera, 1 far right; None: unknown.
    ``sharpness`` is 1 for what is in focus and 0.25 and less for what is not; None: unknown.
    """

    kind: str
    score: float
    box: tuple[float, float, float, float]
    appearance: tuple[float, ...] = ()
    gaze: float | None = None
    sharpness: float | None = None
