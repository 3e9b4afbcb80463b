"""Which pixels of a picture belong to a person, by the selfie segmentation network (Apache-2.0; see
data/models/README.md).
"""

from __future__ import annotations

import functools

import cv2
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.errors import InstallError
from caracal.core.base.geometry import Box
from caracal.core.base.resources import model
from caracal.core.base.translation import tr
from caracal.core.media.planes import Plane, Planes

SIDE = 256  # pixels of the network's picture, and of its answer, both ways
Matte = NDArray[np.uint8]  # (SIDE, SIDE): 0 is certainly background, 255 certainly a person
FROM_YUV = np.array([[1.164384, 0.0, 1.792741], [1.164384, -0.213249, -0.532909],
                     [1.164384, 2.112402, 0.0]], np.float32)  # BT.709, limited range


def matte_in(planes: Planes, region: Box) -> Matte:
    """Where in ``region`` (upright pixels of ``planes``) there is a person.

    Raises InstallError when the network is missing or damaged.
    """
    rgb = _rgb(planes, region)
    network = _network()
    network.setInput(np.ascontiguousarray(rgb.transpose(2, 0, 1)[None]))
    answer = np.asarray(network.forward(), np.float32).reshape(SIDE, SIDE)
    return np.asarray(np.rint(np.clip(answer, 0, 1) * 255), np.uint8)


def _rgb(planes: Planes, region: Box) -> NDArray[np.float32]:
    """``region`` as red, green and blue (SIDE, SIDE, 3), 0..1."""
    x, y, width, height = region
    x, width = x / planes.pixel_aspect, width / planes.pixel_aspect
    parts = [_part(plane, (x / step, y / step, width / step, height / step))
             for plane, step in zip((planes.y, planes.u, planes.v), (1, 2, 2), strict=True)]
    yuv = np.dstack(parts).astype(np.float32) - np.array((16, 128, 128), np.float32)
    return np.asarray(np.clip(yuv @ FROM_YUV.T / 255, 0, 1), np.float32)


def _part(plane: Plane, box: Box) -> Plane:
    left, top = max(0, round(box[0])), max(0, round(box[1]))
    part = plane[top : max(top + 2, round(box[1] + box[3])),
                 left : max(left + 2, round(box[0] + box[2]))]
    return np.asarray(cv2.resize(np.ascontiguousarray(part), (SIDE, SIDE),
                                 interpolation=cv2.INTER_AREA), np.uint8)


@functools.lru_cache(1)
def _network() -> cv2.dnn.Net:
    path = model("person.tflite")
    try:
        return cv2.dnn.readNetFromTFLite(str(path))
    except cv2.error as problem:
        raise InstallError(tr("The model {name} cannot be loaded.", name=path.name), path,
                           tr("Install Caracal again.")) from problem
