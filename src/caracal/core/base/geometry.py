"""Boxes, shapes and windows: what all rooms speak of. This module imports nothing of ours.

A window is (x, y, w, h) in master pixels; fractions stay fractions.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction

import msgspec

Box = tuple[float, float, float, float]  # x, y, width, height in master pixels


class Shape(msgspec.Struct, frozen=True):
    """A picture shape such as 9:16, in lowest terms."""

    across: int
    down: int

    def __str__(self) -> str:
        return f"{self.across}:{self.down}"

    @property
    def ratio(self) -> Fraction:
        """Returns the width over the height."""
        return Fraction(self.across, self.down)

    @classmethod
    def parse(cls, text: str) -> Shape:
        """Read ``9:16`` or ``9x16``; raises ValueError for anything else."""
        found = re.fullmatch(r"\s*(\d{1,5})\s*[:xX]\s*(\d{1,5})\s*", text)
        if not found or not int(found[1]) or not int(found[2]):
            raise ValueError(f"“{text}” is not a shape.")
        return cls.of(int(found[1]), int(found[2]))

    @classmethod
    def of(cls, width: int, height: int) -> Shape:
        """The shape of a picture of this size."""
        ratio = Fraction(width, height)
        return cls(ratio.numerator, ratio.denominator)


Region = tuple[tuple[float, float], tuple[float, float]]  # (left, right), (top, bottom) in shares


class FramingSpec(msgspec.Struct, frozen=True):
    """What framing must know of a version: its shape, its clear area, and its canvas.

    ``clear`` is a part of the canvas, or None for all of it. ``canvas`` (width, height) in pixels
    says how far the window may come closer by itself; None: not at all.
    """

    shape: Shape
    clear: Region | None = None
    canvas: tuple[int, int] | None = None

    def turned(self, quarter_turns: int) -> FramingSpec:
        """This frame as it lies in a master whose picture is turned clockwise to be shown."""
        if not quarter_turns % 4:
            return self
        shape, canvas = self.shape, self.canvas
        if quarter_turns % 2:
            shape = Shape(shape.down, shape.across)
            canvas = (canvas[1], canvas[0]) if canvas else None
        clear = region_in_window(self.clear, quarter_turns) if self.clear else None
        return FramingSpec(shape, clear, canvas)


def shared_area(a: Box, b: Box) -> float:
    """The area that two boxes share; 0 where they do not meet."""
    across = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    down = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    return max(0.0, across) * max(0.0, down)


def region_in_window(part: Region, quarter_turns: int) -> Region:
    """Where a part of the canvas lies in the window, before the picture is turned clockwise."""
    (left, right), (top, bottom) = part
    for _ in range(quarter_turns % 4):
        # Turning clockwise brings the window's left side to the top: right is 1 - top.
        (left, right), (top, bottom) = (top, bottom), (1 - right, 1 - left)
    return (left, right), (top, bottom)


def window_size(
    shape: Shape, active: Box, zoom: float = 1.0, degrees: float = 0.0
) -> tuple[float, float]:
    """Width and height of the window of ``shape`` in the active picture.

    At zoom 1 it is the largest rectangle of that shape: 607.5 x 1080 for 9:16 in 1920x1080; leaning
    by ``degrees``, the largest whose corners stay in the picture.
    """
    ratio = float(shape.ratio)
    across, down = rotated_extent(shape, degrees)
    width = min(active[2] / across, active[3] * ratio / down)
    return width / zoom, width / ratio / zoom


def rotated_extent(shape: Shape, degrees: float) -> tuple[float, float]:
    """How much more room a leaning window takes, along both axes, than an upright one; from 1."""
    ratio = float(shape.ratio)
    cos, sin = abs(math.cos(math.radians(degrees))), abs(math.sin(math.radians(degrees)))
    return cos + sin / ratio, cos + sin * ratio


def keep_inside(x: float, y: float, size: tuple[float, float], active: Box) -> Box:
    """The window of ``size`` nearest to (x, y) that stays in the active picture."""
    w, h = size
    left = min(max(x, active[0]), active[0] + active[2] - w)
    top = min(max(y, active[1]), active[1] + active[3] - h)
    return (left, top, w, h)


def enlargement(canvas: tuple[int, int], window: Box) -> float:
    """How many canvas pixels one master pixel becomes: 1.78 for 1080x1920 from 1080p."""
    return max(canvas[0] / window[2], canvas[1] / window[3])


def keeps(window: Box, box: Box, slack: float = 0.0) -> bool:
    """Whether the box lies inside the window or, along an axis where it is larger, covers it."""
    return all(
        _keeps_axis(window[i], window[i + 2], box[i], box[i + 2], slack) for i in (0, 1)
    )


def _keeps_axis(start: float, size: float, low: float, length: float, slack: float) -> bool:
    if length <= size:
        return start - slack <= low and low + length <= start + size + slack
    return low <= start + slack and start + size <= low + length + slack


def overlap(a: Box, b: Box) -> float:
    """Intersection over union of two boxes, 0..1."""
    wide = min(a[0] + a[2], b[0] + b[2]) - max(a[0], b[0])
    high = min(a[1] + a[3], b[1] + b[3]) - max(a[1], b[1])
    if wide <= 0 or high <= 0:
        return 0.0
    shared = wide * high
    return shared / (a[2] * a[3] + b[2] * b[3] - shared)
