"""What moves by itself from look to look: maps of it.

The optical flow is averaged from one look to the next, and an affine move of the background (a
pan, a zoom, a turn) is fitted to it and taken out. Idea: moving objects are the outliers of the
dominant motion (Irani, Rousso and Peleg, "Computing Occluding and Transparent Motions", 1994).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.tracking.flow import Field
from caracal.core.media.planes import Plane

GRID = (36, 64)  # rows, columns of the maps
TEXTURE = 8.0  # luma steps across two pixels: elsewhere flow is a guess
FIT_ROUNDS = 4  # of fitting the background to what agrees with it
AGREES = 2.0  # times the median distance from the background's move
UNIT = 0.02  # tiny pixels a frame, in a map's steps: 255 of them are quick enough
STILL = 0.12  # tiny pixels a frame: less is noise of the flow, and of a zoom or pan taken out

Map = NDArray[np.float32]


@dataclass(frozen=True)
class MotionLook:
    """In the frames from ``first`` to ``frame``: how fast each cell of GRID moves by itself (steps
    of UNIT), and how much detail it shows (luma steps a pixel), both (rows, columns) in uint8."""

    first: int
    frame: int
    motion: Plane
    detail: Plane


class MotionMaker:
    """Adds up the flow of frames, and makes a map of it at each look."""

    def __init__(self) -> None:
        self._sum: NDArray[np.float32] | None = None
        self._count = 0

    def add(self, field: Field) -> None:
        """The flow (h, w, 2) from the frame before."""
        self._sum = field.copy() if self._sum is None else self._sum + field
        self._count += 1

    def look(self, frame: int, tiny: Plane, half: Plane) -> MotionLook | None:
        """What moved by itself since the last look; None where no frame came."""
        if self._sum is None:
            return None
        mean, count = np.asarray(self._sum / self._count, np.float32), self._count
        self._sum, self._count = None, 0
        textured = np.hypot(cv2.Sobel(tiny, cv2.CV_32F, 1, 0, ksize=1),
                            cv2.Sobel(tiny, cv2.CV_32F, 0, 1, ksize=1)) > TEXTURE
        own = np.linalg.norm(mean - background(mean, textured), axis=2)
        own = np.asarray(np.where(textured, own / UNIT, 0.0), np.float32)
        corner = half[:-1, :-1]
        detail = cv2.add(cv2.absdiff(half[:-1, 1:], corner), cv2.absdiff(half[1:, :-1], corner))
        return MotionLook(frame - count + 1, frame, _coarse(own), _coarse(detail))


def background(field: Field, textured: NDArray[np.bool_]) -> Field:
    """The affine move (h, w, 2) that most of ``field`` agrees with, where it is ``textured``."""
    height, width = field.shape[:2]
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    rows = np.stack([np.ones_like(x), x / width - 0.5, y / height - 0.5], axis=-1)
    places, moves = rows[textured][::3], field[textured][::3]
    if len(places) < 30:
        return np.zeros_like(field)
    model = np.zeros((3, 2), np.float32)
    model[0] = np.median(moves, axis=0)
    for _ in range(FIT_ROUNDS):
        away = np.linalg.norm(moves - places @ model, axis=1)
        near = away <= max(AGREES * float(np.median(away)), STILL)
        model = np.linalg.lstsq(places[near], moves[near], rcond=None)[0].astype(np.float32)
    return np.asarray(rows @ model, np.float32)


def _coarse(values: NDArray[Any]) -> Plane:
    cells = cv2.resize(values, GRID[::-1], interpolation=cv2.INTER_AREA)
    return np.clip(np.round(cells), 0, 255).astype(np.uint8)
