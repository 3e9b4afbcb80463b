"""What is kept of an analysis that is not done, so that it can be gone on with.

One file, to which each shot is added when it has ended: a process that is killed loses nothing
but the shot at hand.
"""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import msgspec

from caracal.core.analysis.film_pass.builder import EndedShot
from caracal.core.analysis.model import VERSION, Boundary
from caracal.core.base.atomic_write import open_own, read_own, write_bytes
from caracal.core.base.decoding import DecodeError, sealed, unsealed
from caracal.core.media.proxy import growing_folder

SIZE_BYTES = 8  # before each record


class KeptShot(msgspec.Struct, frozen=True):
    """A shot that ended, the boundary at its end, and what was known of the bars by then."""

    ended: EndedShot
    edge: Boundary
    bars: tuple[bytes, bytes]


class Begun(msgspec.Struct, frozen=True):
    """Which film it is of: the file's size, and when it was changed last."""

    version: int
    size: int
    changed_ns: int


class Unfinished:
    """The analysis of the film at ``film`` whose proxy is to be ``proxy``, as far as it got."""

    def __init__(self, film: Path, proxy: Path) -> None:
        self._film, self._folder = film, growing_folder(proxy)
        self._path = self._folder / "shots"

    def begin(self) -> list[KeptShot]:
        """The shots that were kept, in order; none, and nothing else, if it is another film."""
        now = self._film.stat()
        begun = Begun(VERSION, now.st_size, now.st_mtime_ns)
        try:
            records = _records(read_own(self._path))
            if records and unsealed(records[0], Begun) == begun:
                kept = _readable(records[1:])
                self._write([begun, *kept])  # without what was cut off, or damaged
                return kept
        except (OSError, DecodeError):
            pass  # nothing was kept, or nothing that can be read
        self.forget()
        self._write([begun])
        return []

    def _write(self, values: list[Begun | KeptShot]) -> None:
        write_bytes(self._path, b"".join(_record(value) for value in values), make_folder=True)

    def keep(self, kept_shot: KeptShot) -> None:
        """Adds a shot that has ended to what is kept."""
        with os.fdopen(open_own(self._path, os.O_WRONLY | os.O_APPEND), "ab") as file:
            file.write(_record(kept_shot))

    def forget(self) -> None:
        """Keep nothing, the pieces of the proxy included."""
        shutil.rmtree(self._folder, ignore_errors=True)


def _record(value: Begun | KeptShot) -> bytes:
    data = sealed(value)
    return len(data).to_bytes(SIZE_BYTES, "little") + data


def _readable(records: list[bytes]) -> list[KeptShot]:
    """The shots in ``records`` up to the first that is damaged."""
    kept: list[KeptShot] = []
    for record in records:
        try:
            kept.append(unsealed(record, KeptShot))
        except DecodeError:
            break
    return kept


def _records(data: bytes) -> list[bytes]:
    """The records in ``data``, without a last one that is cut off."""
    found, at = [], 0
    while at + SIZE_BYTES <= len(data):
        size = int.from_bytes(data[at : at + SIZE_BYTES], "little")
        if at + SIZE_BYTES + size > len(data):
            break
        found.append(data[at + SIZE_BYTES : at + SIZE_BYTES + size])
        at += SIZE_BYTES + size
    return found
