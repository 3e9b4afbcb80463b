"""What a detector says about one picture, and the steps all detectors share."""

from __future__ import annotations

import os
from weakref import WeakValueDictionary

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from caracal.core.analysis.detection import Picture
from caracal.core.analysis.detectors.downscale import halved
from caracal.core.base.errors import InstallError
from caracal.core.base.resources import model
from caracal.core.base.translation import tr

LIT = 225.0  # where the highlights of a well-lit picture lie, 0..255
LINEAR_UP_TO = 1.5  # shrunk by less, bilinear interpolation leaves nothing out
LEAST_GAIN, MOST_GAIN = 1.35, 4.0  # detectors forgive less darkness, and more gain is only noise

_opened: WeakValueDictionary[tuple[str, int, int, bool], onnxruntime.InferenceSession]
_opened = WeakValueDictionary()  # by path, when it was changed, threads, and whether it is lean


def open_model(name: str, threads: int, lean: bool = False) -> onnxruntime.InferenceSession:
    """Load a shipped ONNX model for the processor with ``threads`` threads.

    One that is in use is shared: it takes a tenth of a second to load, and keeps nothing of what
    it saw. ``lean`` leaves out the memory layouts that are quick for single pictures: a network
    that sees many at once needs 250 MB less that way, and as much time. Raises InstallError when
    the model file is missing or damaged.
    """
    path = model(name)
    key = (os.fspath(path), path.stat().st_mtime_ns if path.exists() else 0, threads, lean)
    if (known := _opened.get(key)) is not None:
        return known
    options = onnxruntime.SessionOptions()
    options.intra_op_num_threads = threads
    options.inter_op_num_threads = 1
    options.log_severity_level = 3
    if lean:
        options.graph_optimization_level = onnxruntime.GraphOptimizationLevel.ORT_ENABLE_BASIC
    # Spinning threads would steal time from the decoder that runs beside the detector.
    options.add_session_config_entry("session.intra_op.allow_spinning", "0")
    try:
        made = onnxruntime.InferenceSession(
            os.fspath(path), options, providers=["CPUExecutionProvider"])
    except Exception as problem:  # onnxruntime raises many kinds, all of them meaning the same
        raise InstallError(tr("The detection model {name} cannot be loaded.", name=path.name), path,
                           tr("Install Caracal again.")) from problem
    _opened[key] = made
    return made


def brightened(picture: Picture) -> Picture:
    """``picture`` (h, w, 3) with its highlights where detectors expect them, if it is dark."""
    highlights = float(np.percentile(picture[::8, ::8].max(axis=2), 99))
    gain = min(MOST_GAIN, LIT / max(highlights, 1.0))
    if gain <= LEAST_GAIN:
        return picture
    # What brightens a dark picture brightens its noise: a light blur costs detectors nothing.
    return np.asarray(cv2.GaussianBlur(cv2.convertScaleAbs(picture, alpha=gain), (3, 3), 0))


def keep_best(
    boxes: NDArray[np.float32], scores: NDArray[np.float32], least_score: float, iou: float
) -> NDArray[np.intp]:
    """Indices left by non-maximum suppression; ``boxes`` (n, 4) as (x, y, w, h)."""
    if len(boxes) == 0:
        return np.empty(0, dtype=np.intp)
    kept = cv2.dnn.NMSBoxes(boxes.tolist(), scores.tolist(), least_score, iou)
    return np.asarray(kept, dtype=np.intp).reshape(-1)


def fit_inside(picture: Picture, width: int, height: int) -> tuple[Picture, float]:
    """Letterbox ``picture`` (h, w, 3) into (height, width, 3); returns it and the scale used."""
    scale = min(width / picture.shape[1], height / picture.shape[0])
    inner_w, inner_h = round(picture.shape[1] * scale), round(picture.shape[0] * scale)
    canvas: Picture = np.zeros((height, width, 3), np.uint8)
    picture = halved(picture, (inner_w, inner_h))
    much = picture.shape[1] > LINEAR_UP_TO * inner_w
    canvas[:inner_h, :inner_w] = cv2.resize(
        picture, (inner_w, inner_h), interpolation=cv2.INTER_AREA if much else cv2.INTER_LINEAR)
    return canvas, scale


def network_input(
    canvas: Picture, mean: NDArray[np.float32], spread: NDArray[np.float32]
) -> NDArray[np.float32]:
    """``canvas`` (h, w, 3) RGB as (1, 3, h, w) float32, blue first: (value - mean) / spread.

    ``mean`` and ``spread`` (3,) are those of blue, green and red.
    """
    made = np.empty((1, 3, *canvas.shape[:2]), np.float32)
    for i in range(3):
        np.subtract(canvas[:, :, 2 - i], mean[i], out=made[0, i])
        made[0, i] *= 1 / spread[i]
    return made


