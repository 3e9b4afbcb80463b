"""People and things by NanoDet-g at 416 (Apache-2.0; see data/models/README.md), COCO classes.

Where the processor multiplies 8-bit integers, the model's int8 form is used: it sees the same at
six tenths of the cost, but in dark pictures that were brightened, with their noise.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from onnxruntime import InferenceSession

from caracal.core.analysis.detection import Detection, Picture
from caracal.core.analysis.detectors.network import fit_inside, keep_best, network_input, open_model
from caracal.core.analysis.detectors.processor import has_int8_products
from caracal.core.base.translation import mark

INPUT = (416, 256)  # width, height; 16:9 letterboxed; multiples of 32
LARGE_INPUT = (640, 384)  # for small people; costs more than twice as much
LEAST_SCORE = 0.22  # below the model's own advice: weak sightings may continue a track
OVERLAP = 0.5
STRIDES = (8, 16, 32)
MEAN = np.array([103.53, 116.28, 123.675], np.float32)
SPREAD = np.array([57.375, 57.12, 58.395], np.float32)

KINDS = (
    mark("person"), mark("bicycle"), mark("car"), mark("motorcycle"), mark("airplane"), mark("bus"),
    mark("train"), mark("truck"), mark("boat"), mark("traffic light"), mark("fire hydrant"),
    mark("stop sign"), mark("parking meter"), mark("bench"), mark("bird"), mark("cat"), mark("dog"),
    mark("horse"), mark("sheep"), mark("cow"), mark("elephant"), mark("bear"), mark("zebra"),
    mark("giraffe"), mark("backpack"), mark("umbrella"), mark("handbag"), mark("tie"),
    mark("suitcase"), mark("frisbee"), mark("skis"), mark("snowboard"), mark("sports ball"),
    mark("kite"), mark("baseball bat"), mark("baseball glove"), mark("skateboard"),
    mark("surfboard"), mark("tennis racket"), mark("bottle"), mark("wine glass"), mark("cup"),
    mark("fork"), mark("knife"), mark("spoon"), mark("bowl"), mark("banana"), mark("apple"),
    mark("sandwich"), mark("orange"), mark("broccoli"), mark("carrot"), mark("hot dog"),
    mark("pizza"), mark("donut"), mark("cake"), mark("chair"), mark("couch"), mark("potted plant"),
    mark("bed"), mark("dining table"), mark("toilet"), mark("tv"), mark("laptop"), mark("mouse"),
    mark("remote"), mark("keyboard"), mark("cell phone"), mark("microwave"), mark("oven"),
    mark("toaster"), mark("sink"), mark("refrigerator"), mark("book"), mark("clock"), mark("vase"),
    mark("scissors"), mark("teddy bear"), mark("hair drier"), mark("toothbrush"),
)  # COCO 2017 order


class ObjectDetector:
    """Finds people, animals and things in RGB pictures."""

    def __init__(self, threads: int = 1) -> None:
        self._threads = threads
        self._quick = open_model("objects-int8.onnx", threads) if has_int8_products() else None
        self._exact: InferenceSession | None = None
        self._centres = {(size, stride): _cell_centres(size, stride)
                         for size in (INPUT, LARGE_INPUT) for stride in STRIDES}

    def find(
        self, picture: Picture, size: tuple[int, int] = INPUT, brightened: bool = False
    ) -> list[Detection]:
        """People and things in ``picture`` (h, w, 3) uint8 RGB; boxes in its pixels.

        The model sees it fitted inside ``size``, which is INPUT or LARGE_INPUT. ``brightened``: it
        was dark.
        """
        canvas, scale = fit_inside(picture, *size)
        names = [f"{part}_{stride}" for stride in STRIDES for part in ("scores", "distances")]
        outputs = self._session_for(brightened).run(
            names, {"image": network_input(canvas, MEAN, SPREAD)})
        parts = [
            _decode(self._centres[size, stride], stride, outputs[2 * i][0], outputs[2 * i + 1][0])
            for i, stride in enumerate(STRIDES)
        ]
        boxes = np.concatenate([part[0] for part in parts])
        scores = np.concatenate([part[1] for part in parts])
        kinds = np.concatenate([part[2] for part in parts])
        # Moving each class to a place of its own makes one suppression class-wise.
        apart = boxes.copy()
        apart[:, 0] += kinds * 4096.0
        found = []
        for i in keep_best(apart, scores, LEAST_SCORE, OVERLAP):
            x, y, w, h = (float(value) for value in boxes[i] / scale)
            found.append(Detection(KINDS[kinds[i]], float(scores[i]), (x, y, w, h)))
        return found

    def _session_for(self, brightened: bool) -> InferenceSession:
        """The form of the model that sees such a picture well."""
        if self._quick is not None and not brightened:
            return self._quick
        if self._exact is None:
            self._exact = open_model("objects.onnx", self._threads)
        return self._exact


def _decode(
    centres: NDArray[np.float32], stride: int, scores: NDArray[np.float32],
    distances: NDArray[np.float32],
) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.intp]]:
    best = scores.max(axis=1)
    chosen = np.nonzero(best > LEAST_SCORE)[0]
    spread = distances[chosen].reshape(-1, 4, 11)
    spread = np.exp(spread - spread.max(axis=2, keepdims=True))
    spread /= spread.sum(axis=2, keepdims=True)
    left, top, right, bottom = (spread @ np.arange(11, dtype=np.float32) * stride).T
    x, y = centres[chosen].T
    boxes = np.stack([x - left, y - top, left + right, top + bottom], axis=1)
    return boxes.astype(np.float32), best[chosen], scores[chosen].argmax(axis=1)


def _cell_centres(size: tuple[int, int], stride: int) -> NDArray[np.float32]:
    rows, columns = np.mgrid[: size[1] // stride, : size[0] // stride]
    centres = np.stack([columns.ravel(), rows.ravel()], axis=1) + 0.5
    return (centres * stride).astype(np.float32)
