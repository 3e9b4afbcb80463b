"""Mattes of a film's frames: where somebody is, steady over time, and how sure that is.

What the network says of a frame is kept in this process, and in a file beside the analyses, so that
a shot is looked through once. Over time the median of five frames is taken: it takes flicker away,
and leaves an edge that moves where it is.
"""

from __future__ import annotations

import hashlib
import os
import threading
from collections import OrderedDict
from contextlib import suppress
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from caracal.core.base.atomic_write import open_own, open_to_read
from caracal.core.base.folders import cache_root
from caracal.core.base.geometry import Box
from caracal.core.base.paths import changed_ns, path_of
from caracal.core.render.assets.clips import film_frame
from caracal.core.render.assets.segmentation import SIDE, Matte, matte_in

AROUND = 2  # frames before and after, of which the median is taken
DIGEST_BYTES = 8  # before each matte in a file
KEPT = 600  # mattes in memory: 40 MB
FORMAT = 2  # of the files that mattes are kept in
SURE = (64, 191)  # of 255: what lies between is neither person nor background
LEAST_SEEN = 0.02  # of the region: less is nobody
MOST_UNSURE = 0.3  # of the person's own area

_kept: OrderedDict[tuple[Path, int], Matte] = OrderedDict()  # by the file of the shot, and frame
_lock = threading.Lock()


def steady_matte(path: str, frame: int, region: Box, span: tuple[int, int]) -> Matte:
    """Where in ``region`` of ``frame`` of the film at ``path`` somebody is, (SIDE, SIDE) uint8.

    ``span`` are the frames [first, end) of its shot. Raises InputError when the film cannot be
    read, InstallError when the network is missing.
    """
    near = range(max(span[0], frame - AROUND), min(span[1], frame + AROUND + 1))
    mattes = [_matte(path, number, region, span) for number in near]
    return np.asarray(np.median(mattes, axis=0), np.uint8)


def doubt(matte: Matte) -> bool:
    """Whether it is unsure who is cut out in ``matte``: nobody, or much that is neither."""
    seen = float(np.mean(matte > SURE[1]))
    unsure = float(np.mean((matte > SURE[0]) & (matte <= SURE[1])))
    return seen < LEAST_SEEN or unsure > MOST_UNSURE * seen


def _matte(path: str, frame: int, region: Box, span: tuple[int, int]) -> Matte:
    file = _file(path, region, span)
    key = (file, frame)
    with _lock:
        if key in _kept:
            _kept.move_to_end(key)
            return _kept[key]
    made = _read(file, frame - span[0])
    if made is None:
        made = matte_in(film_frame(path, frame), region)
        _write(file, frame - span[0], made, span[1] - span[0])
    with _lock:
        _kept[key] = made
        while len(_kept) > KEPT:
            _kept.popitem(last=False)
    return made


def _file(path: str, region: Box, span: tuple[int, int]) -> Path:
    """Where the mattes of a shot are kept: named by the film as it is now, and the region."""
    said = f"{FORMAT} {path} {changed_ns(path_of(path))} {region} {span}"
    name = hashlib.blake2b(said.encode("utf-8", "surrogatepass"), digest_size=16).hexdigest()
    return cache_root() / name / "mattes"


def _read(file: Path, number: int) -> Matte | None:
    """Matte ``number`` of ``file``; None if it is not there, or damaged.

    A digest before it says so: of a place that was never written it is wrong as well.
    """
    size = DIGEST_BYTES + SIDE * SIDE
    with suppress(OSError), open_to_read(file) as source:
        source.seek(number * size)
        data = source.read(size)
        if len(data) == size and data[:DIGEST_BYTES] == _digest(data[DIGEST_BYTES:]):
            return np.frombuffer(data, np.uint8, offset=DIGEST_BYTES).reshape(SIDE, SIDE)
    return None


def _digest(data: bytes) -> bytes:
    return hashlib.blake2b(data, digest_size=DIGEST_BYTES).digest()


def _write(file: Path, number: int, matte: NDArray[np.uint8], frames: int) -> None:
    """Keep ``matte``; where it cannot be kept it is made again another time."""
    size = DIGEST_BYTES + SIDE * SIDE
    with suppress(OSError):
        file.parent.mkdir(parents=True, exist_ok=True)
        data = matte.tobytes()
        with os.fdopen(open_own(file, os.O_RDWR), "r+b") as target:
            if os.fstat(target.fileno()).st_size != frames * size:
                target.truncate(frames * size)  # empty as yet: it takes no room
            target.seek(number * size)
            target.write(_digest(data) + data)
