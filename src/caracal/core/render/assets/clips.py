"""Pictures of other films in a version: clips that move, and single frames that are held."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from collections.abc import Iterator
from pathlib import Path

from caracal.core.base.errors import InputError, missing
from caracal.core.base.paths import changed_ns
from caracal.core.base.resources import asset_file
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import tr
from caracal.core.layout.model import Clip, Still
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import Planes
from caracal.core.media.probe import probe

MOST_OPEN = 4  # clips whose decoders are kept, in each thread
AHEAD = 60  # frames up to which decoding on is quicker than seeking
ROUNDING = 1e-6  # of a frame: a moment that is a frame's first belongs to it

_kept = threading.local()


class ClipReader:
    """Reads frames of the film at ``path``; in their order each is decoded once."""

    def __init__(self, path: Path) -> None:
        """Raises InputError when the file is missing or no film."""
        if not path.exists():
            raise missing(path)
        self.master = probe(path)
        self._at = -1
        self._planes: Planes | None = None
        self._frames: Iterator[tuple[int, Planes]] = iter(())

    def planes(self, frame: int) -> Planes:
        """The picture ``frame``. Raises InputError when it cannot be read."""
        if frame == self._at and self._planes is not None:
            return self._planes
        if not 0 <= self._at < frame <= self._at + AHEAD:
            self._frames = frames(self.master, FrameRange(frame, self.master.frames))
        self._at = -1  # whatever goes wrong now, the next one is looked for anew
        for number, planes in self._frames:
            if number >= frame:
                self._at, self._planes = number, planes
                return planes
        raise InputError(tr("This clip ends early."), self.master.file,
                         tr("Copy or export it again."))


def frame_at(content: Clip | Still, moment_s: float, master: Master) -> int:
    """The frame of the film ``master`` that ``content`` shows; a clip, ``moment_s`` after whatever
    shows it began.
    """
    moment = content.moment_s if isinstance(content, Still) else content.start_s + moment_s
    number = max(0, math.floor(moment * float(master.rate) + ROUNDING))
    if isinstance(content, Clip) and content.loops:
        return number % master.frames
    return min(number, master.frames - 1)


def film_planes(content: Clip | Still, moment_s: float) -> Planes:
    """What ``content`` shows (see :func:`frame_at`). Raises InputError when it cannot be read."""
    reader = _reader(content)
    return reader.planes(frame_at(content, moment_s, reader.master))


def film_frame(path: str, frame: int) -> Planes:
    """Frame number ``frame`` of the film at ``path``. Raises InputError when it cannot be read."""
    return _reader(Still(path)).planes(frame)


def film_size(path: str) -> tuple[int, int]:
    """The width and height of the film at ``path`` as it is shown, upright, in square pixels."""
    master = _reader(Still(path)).master
    return master.width, master.height


def frame_at_moment(path: str, moment_s: float) -> int:
    """The frame of the film at ``path`` that is seen at ``moment_s``."""
    return frame_at(Still(path, moment_s), 0.0, _reader(Still(path)).master)


def _reader(content: Clip | Still) -> ClipReader:
    """The reader of ``content`` in this thread: two clips of one film each keep their place."""
    readers: OrderedDict[tuple[Clip | Still, int], ClipReader] = _kept.__dict__.setdefault(
        "readers", OrderedDict())
    path = asset_file(content.path)
    key = (content, changed_ns(path))
    if key not in readers:
        readers[key] = ClipReader(path)
        while len(readers) > MOST_OPEN:
            readers.popitem(last=False)
    readers.move_to_end(key)
    return readers[key]
