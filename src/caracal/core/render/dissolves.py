"""How one range of a version dissolves into the next: what comes after the first one in the film
goes on beneath the beginning of the second, weaker from frame to frame.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.geometry import Box
from caracal.core.base.time import FrameRange
from caracal.core.framing.choice import Finish
from caracal.core.layout.model import Canvas, Layout
from caracal.core.render.layers import OutgoingLayer
from caracal.core.render.shown_shots import ShownFrame


class Outgoing(NamedTuple):
    """A ``frame`` of the film at ``path`` that goes on with a ``share`` of its strength."""

    path: str
    frame: int
    share: float
    shown: ShownFrame

    def layer(self, canvas: Canvas, picture: Box, rate: float) -> OutgoingLayer:
        """Its layer on a ``canvas``; ``rate`` is the film's, in frames a second."""
        return OutgoingLayer(self.path, self.frame, self.share,
                             self.shown.layers(canvas, picture, self.frame / rate))


class Dissolve(msgspec.Struct, frozen=True):
    """What of the film at ``path`` goes on over the range that begins with frame ``start``.

    ``frames`` are those of the film that go on over its first ones, as many; ``windows`` holds
    theirs (x, y, width, height; float64), one for each of ``crops`` panes of the ``layout``.
    """

    start: int
    path: str
    frames: tuple[int, ...]
    windows: bytes
    crops: int
    finish: Finish
    layout: Layout

    def outgoing(self, number: int) -> Outgoing | None:
        """What goes on at frame ``number`` of the film; None: nothing."""
        at = number - self.start
        if not 0 <= at < len(self.frames):
            return None
        windows = np.frombuffer(self.windows, np.float64).reshape(-1, self.crops, 4)[at]
        boxes = [(x, y, w, h) for x, y, w, h in windows.tolist()]
        return Outgoing(self.path, self.frames[at], share_left(len(self.frames), at),
                        ShownFrame(self.layout, boxes, self.finish))


def share_left(frames: int, at: int) -> float:
    """How strongly what goes on still shows at frame ``at`` of a dissolve of so many ``frames``."""
    return 1 - (at + 1) / (frames + 1)


def outgoing_frames(before: FrameRange, span: FrameRange, shot_end: int) -> tuple[int, ...]:
    """The frames of the film that go on, each at its pace, while ``span`` begins after ``before``;
    no further than the shot, which ends with ``shot_end``, and then its last one is held.
    """
    return tuple(min(before.end_exclusive + at * before.percent // span.percent, shot_end - 1)
                 for at in range(span.dissolve))


def dissolving(ranges: Sequence[FrameRange]) -> list[tuple[FrameRange, FrameRange]]:
    """Each range that dissolves in, after the one before it."""
    return [(before, span) for before, span in pairwise(ranges) if span.dissolve]


def dissolve(
    path: str, start: int, frames: tuple[int, ...], windows: NDArray[np.float64], finish: Finish,
    layout: Layout,
) -> Dissolve:
    """A dissolve with ``windows`` (frames of the film, crops, 4) of all of the film."""
    mine = windows[list(frames)]
    return Dissolve(start, path, frames, mine.tobytes(), mine.shape[1], finish, layout)


def outgoing_at(
    ranges: Sequence[FrameRange], number: int, path: str, shot_end: Callable[[int], int],
    shown_at: Callable[[int], ShownFrame],
) -> Outgoing | None:
    """What of the range before goes on at frame ``number`` of the film at ``path``; None: nothing.

    ``shot_end`` gives the end of the shot that a frame is in, ``shown_at`` what is shown of one.
    """
    for before, span in dissolving(ranges):
        at = number - span.start
        if 0 <= at < span.dissolve:
            frame = outgoing_frames(before, span, shot_end(before.end_exclusive - 1))[at]
            return Outgoing(path, frame, share_left(span.dissolve, at), shown_at(frame))
    return None
