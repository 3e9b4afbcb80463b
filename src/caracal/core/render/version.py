"""One frame of a version: the window's part of luma and chroma, each at its own siting."""

from __future__ import annotations

from caracal.core.analysis.model import Box
from caracal.core.media.planes import Plane, Planes
from caracal.core.render.resample import resample

OUT_SITING = (0.0, 0.5)  # H.264's usual left siting, in luma pixels


def compose(
    planes: Planes, window: Box, canvas: tuple[int, int]
) -> tuple[Plane, Plane, Plane]:
    """Planes of the canvas (width, height; even) showing ``window`` (upright master pixels).

    The layout is fill: the window has the canvas's shape. Chroma sample i of the master lies at
    luma place 2 i + siting; the window is moved so that output chroma lands on its own siting.
    """
    x, y, w, h = window
    x, w = x / planes.pixel_aspect, w / planes.pixel_aspect
    luma = resample(planes.y, (x, y, w, h), canvas)
    half = (canvas[0] // 2, canvas[1] // 2)
    sx, sy = w / canvas[0], h / canvas[1]
    # A chroma sample's middle is at (2 i + siting + 0.5) in the edge-based places of luma.
    left = (x + (OUT_SITING[0] - 0.5) * sx + 0.5 - planes.siting[0]) / 2
    top = (y + (OUT_SITING[1] - 0.5) * sy + 0.5 - planes.siting[1]) / 2
    part = (left, top, w / 2, h / 2)
    return luma, resample(planes.u, part, half), resample(planes.v, part, half)
