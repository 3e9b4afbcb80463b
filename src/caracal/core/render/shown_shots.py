"""Shots, and frames of them, as a version shows them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from caracal.core.base.geometry import Box
from caracal.core.framing.choice import Finish
from caracal.core.framing.path import ShotPath
from caracal.core.layout.model import Canvas, Layout
from caracal.core.render.layers import PaneLayer, layers_of


class ShownShot(NamedTuple):
    """A shot as a version shows it: its number, its layout in place, the paths of its crops."""

    number: int
    layout: Layout
    paths: Sequence[ShotPath]


class ShownFrame(NamedTuple):
    """What a version shows of a frame: its layout in place, a window (x, y, width, height; master
    pixels) for each pane, how the picture is finished."""

    layout: Layout
    windows: Sequence[Box]
    finish: Finish

    def layers(self, canvas: Canvas, picture: Box, moment_s: float) -> tuple[PaneLayer, ...]:
        """Its layers at ``moment_s`` of the film; ``picture`` is the master's active picture."""
        return layers_of(self.layout, canvas, list(self.windows), picture, self.finish, moment_s)


def frame_of(layout: Layout, paths: Sequence[ShotPath], frame: int) -> ShownFrame:
    """``frame`` of a shot with its ``layout`` in place and the ``paths`` of its panes."""
    return ShownFrame(layout, [path.window(frame) for path in paths], paths[0].finish)
