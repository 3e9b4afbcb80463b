"""A window of the master on a canvas: sampled exactly, straightened, turned and sharpened."""

from __future__ import annotations

import math
from collections.abc import Callable

import cv2
import numpy as np

from caracal.core.base.geometry import Box, Shape, rotated_extent
from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.layout.model import Canvas
from caracal.core.media.planes import Picture, Plane, Planes
from caracal.core.render.painters.resample import resample

Siting = tuple[float, float]
Sample = Callable[[Plane, Box, Canvas], Plane]  # a part of a plane, brought to a size
# Where output chroma lies in its pair of luma pixels before the picture is turned clockwise by so
# many quarters, so that afterwards it lies as H.264 usually has it: left, and between the rows.
SITINGS: tuple[Siting, ...] = ((0.0, 0.5), (0.5, 1.0), (1.0, 0.5), (0.5, 0.0))
SPARE = 4  # canvas pixels round a leaning window: what the cubic kernel reaches, and rounding
SHARPEN_SIGMA = 1.2  # pixels of the file: what enlarging by about two blurs
OVERSHOOT = 0.08  # of an edge's height: more is seen as a seam (common practice: 5 to 10 %)
REACH_SIGMAS = 2.0  # how far an edge is looked for on both sides
BLACK, WHITE = np.uint8(16), np.uint8(235)  # luma in limited range: ITU-R BT.709
SHARPEN_MOST = 1.5  # of the difference to the blurred picture, at sharpen 1


def filled(
    planes: Planes, window: Box, canvas: Canvas, finish: Finish = PLAIN, scale: float = 1.0,
    sample: Sample = resample,
) -> Picture:
    """Planes of the canvas (width, height; even) showing ``window`` (upright pixels of ``planes``).

    ``scale`` is the canvas's beside that of the file (see Scene); ``sample`` is how it is sampled.
    """
    lying = canvas if finish.quarter_turns % 2 == 0 else (canvas[1], canvas[0])
    siting = SITINGS[finish.quarter_turns % 4]
    if finish.straighten:
        made = _leaning(planes, window, lying, siting, finish.straighten, sample)
    else:
        made = _upright(planes, window, lying, siting, sample)
    if finish.quarter_turns % 4:
        turned = (np.ascontiguousarray(np.rot90(plane, -finish.quarter_turns)) for plane in made)
        made = next(turned), next(turned), next(turned)
    if finish.sharpen:
        made = _sharpened(made[0], finish.sharpen, scale), made[1], made[2]
    return made


def _upright(
    planes: Planes, window: Box, canvas: Canvas, siting: Siting, sample: Sample
) -> Picture:
    """Luma and chroma, each at its own siting.

    Chroma sample i of the master lies at luma place 2 i + siting; the window is moved so that
    output chroma lands on its own siting.
    """
    x, y, w, h = window
    x, w = x / planes.pixel_aspect, w / planes.pixel_aspect
    luma = sample(planes.y, (x, y, w, h), canvas)
    half = (canvas[0] // 2, canvas[1] // 2)
    sx, sy = w / canvas[0], h / canvas[1]
    # A chroma sample's middle is at (2 i + siting + 0.5) in the edge-based places of luma.
    left = (x + (siting[0] - 0.5) * sx + 0.5 - planes.siting[0]) / 2
    top = (y + (siting[1] - 0.5) * sy + 0.5 - planes.siting[1]) / 2
    part = (left, top, w / 2, h / 2)
    return luma, sample(planes.u, part, half), sample(planes.v, part, half)


def _leaning(
    planes: Planes, window: Box, canvas: Canvas, siting: Siting, degrees: float, sample: Sample
) -> Picture:
    """The window leaning anticlockwise by ``degrees``: its picture turned clockwise.

    The upright rectangle round it is brought to the canvas's scale first, which is where aliasing
    would happen, and turned there, without a change of size.
    """
    x, y, w, h = window
    across, down = rotated_extent(Shape.of(*canvas), degrees)
    wide = 2 * math.ceil(canvas[0] * across / 2 + SPARE)
    high = 2 * math.ceil(canvas[1] * down / 2 + SPARE)
    bound_w, bound_h = w * wide / canvas[0], h * high / canvas[1]
    round_it = (x + (w - bound_w) / 2, y + (h - bound_h) / 2, bound_w, bound_h)
    luma, u, v = _upright(planes, round_it, (wide, high), siting, sample)
    half = (canvas[0] // 2, canvas[1] // 2)
    shift = (siting[0] - 0.5) / 2, (siting[1] - 0.5) / 2  # of chroma samples from their middle
    return (_turned(luma, canvas, degrees, (0.0, 0.0)), _turned(u, half, degrees, shift),
            _turned(v, half, degrees, shift))


def _turned(plane: Plane, size: Canvas, degrees: float, shift: Siting) -> Plane:
    """``plane`` turned clockwise by ``degrees`` about its middle, cut to ``size``.

    ``shift`` is how far its samples lie from where plain ones would, in samples.
    """
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    at_x, at_y = size[0] / 2 - 0.5 - shift[0], size[1] / 2 - 0.5 - shift[1]
    from_x = plane.shape[1] / 2 - 0.5 - shift[0]
    from_y = plane.shape[0] / 2 - 0.5 - shift[1]
    # Output to input: turning the picture clockwise looks each sample up anticlockwise.
    inverse = np.array([[cos, sin, from_x - cos * at_x - sin * at_y],
                        [-sin, cos, from_y + sin * at_x - cos * at_y]])
    made = cv2.warpAffine(plane, inverse, size, flags=cv2.INTER_CUBIC | cv2.WARP_INVERSE_MAP,
                          borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(made, np.uint8)


def _sharpened(luma: Plane, amount: float, scale: float) -> Plane:
    """Luma with its fine detail made stronger: unsharp masking (common practice).

    Edges get no seam: they go beyond what lies on their sides by OVERSHOOT of their height at the
    most, and never out of the range of video unless they were.
    """
    blurred = cv2.GaussianBlur(luma, (0, 0), SHARPEN_SIGMA * scale)
    by = amount * SHARPEN_MOST
    sharp = cv2.addWeighted(luma, 1 + by, blurred, -by, 0)
    reach = 2 * max(1, round(REACH_SIGMAS * SHARPEN_SIGMA * scale)) + 1
    near = np.ones((reach, reach), np.uint8)
    low, high = cv2.erode(luma, near), cv2.dilate(luma, near)
    beyond = cv2.convertScaleAbs(cv2.subtract(high, low), alpha=OVERSHOOT)
    least = np.maximum(cv2.subtract(low, beyond), np.minimum(low, BLACK))
    most = np.minimum(cv2.add(high, beyond), np.maximum(high, WHITE))
    return np.asarray(np.clip(sharp, least, most), np.uint8)
