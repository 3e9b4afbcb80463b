"""Faces by CenterFace (MIT; see data/models/README.md): one class, anchor-free, stride 4."""

from __future__ import annotations

import msgspec
import numpy as np

from caracal.core.analysis.detection import Detection, Picture
from caracal.core.analysis.detectors.network import fit_inside, keep_best, open_model
from caracal.core.base.geometry import Box

WHOLE = (480, 288)  # width, height; multiples of 32; finds faces from 1/25 of the height
NO_PEOPLE = (320, 192)  # a face whose body the other detector misses is a large one
HEAD = (160, 160)  # one person's head and shoulders; a fifth of the work of the whole
MOST_HEADS = 3  # with more people one look at the whole costs less
HEAD_PART = 0.45  # of a body's height, from its top, in which the face lies
HEAD_MARGIN = 0.2  # of the region's longer side, all round
LYING = 1.3  # a body wider than this times its height: the face may be anywhere in it
LEAST_SCORE = 0.35  # the model's own advice; lower brings hands and pots
OVERLAP = 0.3
STRIDE = 4
TURNED = 0.4  # of the eyes' distance, nose off their middle: half a profile
LEAST_APART = 0.1  # of the face's width: in profile both eyes are one


class FaceDetector:
    """Finds faces in RGB pictures."""

    def __init__(self, threads: int = 1) -> None:
        self._session = open_model("faces.onnx", threads)

    def find(self, picture: Picture, size: tuple[int, int] = WHOLE) -> list[Detection]:
        """Faces in ``picture`` (h, w, 3) uint8 RGB; boxes in its pixels, best first.

        The model sees it fitted inside ``size`` (width, height; multiples of 32).
        """
        canvas, scale = fit_inside(picture, *size)
        image = canvas.astype(np.float32).transpose(2, 0, 1)[None]
        heat, reach, offset, marks = self._session.run(
            ["heatmap", "scale", "offset", "landmarks"], {"image": image})
        rows, columns = np.nonzero(heat[0, 0] > LEAST_SCORE)
        scores = heat[0, 0, rows, columns]
        height = np.exp(reach[0, 0, rows, columns]) * STRIDE
        width = np.exp(reach[0, 1, rows, columns]) * STRIDE
        centre_y = (rows + offset[0, 0, rows, columns] + 0.5) * STRIDE
        centre_x = (columns + offset[0, 1, rows, columns] + 0.5) * STRIDE
        boxes = np.stack([centre_x - width / 2, centre_y - height / 2, width, height], axis=1)
        return [
            Detection("face", float(scores[i]), _box(boxes[i] / scale),
                      gaze=_gaze(marks[0, :, rows[i], columns[i]]))
            for i in keep_best(boxes.astype(np.float32), scores, LEAST_SCORE, OVERLAP)
        ]

    def find_near(self, picture: Picture, people: list[Box]) -> list[Detection]:
        """Faces in the upper parts of ``people``; in the whole picture when they are none or many.

        Raises nothing; boxes in pixels of ``picture``.
        """
        if not people:
            return self.find(picture, NO_PEOPLE)
        if len(people) > MOST_HEADS:
            return self.find(picture)
        found: list[Detection] = []
        for x, y, w, h in (_head_region(box, picture.shape) for box in people):
            for face in self.find(picture[y : y + h, x : x + w], HEAD):
                fx, fy, fw, fh = face.box
                found.append(msgspec.structs.replace(face, box=(fx + x, fy + y, fw, fh)))
        boxes = np.array([detection.box for detection in found], np.float32).reshape(-1, 4)
        scores = np.array([detection.score for detection in found], np.float32)
        return [found[i] for i in keep_best(boxes, scores, LEAST_SCORE, OVERLAP)]


def _head_region(body: Box, picture: tuple[int, ...]) -> tuple[int, int, int, int]:
    """Whole pixels (x, y, w, h) of ``picture`` (h, w, 3) where the face of ``body`` may be."""
    x, y, w, h = body
    part = h if w > LYING * h else max(h * HEAD_PART, min(h, w))
    margin = HEAD_MARGIN * max(w, part)
    left, top = max(0, int(x - margin)), max(0, int(y - margin))
    right, bottom = min(picture[1], int(x + w + margin)), min(picture[0], int(y + part + margin))
    return left, top, max(2, right - left), max(2, bottom - top)


def _gaze(marks: np.ndarray) -> float:
    """Where a face is turned, -1..1, by its landmarks (10,): y, x of eyes, nose, mouth corners.

    A nose that is off the middle of the eyes by TURNED of their distance is far to the side: half
    a profile (common practice in estimating yaw from five points).
    """
    left, right, nose = (float(marks[i]) for i in (1, 3, 5))
    apart = max(abs(right - left), LEAST_APART)
    return round(min(max((nose - (left + right) / 2) / apart / TURNED, -1.0), 1.0), 3)


def _box(row: np.ndarray) -> Box:
    x, y, w, h = (float(value) for value in row)
    return (x, y, w, h)
