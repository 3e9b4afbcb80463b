"""Faces by CenterFace (MIT; see data/models/README.md): one class, anchor-free, stride 4."""

from __future__ import annotations

import numpy as np

from caracal.core.analysis.detections import (
    Detection,
    Picture,
    fit_inside,
    keep_best,
    open_model,
)

INPUT_WIDTH, INPUT_HEIGHT = 480, 288  # multiples of 32; finds faces from about 1/25 of the height
LEAST_SCORE = 0.35  # the model's own advice; lower brings hands and pots
OVERLAP = 0.3
STRIDE = 4


class FaceDetector:
    """Finds faces in RGB pictures."""

    def __init__(self, threads: int = 1) -> None:
        self._session = open_model("faces.onnx", threads)

    def find(self, picture: Picture) -> list[Detection]:
        """Faces in ``picture`` (h, w, 3) uint8 RGB; boxes in its pixels, best first."""
        canvas, scale = fit_inside(picture, INPUT_WIDTH, INPUT_HEIGHT)
        image = canvas.astype(np.float32).transpose(2, 0, 1)[None]
        heat, size, offset = self._session.run(["heatmap", "scale", "offset"], {"image": image})
        rows, columns = np.nonzero(heat[0, 0] > LEAST_SCORE)
        scores = heat[0, 0, rows, columns]
        height = np.exp(size[0, 0, rows, columns]) * STRIDE
        width = np.exp(size[0, 1, rows, columns]) * STRIDE
        centre_y = (rows + offset[0, 0, rows, columns] + 0.5) * STRIDE
        centre_x = (columns + offset[0, 1, rows, columns] + 0.5) * STRIDE
        boxes = np.stack([centre_x - width / 2, centre_y - height / 2, width, height], axis=1)
        return [
            Detection("face", float(scores[i]), _scaled(boxes[i] / scale))
            for i in keep_best(boxes.astype(np.float32), scores, LEAST_SCORE, OVERLAP)
        ]


def _scaled(box: np.ndarray) -> tuple[float, float, float, float]:
    x, y, w, h = (float(value) for value in box)
    return (x, y, w, h)
