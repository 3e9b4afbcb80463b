"""Shots of one set-up: the same camera on the same scene, recognised by how alike they look."""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.analysis.model import THUMBNAIL, Analysis
from caracal.core.media.planes import Plane

ALIKE = 0.85  # correlation of two thumbnails: most outdoor shots reach that, sky above ground below
ALIKE_ACROSS = 0.75  # and of what differs along their rows: on the demo other set-ups reach 0.68
BLUR = 1.0  # cells: people move within a set-up


def thumbnail(luma: Plane) -> bytes:
    """A picture's luma (h, w) at THUMBNAIL's size, row by row."""
    return np.asarray(cv2.resize(luma, THUMBNAIL, interpolation=cv2.INTER_AREA), np.uint8).tobytes()


def alike(a: bytes, b: bytes) -> bool:
    """Whether two thumbnails show one set-up; never where one of them says nothing."""
    if not a or len(a) != len(b):
        return False
    one, other = _calmed(a), _calmed(b)
    rows = [part - part.mean(axis=1, keepdims=True) for part in (one, other)]
    return (_correlation(one - one.mean(), other - other.mean()) >= ALIKE
            and _correlation(*rows) >= ALIKE_ACROSS)


def _correlation(one: np.ndarray, other: np.ndarray) -> float:
    size = float(np.linalg.norm(one) * np.linalg.norm(other))
    return float((one * other).sum()) / size if size > 1e-6 else 0.0


def _calmed(part: bytes) -> np.ndarray:
    picture = np.frombuffer(part, np.uint8).reshape(THUMBNAIL[::-1]).astype(np.float32)
    return np.asarray(cv2.GaussianBlur(picture, (0, 0), BLUR))


def similar_shots(analysis: Analysis, shot: int) -> tuple[int, ...]:
    """The other shots of the set-up of ``shot``, in film order."""
    mine = analysis.shots[shot].thumbnail
    return tuple(i for i, one in enumerate(analysis.shots)
                 if i != shot and alike(mine, one.thumbnail))
