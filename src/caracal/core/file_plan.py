"""One file to make, as data: a process of its own can make it from this and the pictures."""

from __future__ import annotations

import functools
from bisect import bisect_right
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.framing.choice import Finish
from caracal.core.media.look import Master
from caracal.core.media.planes import Plane, Planes
from caracal.core.paths import path_of
from caracal.core.render.review import Overlay, review_overlay
from caracal.core.render.version import compose
from caracal.core.sound.finished_sound import SoundPlan
from caracal.core.specs.sheet import SpecSheet
from caracal.core.timeline import Timeline


@functools.lru_cache(1)
def _overlay(sheet: SpecSheet) -> Overlay:
    return review_overlay(sheet)


class FilePlan(msgspec.Struct, frozen=True):
    """Everything about one file to make; a process of its own can make it.

    ``wanted`` is the number of the version it belongs to. ``windows`` holds a window (x, y, width,
    height; float64) for every joined frame of the timeline, ``places`` (int64) and ``shares``
    (float64) what every frame of the file shows (see Timeline.sources). ``finishes`` hold from
    their place on. ``keys`` are the frames of the file that begin a shot and stand alone. ``sound``
    None: the file has none. A ``review`` copy shows the sheet's zones. ``token`` makes the name of
    the half-made file its own.
    """

    master: Master
    sheet: SpecSheet
    wanted: int
    file: str
    replace: bool
    timeline: Timeline
    windows: bytes
    places: bytes
    shares: bytes
    finishes: tuple[tuple[int, Finish], ...]
    sound: SoundPlan | None
    keys: tuple[int, ...] = ()
    review: bool = False
    token: str = ""

    @property
    def rate(self) -> Fraction:
        """Frames a second of the file."""
        return Fraction(self.timeline.rate)

    @property
    def part_file(self) -> Path:
        """What it is called while it is made."""
        path = path_of(self.file)
        return path.with_name(f"{path.name}.{self.token or 'new'}.part")

    def window_array(self) -> NDArray[np.float64]:
        """The windows (joined, 4)."""
        return np.frombuffer(self.windows, np.float64).reshape(-1, 4)

    def sources(self) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
        """Places and shares (frames,)."""
        return np.frombuffer(self.places, np.int64), np.frombuffer(self.shares, np.float64)

    def composed(self, place: int, planes: Planes) -> tuple[Plane, Plane, Plane]:
        """The canvas that shows the picture at ``place`` among the joined frames."""
        x, y, w, h = (float(value) for value in self.window_array()[place])
        begins = [at for at, _ in self.finishes]
        finish = self.finishes[bisect_right(begins, place) - 1][1]
        made = compose(planes, (x, y, w, h), self.sheet.canvas, finish)
        return _overlay(self.sheet).over(made) if self.review else made

    def piece(self, start: int, end_exclusive: int) -> FilePlan:
        """The frames of the file from ``start`` to ``end_exclusive``, as a plan of their own."""
        places, shares = self.sources()
        mine, mixed = places[start:end_exclusive], shares[start:end_exclusive]
        first, last = int(mine[0]), int(mine[-1] + (mixed[-1] > 0))
        finishes = [(max(at - first, 0), one) for at, one in self.finishes if at <= last]
        began = max(i for i, (at, _) in enumerate(finishes) if at == 0)
        return msgspec.structs.replace(
            self, timeline=self.timeline.part(first, last + 1),
            windows=self.window_array()[first : last + 1].tobytes(),
            places=(mine - first).tobytes(), shares=mixed.tobytes(),
            finishes=tuple(finishes[began:]),
            keys=tuple(key - start for key in self.keys if start <= key < end_exclusive))
