"""The layers of a scene: a layout brought onto a canvas of pixels, around one window."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.geometry import Box
from caracal.core.layout.model import (
    Canvas,
    Crop,
    Layout,
    PlainBackdrop,
    SoftBackdrop,
    Target,
    WholePicture,
    target_of,
)
from caracal.core.specs.sheet import SpecSheet


class PictureLayer(msgspec.Struct, frozen=True, tag="picture"):
    """A ``window`` of the master (upright master pixels) that fills ``target``, finished.

    The window has the target's shape (turned, where the picture is turned by a quarter).
    """

    window: Box
    target: Target
    finish: Finish = PLAIN

    def from_source(self, across: float, down: float) -> PictureLayer:
        """The same, told in pixels of a source that is so many times the master's size."""
        return msgspec.structs.replace(self, window=_scaled(self.window, across, down))


class ColourLayer(msgspec.Struct, frozen=True, tag="colour"):
    """One colour (red, green, blue; 0..255, BT.709) all over ``target``."""

    rgb: tuple[int, int, int]
    target: Target

    def from_source(self, across: float, down: float) -> ColourLayer:
        """The same: it shows nothing of the source."""
        return self


class SoftLayer(msgspec.Struct, frozen=True, tag="soft"):
    """A ``window`` of the master all over ``target``, blurred and dimmed as its backdrop says."""

    window: Box
    target: Target
    backdrop: SoftBackdrop
    quarter_turns: int = 0

    def from_source(self, across: float, down: float) -> SoftLayer:
        """The same, told in pixels of a source that is so many times the master's size."""
        return msgspec.structs.replace(self, window=_scaled(self.window, across, down))


class ZonesLayer(msgspec.Struct, frozen=True, tag="zones"):
    """The destination's covers and safe areas, drawn over the picture of a review copy."""

    sheet: SpecSheet

    def from_source(self, across: float, down: float) -> ZonesLayer:
        """The same: it shows nothing of the source."""
        return self


Layer = PictureLayer | ColourLayer | SoftLayer | ZonesLayer


def layers_of(
    layout: Layout, canvas: Canvas, windows: Sequence[Box], picture: Box, finish: Finish
) -> tuple[Layer, ...]:
    """``layout`` on ``canvas``: its crops show ``windows`` in turn, all else is made of the active
    ``picture``.
    """
    made: list[Layer] = []
    crops = iter(windows)
    for pane in layout.panes:
        target = target_of(pane.region, canvas)
        match pane.content:
            case Crop():
                made.append(PictureLayer(next(crops), target, finish))
            case PlainBackdrop() as plain:
                made.append(ColourLayer(plain.rgb(), target))
            case SoftBackdrop() as soft:
                turned = finish.quarter_turns % 2
                shape = target[2:] if not turned else (target[3], target[2])
                made.append(SoftLayer(largest(picture, shape), target, soft, finish.quarter_turns))
            case WholePicture():
                # Leaning would cut its corners off, and it is to be seen whole.
                upright = Finish(finish.quarter_turns, 0.0, finish.sharpen)
                made.append(PictureLayer(picture, inside(picture, target, finish), upright))
    return tuple(made)


def inside(picture: Box, target: Target, finish: Finish = PLAIN) -> Target:
    """Where all of ``picture`` lies in the middle of ``target``, as large as it fits."""
    wide, high = picture[2:] if finish.quarter_turns % 2 == 0 else (picture[3], picture[2])
    scale = min(target[2] / wide, target[3] / high)
    width, height = (max(2, min(2 * round(side * scale / 2), most))
                     for side, most in ((wide, target[2]), (high, target[3])))
    return (target[0] + (target[2] - width) // 4 * 2, target[1] + (target[3] - height) // 4 * 2,
            width, height)


def largest(picture: Box, shape: tuple[int, int]) -> Box:
    """The largest window of the shape (width, height) in the middle of ``picture``."""
    width = min(picture[2], picture[3] * shape[0] / shape[1])
    height = width * shape[1] / shape[0]
    return (picture[0] + (picture[2] - width) / 2, picture[1] + (picture[3] - height) / 2, width,
            height)


def _scaled(box: Box, across: float, down: float) -> Box:
    return (box[0] * across, box[1] * down, box[2] * across, box[3] * down)
