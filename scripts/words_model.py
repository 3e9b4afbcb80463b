"""Makes data/models/words.onnx and reading.onnx, as they ship, from the detector and the recogniser
in the wheel rapidocr 3.10.0.

    pip install rapidocr==3.10.0 onnx
    .venv/bin/python scripts/words_model.py PP-OCRv6_det_small.onnx PP-OCRv6_rec_small.onnx

Some of their weights are too small to be normal floats, which a processor works through many times
more slowly, and are 0 to any result: they become 0. The others are kept in 16 bits and cast to 32
at load.
"""

import sys
from pathlib import Path

import numpy as np
import onnx
from onnx import helper, numpy_helper

from caracal.core.base.resources import shipped

LEAST_WEIGHTS = 16  # a tensor of fewer is kept as it is
NAMES = ("words.onnx", "reading.onnx")


def main() -> None:
    """Clean the models named on the command line."""
    for file, name in zip(sys.argv[1:], NAMES, strict=True):
        onnx.save(cleaned(onnx.load(Path(file))), shipped("models", name))


def cleaned(model: onnx.ModelProto) -> onnx.ModelProto:
    """``model`` with its weights in 16 bits."""
    casts = []
    for weights in model.graph.initializer:
        values = numpy_helper.to_array(weights)
        if weights.data_type != onnx.TensorProto.FLOAT or values.size < LEAST_WEIGHTS:
            continue
        values = np.where(np.abs(values) < np.finfo(np.float32).tiny, 0, values)
        name = weights.name
        weights.CopyFrom(numpy_helper.from_array(values.astype(np.float16), f"{name} in 16 bits"))
        casts.append(helper.make_node("Cast", [weights.name], [name], to=onnx.TensorProto.FLOAT))
    for node in reversed(casts):
        model.graph.node.insert(0, node)
    onnx.checker.check_model(model)
    return model


if __name__ == "__main__":
    main()
