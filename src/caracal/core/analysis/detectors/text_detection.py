"""Words burnt into the picture, by the PP-OCRv6 small detector (Apache-2.0; data/models/README.md).

The network (differentiable binarisation; Liao et al., AAAI 2020) gives the chance that a pixel lies
in the shrunken middle of a line of words. A line's box is its middle grown by area over perimeter
times GROW, as published.
"""

from __future__ import annotations

import cv2
import numpy as np

from caracal.core.analysis.detection import Detection, Picture
from caracal.core.analysis.detectors.network import fit_inside, network_input, open_model
from caracal.core.analysis.model import Track
from caracal.core.base.geometry import Box, overlap

INPUT_WIDTH, INPUT_HEIGHT = 320, 192  # multiples of 32; finds lines from 1/30 of the height
MEAN = np.array([0.485, 0.456, 0.406], np.float32) * 255
SPREAD = np.array([0.229, 0.224, 0.225], np.float32) * 255
LIKELY = 0.3  # a pixel's chance above which it belongs to words (the model's own advice)
SURE = 0.75  # mean chance over a line; eyes and brows reach 0.69, drawn words 0.88 and more
GROW = 1.0  # 1.6 is published for large inputs; on this small one it overshoots by a third
LEAST_PIXELS = 14  # of the input, in a line's middle
LEAST_WIDE = 1.6  # a line of words is wider than high; single marks are not worth a flag


WORDS_EVERY_S = 2.0  # words stay for seconds; a look for them costs two looks for people
AFTER_JUMP_S = 0.5  # titles fade in
SAME_LINE = 0.5  # overlap of two looks' boxes of one line


class TextSampling:
    """Which of the looked-at frames are looked at for words, too."""

    def __init__(self, rate: float) -> None:
        self._every, self._after = round(WORDS_EVERY_S * rate), round(AFTER_JUMP_S * rate)
        self._looked, self._jumped = -1_000_000, 0

    def due(self, number: int, jumped: bool, looked_at: bool) -> bool:
        """Whether frame ``number``, if it is looked at at all, is due.

        ``jumped`` when it may begin a shot.
        """
        if jumped:
            self._jumped = number
        fresh = self._looked < self._jumped + self._after <= number
        if looked_at and (fresh or number - self._looked >= self._every):
            self._looked = number
            return True
        return False


class WordsDetector:
    """Finds lines of words in RGB pictures."""

    def __init__(self, threads: int = 1) -> None:
        self._session = open_model("words.onnx", threads)
        self._input = self._session.get_inputs()[0].name

    def find(self, picture: Picture) -> list[Detection]:
        """Lines in ``picture`` (h, w, 3) uint8 RGB; boxes in its pixels, from top to bottom."""
        canvas, scale = fit_inside(picture, INPUT_WIDTH, INPUT_HEIGHT)
        image = network_input(canvas, MEAN, SPREAD)
        (chances,) = self._session.run(None, {self._input: image})
        return [
            Detection("words", score, (box[0] / scale, box[1] / scale, box[2] / scale,
                                       box[3] / scale))
            for box, score in lines(chances[0, 0])
        ]


def word_tracks(
    looks: list[tuple[int, list[Detection]]], shot: int, span: tuple[int, int]
) -> list[Track]:
    """The lines of one shot [start, end) from its looks for words, boxes in master pixels.

    A line lasts from the look before it was first seen to the one after it was last seen: it is
    better to keep a title's place a second too long than to cut it. It does not move.
    """
    inside = [look for look in looks if span[0] <= look[0] < span[1]]
    groups: list[list[tuple[int, Detection]]] = []
    for at, (_, found) in enumerate(inside):
        for line in found:
            same = next((group for group in groups
                         if overlap(group[-1][1].box, line.box) > SAME_LINE), None)
            (same.append((at, line)) if same is not None else groups.append([(at, line)]))
    edges = [span[0], *(look[0] for look in inside), span[1]]
    made: list[Track] = []
    for group in groups:
        first, end = edges[group[0][0]], edges[group[-1][0] + 2]
        box = max((detection for _, detection in group), key=lambda detection: detection.box[2]).box
        score = sum(detection.score for _, detection in group) / len(group)
        held = (round(box[0], 1), round(box[1], 1), round(box[2], 1), round(box[3], 1))
        made.append(Track(len(made), "words", shot, len(made), round(score, 4), first,
                          (held,) * (end - first)))
    return made


def lines(chances: np.ndarray) -> list[tuple[Box, float]]:
    """Boxes (x, y, w, h) and scores of the lines in a map (h, w) of chances, top to bottom."""
    likely = (chances > LIKELY).astype(np.uint8)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(likely, connectivity=8)
    found = []
    for i in range(1, count):
        x, y, w, h, area = (int(value) for value in stats[i])
        score = float(chances[labels == i].mean())
        if area < LEAST_PIXELS or score < SURE or w < LEAST_WIDE * h:
            continue
        grown = w * h * GROW / (2 * (w + h))
        left, top = max(0.0, x - grown), max(0.0, y - grown)
        right = min(float(chances.shape[1]), x + w + grown)
        bottom = min(float(chances.shape[0]), y + h + grown)
        found.append(((left, top, right - left, bottom - top), round(score, 3)))
    return sorted(found, key=lambda line: (line[0][1], line[0][0]))
