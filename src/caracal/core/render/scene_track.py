"""The scenes of frames in a row, kept in columns."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence
from itertools import groupby
from typing import TypeVar

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.geometry import Box
from caracal.core.framing.choice import Finish
from caracal.core.layout.model import Canvas, FileContent, Layout
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.redaction import Redaction
from caracal.core.render.builder import Surroundings, build_scene
from caracal.core.render.dissolves import Dissolve
from caracal.core.render.scene import Scene
from caracal.core.render.shown_shots import ShownFrame
from caracal.core.specs.sheet import SpecSheet

T = TypeVar("T")
Runs = tuple[tuple[int, T], ...]  # what holds from a frame on, in order
Held = tuple[Layout, int]  # a card's layout, and how many frames it is shown


class SceneTrack(msgspec.Struct, frozen=True):
    """The scenes of frames in a row, kept in columns: an hour of them is sent to a process at once.

    ``overlays`` lie over the scenes of those frames of the film that they name; ``numbers`` (int64)
    says which frame of the film each scene is, and ``rate`` how many of them are a second, where
    anything goes by that: overlays, and clips in layouts.
    ``windows`` holds what framing found (x, y, width, height; float64) for every frame, a window
    for each of ``crops`` panes; a layout with fewer uses the first ones.
    ``finishes`` and ``layouts`` hold from their frame on. ``picture`` is the master's active
    picture. ``zones``: the sheet whose zones are drawn over it, if any. ``scale`` is that of every
    scene. ``dissolves`` say where one range goes on beneath the next, ``redactions`` what of the
    master is covered.
    """

    canvas: Canvas
    windows: bytes
    finishes: Runs[Finish]
    layouts: Runs[Layout]
    picture: Box
    crops: int = 1
    zones: SpecSheet | None = None
    scale: float = 1.0
    overlays: tuple[Overlay, ...] = ()
    numbers: bytes = b""
    rate: float = 1.0
    dissolves: tuple[Dissolve, ...] = ()
    redactions: tuple[Redaction, ...] = ()

    @classmethod
    def of(
        cls, canvas: Canvas, windows: NDArray[np.float64], finishes: Sequence[Finish],
        layouts: Sequence[Layout], picture: Box, zones: SpecSheet | None = None,
    ) -> SceneTrack:
        """A track from windows (frames, crops, 4), a finish and a layout for every frame."""
        return cls(canvas, windows.tobytes(), _runs(finishes), _runs(layouts), picture,
                   windows.shape[1], zones)

    def __len__(self) -> int:
        return len(self.windows) // (self.crops * 4 * 8)

    @property
    def files(self) -> tuple[str, ...]:
        """The files that pictures of the scenes come from, beside the master."""
        contents = [pane.content for _, layout in self.layouts for pane in layout.panes]
        contents += [overlay.content for overlay in self.overlays]  # type: ignore[misc]
        return tuple(dict.fromkeys(
            content.path for content in contents if isinstance(content, FileContent)))

    def window_array(self) -> NDArray[np.float64]:
        """The windows (frames, crops, 4)."""
        return np.frombuffer(self.windows, np.float64).reshape(-1, self.crops, 4)

    def scene(self, frame: int) -> Scene:
        """The scene of ``frame``, counted from the track's first."""
        windows = [(x, y, w, h) for x, y, w, h in self.window_array()[frame].tolist()]
        number = int(np.frombuffer(self.numbers, np.int64)[frame]) if self.numbers else 0
        outgoing = [found for dissolve in self.dissolves
                    if (found := dissolve.outgoing(number)) is not None]
        return build_scene(
            ShownFrame(_at(self.layouts, frame), windows, _at(self.finishes, frame)), number,
            Surroundings(self.picture, self.rate, self.overlays, self.redactions, self.zones),
            self.canvas, outgoing, self.scale)

    def select(self, frames: Sequence[int] | NDArray[np.int64]) -> SceneTrack:
        """The scenes of ``frames``, in that order, as a track of their own."""
        wanted = np.asarray(frames)
        part = SceneTrack.of(
            self.canvas, self.window_array()[wanted],
            _picked(self.finishes, wanted), _picked(self.layouts, wanted), self.picture, self.zones)
        numbers = np.frombuffer(self.numbers, np.int64)[wanted].tobytes() if self.numbers else b""
        return msgspec.structs.replace(part, scale=self.scale, overlays=self.overlays,
                                       numbers=numbers, rate=self.rate, dissolves=self.dissolves,
                                       redactions=self.redactions)

    def with_cards(self, opening: Held | None, closing: Held | None) -> SceneTrack:
        """The scenes of a file whose first or last ones are those of a card: its layout, and how
        many they are. Their numbers lead up to the film's, and go on after them.
        """
        if opening is None and closing is None:
            return self
        layouts = _picked(self.layouts, np.arange(len(self)))
        numbers = np.frombuffer(self.numbers, np.int64).copy() if self.numbers else None
        if opening is not None:
            layouts[: opening[1]] = [opening[0]] * opening[1]
            if numbers is not None:
                numbers[: opening[1]] -= np.arange(opening[1], 0, -1)
        if closing is not None:
            layouts[-closing[1] :] = [closing[0]] * closing[1]
            if numbers is not None:
                numbers[-closing[1] :] += np.arange(1, closing[1] + 1)
        return msgspec.structs.replace(self, layouts=_runs(layouts),
                                       numbers=b"" if numbers is None else numbers.tobytes())

    def with_overlays(
        self, overlays: tuple[Overlay, ...], rate: float, moving: bool = False,
        dissolves: tuple[Dissolve, ...] = (), redactions: tuple[Redaction, ...] = (),
    ) -> SceneTrack:
        """The scenes of a whole film, of ``rate`` frames a second, with ``overlays`` over them,
        ``dissolves`` in it, and ``redactions`` in its pictures.

        ``moving``: the layout of a card beside them moves by itself.
        """
        moving = moving or bool(overlays or dissolves or redactions) or any(
            layout.moving for _, layout in self.layouts)
        numbers = np.arange(len(self), dtype=np.int64).tobytes() if moving else b""
        return msgspec.structs.replace(self, overlays=overlays, numbers=numbers, rate=rate,
                                       dissolves=dissolves, redactions=redactions)

    def scaled(self, canvas: Canvas) -> SceneTrack:
        """The same scenes on a canvas of another size: for a screen, or a trial."""
        scale = self.scale * canvas[0] / self.canvas[0]
        return msgspec.structs.replace(self, canvas=canvas, scale=scale)


def _runs(values: Sequence[T]) -> Runs[T]:
    made, at = [], 0
    for value, group in groupby(values):
        made.append((at, value))
        at += sum(1 for _ in group)
    return tuple(made)


def _at(runs: Runs[T], frame: int) -> T:
    return runs[bisect_right(runs, frame, key=lambda run: run[0]) - 1][1]


def _picked(runs: Runs[T], frames: NDArray[np.int64]) -> list[T]:
    """What holds at each of ``frames``, of which there may be as many as an hour has."""
    found = np.searchsorted([at for at, _ in runs], frames, side="right") - 1
    return [runs[run][1] for run in found.tolist()]
