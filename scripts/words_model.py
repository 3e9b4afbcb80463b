"""Makes data/models/words.onnx, as it ships, from the detector in the wheel rapidocr 3.10.0.

    pip install rapidocr==3.10.0 onnx && .venv/bin/python scripts/words_model.py MODEL.onnx

A third of its weights are too small to be normal floats, which a processor works through many
times more slowly, and are 0 to any result: they become 0. The others are kept in 16 bits and cast
to 32 at load.
"""

import sys
from pathlib import Path

import numpy as np
import onnx
from onnx import helper, numpy_helper

from caracal.core.resources import shipped

LEAST_WEIGHTS = 16  # a tensor of fewer is kept as it is


def main() -> None:
    """Clean the model named on the command line."""
    model = onnx.load(Path(sys.argv[1]))
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
    onnx.save(model, shipped("models", "words.onnx"))


if __name__ == "__main__":
    main()
