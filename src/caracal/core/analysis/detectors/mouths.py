"""How much each face moves its mouth: while the film is analysed, and shot by shot on demand.

A mouth moves when its part of a face changes more from frame to frame than the face above it does:
that leaves out turning heads (common practice in finding active speakers by sight).
"""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import uniform_filter1d

from caracal.core.analysis.model import Analysis, Track
from caracal.core.base.geometry import Box
from caracal.core.base.work import CancelToken
from caracal.core.media.planes import Plane
from caracal.core.media.proxy import ProxyReader

SMOOTH_S = 0.6  # mouths close between syllables
SIZE = (32, 40)  # width, height a face is brought to before its frames are compared
MOUTH = (slice(27, 38), slice(9, 23))  # rows, columns: CenterFace's boxes end below the lips
ABOVE = slice(0, 24)  # rows of eyes, brows and nose

Activity = NDArray[np.float64]


def mouth_activity(
    proxy: Path, analysis: Analysis, faces: list[Track], start: int, end: int,
    token: CancelToken | None = None,
) -> Activity:
    """How much each of ``faces`` moves its mouth in frames [start, end), (frames, faces).

    Raises InputError when the proxy cannot be read, Cancelled when stopped.
    """
    reader = ProxyReader(proxy, analysis.master.frame_rate)
    before: list[Plane | None] = [None] * len(faces)
    moved = np.zeros((end - start, len(faces)))
    try:
        for frame in range(start, end):
            if token is not None:
                token.check()
            luma = reader.planes(frame).y
            scale = luma.shape[1] / analysis.master.width
            for i, face in enumerate(faces):
                box = face.box_at(frame)
                now = None if box is None else face_part(luma, box, scale)
                last, before[i] = before[i], now
                moved[frame - start, i] = mouth_change(last, now)
    finally:
        reader.close()
    window = max(1, round(SMOOTH_S * float(analysis.master.rate)))
    return np.asarray(uniform_filter1d(moved, window, axis=0, mode="nearest"))


def mouth_change(last: Plane | None, now: Plane | None) -> float:
    """How much more the mouth changed than the face above it, in luma steps; 0 if unknown."""
    if last is None or now is None:
        return 0.0
    change = cv2.absdiff(now, last)
    return max(0.0, float(change[MOUTH].mean()) - float(change[ABOVE].mean()))


def face_part(luma: Plane, box: Box, scale: float) -> Plane | None:
    """The face in ``box`` (``luma`` is ``scale`` times as large) at SIZE; None if too small."""
    x, y, w, h = (value * scale for value in box)
    if min(w, h) < 8:
        return None
    # Whole pixels would make a face that drifts seem to jump, and its mouth with it.
    part = cv2.getRectSubPix(luma, (round(w), round(h)), (x + w / 2, y + h / 2))
    return np.asarray(cv2.resize(part, SIZE, interpolation=cv2.INTER_AREA), np.uint8)
