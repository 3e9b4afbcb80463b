"""One file to make, as data: a process of its own can make it from this and the pictures."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.media.look import Master
from caracal.core.paths import path_of
from caracal.core.render.scene import SceneTrack
from caracal.core.sound.finished_sound import SoundPlan
from caracal.core.specs.sheet import SpecSheet
from caracal.core.timeline import Timeline


class FilePlan(msgspec.Struct, frozen=True):
    """Everything about one file to make; a process of its own can make it.

    ``wanted`` is the number of the version it belongs to. ``scenes`` are those of the joined frames
    of the timeline, ``places`` (int64) and ``shares`` (float64) what every frame of the file shows
    of them (see Timeline.sources). ``keys`` are the frames of the file that begin a shot and stand
    alone. ``sound`` None: the file has none. ``token`` makes the name of the half-made file
    its own.
    """

    master: Master
    sheet: SpecSheet
    wanted: int
    file: str
    replace: bool
    timeline: Timeline
    scenes: SceneTrack
    places: bytes
    shares: bytes
    sound: SoundPlan | None
    keys: tuple[int, ...] = ()
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

    def sources(self) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
        """Places and shares (frames,)."""
        return np.frombuffer(self.places, np.int64), np.frombuffer(self.shares, np.float64)

    def piece(self, start: int, end_exclusive: int) -> FilePlan:
        """The frames of the file from ``start`` to ``end_exclusive``, as a plan of their own."""
        places, shares = self.sources()
        mine, mixed = places[start:end_exclusive], shares[start:end_exclusive]
        first, last = int(mine[0]), int(mine[-1] + (mixed[-1] > 0))
        return msgspec.structs.replace(
            self, timeline=self.timeline.part(first, last + 1),
            scenes=self.scenes.at(range(first, last + 1)),
            places=(mine - first).tobytes(), shares=mixed.tobytes(),
            keys=tuple(key - start for key in self.keys if start <= key < end_exclusive))
