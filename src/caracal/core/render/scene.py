"""What each frame of a version is, as data: layers back to front, before any pixel is made."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import groupby

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.framing.choice import PLAIN, Finish
from caracal.core.geometry import Box
from caracal.core.specs.sheet import SpecSheet

Canvas = tuple[int, int]  # width, height in pixels; even


class PictureLayer(msgspec.Struct, frozen=True, tag="picture"):
    """A ``window`` of the master (upright master pixels) that fills the canvas, finished.

    The window has the canvas's shape (turned, where the picture is turned by a quarter).
    """

    window: Box
    finish: Finish = PLAIN


class ZonesLayer(msgspec.Struct, frozen=True, tag="zones"):
    """The destination's covers and safe areas, drawn over the picture of a review copy."""

    sheet: SpecSheet


Layer = PictureLayer | ZonesLayer


class Scene(msgspec.Struct, frozen=True):
    """One frame: its canvas, and what lies on it from back to front.

    ``scale`` is how large the canvas is beside the one of the file, which what is measured in
    pixels of the file goes by: 1 in the file itself, less on a screen.
    """

    canvas: Canvas
    layers: tuple[Layer, ...]
    scale: float = 1.0

    def from_source(self, across: float, down: float) -> Scene:
        """The same scene made from pictures that are so many times the master's width and height.
        """
        def seen(layer: Layer) -> Layer:
            if not isinstance(layer, PictureLayer):
                return layer
            x, y, w, h = layer.window
            return msgspec.structs.replace(
                layer, window=(x * across, y * down, w * across, h * down))

        return msgspec.structs.replace(self, layers=tuple(seen(layer) for layer in self.layers))


class SceneTrack(msgspec.Struct, frozen=True):
    """The scenes of frames in a row, kept in columns: an hour of them is sent to a process at once.

    ``windows`` holds a window (x, y, width, height; float64) for every frame; ``finishes`` hold
    from their frame on. ``zones``: the sheet whose zones are drawn over it, if any. ``scale``
    is that of every scene.
    """

    canvas: Canvas
    windows: bytes
    finishes: tuple[tuple[int, Finish], ...]
    zones: SpecSheet | None = None
    scale: float = 1.0

    @classmethod
    def of(
        cls, canvas: Canvas, windows: NDArray[np.float64], finishes: Sequence[Finish],
        zones: SpecSheet | None = None,
    ) -> SceneTrack:
        """A track from a window (frames, 4) and a finish for every frame."""
        made, at = [], 0
        for finish, group in groupby(finishes):
            made.append((at, finish))
            at += sum(1 for _ in group)
        return cls(canvas, windows.tobytes(), tuple(made), zones)

    def __len__(self) -> int:
        return len(self.windows) // (4 * 8)

    def window_array(self) -> NDArray[np.float64]:
        """The windows (frames, 4)."""
        return np.frombuffer(self.windows, np.float64).reshape(-1, 4)

    def finish_at(self, frame: int) -> Finish:
        """How the picture is finished at ``frame``."""
        return self.finishes[bisect_right([at for at, _ in self.finishes], frame) - 1][1]

    def scene(self, frame: int) -> Scene:
        """The scene of ``frame``, counted from the track's first."""
        x, y, w, h = (float(value) for value in self.window_array()[frame])
        picture = PictureLayer((x, y, w, h), self.finish_at(frame))
        return Scene(self.canvas, (picture,) if self.zones is None else (
            picture, ZonesLayer(self.zones)), self.scale)

    def at(self, frames: Sequence[int] | NDArray[np.int64]) -> SceneTrack:
        """The scenes of ``frames``, in that order, as a track of their own."""
        wanted = np.asarray(frames)
        runs = np.searchsorted([at for at, _ in self.finishes], wanted, side="right") - 1
        part = SceneTrack.of(self.canvas, self.window_array()[wanted],
                             [self.finishes[run][1] for run in runs], self.zones)
        return msgspec.structs.replace(part, scale=self.scale)

    def scaled(self, canvas: Canvas) -> SceneTrack:
        """The same scenes on a canvas of another size: for a screen, or a trial."""
        scale = self.scale * canvas[0] / self.canvas[0]
        return msgspec.structs.replace(self, canvas=canvas, scale=scale)
