"""Makes data/models/objects-int8.onnx from objects.onnx, as it ships.

    apt-get install opencv-doc && .venv/bin/python scripts/int8_model.py

Weights (by channel) and activations become 8-bit integers, but for the last layers, which say where
boxes end. Ranges are found by entropy from pictures that no benchmark looks at: photographs of
scikit-image and of Debian's opencv-doc, whole and in part, frames of its animated clip and of a
tree, and of its street after the part that benchmarks use.
"""

import tempfile
from pathlib import Path

import cv2
import numpy as np
import onnx
import onnxruntime
import skimage
from onnxruntime.quantization import (
    CalibrationDataReader,
    CalibrationMethod,
    QuantFormat,
    QuantType,
    quantize_static,
)

from caracal.core.analysis.detectors.network import brightened, fit_inside, network_input
from caracal.core.analysis.detectors.objects import INPUT, MEAN, SPREAD
from caracal.core.base.resources import model, shipped

DEBIAN = Path("/usr/share/doc/opencv-doc/examples/data")
PHOTOGRAPHS = [*(Path(skimage.__file__).parent / "data" / name for name in (
    "astronaut.png", "chelsea.png", "coffee.png", "rocket.jpg", "motorcycle_left.png")),
    *(DEBIAN / name for name in (
        "basketball1.png", "basketball2.png", "messi5.jpg", "leuvenA.jpg",
        "building.jpg", "fruits.jpg", "home.jpg", "butterfly.jpg"))]
CLIPS = (("Megamind.avi", 0, 12), ("tree.avi", 0, 24), ("vtest.avi", 300, 24))  # first, and step
TAKEN = 3  # every third: entropy needs all of them in memory at once


class Pictures(CalibrationDataReader):
    """Hands out the detector's input for one calibration picture after another."""

    def __init__(self) -> None:
        parts = [part for whole in (*photographs(), *clip_frames(*CLIPS[0]))
                 for part in parts_of(whole)]
        rest = [frame for clip in CLIPS[1:] for frame in clip_frames(*clip)]
        self._inputs = iter([input_of(picture) for picture in (*parts, *rest)[::TAKEN]])

    def get_next(self) -> dict[str, np.ndarray] | None:
        """The next input by name; None after the last."""
        return next(self._inputs, None)


def photographs() -> list[np.ndarray]:
    """All calibration photographs, (h, w, 3) uint8 RGB."""
    return [np.asarray(cv2.imread(str(path))[:, :, ::-1]) for path in PHOTOGRAPHS]


def clip_frames(name: str, first: int, step: int) -> list[np.ndarray]:
    """Every so many frames of a clip, (h, w, 3) uint8 RGB."""
    capture, frames = cv2.VideoCapture(str(DEBIAN / name)), []
    while (got := capture.read())[0]:
        frames.append(np.asarray(got[1][:, :, ::-1]))
    return frames[first::step]


def parts_of(picture: np.ndarray) -> list[np.ndarray]:
    """``picture`` whole, mirrored, and its middle enlarged: things in two sizes."""
    height, width = picture.shape[:2]
    middle = picture[height // 4 : height * 3 // 4, width // 4 : width * 3 // 4]
    return [picture, picture[:, ::-1], middle]


def input_of(picture: np.ndarray) -> dict[str, np.ndarray]:
    """``picture`` as the detector hands it to the model."""
    canvas, _ = fit_inside(brightened(np.ascontiguousarray(picture)), *INPUT)
    return {"image": network_input(canvas, MEAN, SPREAD)}


def main() -> None:
    """Fold the model's constants, calibrate, and write the model beside its source."""
    with tempfile.TemporaryDirectory() as folder:
        folded = Path(folder) / "folded.onnx"
        options = onnxruntime.SessionOptions()
        options.graph_optimization_level = onnxruntime.GraphOptimizationLevel.ORT_ENABLE_BASIC
        options.optimized_model_filepath = str(folded)
        onnxruntime.InferenceSession(str(model("objects.onnx")), options,
                                     providers=["CPUExecutionProvider"])
        nodes = onnx.load(folded).graph.node
        split = {name for node in nodes if node.op_type == "Split" for name in node.input}
        last = [node.name for node in nodes if node.op_type == "Conv" and node.output[0] in split]
        quantize_static(
            folded, shipped("models", "objects-int8.onnx"), Pictures(),
            quant_format=QuantFormat.QDQ, op_types_to_quantize=["Conv", "LeakyRelu"],
            per_channel=True, activation_type=QuantType.QUInt8, weight_type=QuantType.QInt8,
            calibrate_method=CalibrationMethod.Entropy, nodes_to_exclude=last)


if __name__ == "__main__":
    main()
