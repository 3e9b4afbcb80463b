"""Solutions that were worked out before, kept with the analysis of their film.

Solving the shots of two hours in three versions takes minutes, reading one solution a millisecond.
"""

from __future__ import annotations

import hashlib
import sqlite3
import zlib
from contextlib import suppress
from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from caracal.core import analysis, base, framing, layout, media, specs, text
from caracal.core.analysis.cache import SOLUTIONS, AnalysisStore
from caracal.core.base.decoding import FAILURES
from caracal.core.base.translation import languages
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.framing.shot_solution import Lost, ShotSolution
from caracal.core.plan.analysis_source import AnalysisSource
from caracal.core.specs.sheet import SpecSheet

MOST_BYTES = 128 << 20  # two hours in three versions take 30 MB
DIGEST_BYTES = 16
WAIT_S = 0.2  # for another window that writes
TABLE = "create table if not exists solutions (key blob primary key, value blob) without rowid"


def solution_key(
    source: AnalysisSource, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion,
    drawn: dict[int, Lost],
) -> bytes:
    """A digest of all that the solution of a shot follows from, this program's own code included.
    """
    asked = (_program(), languages(), _source_digest(source), shot, sheet, choice, motion,
             sorted(drawn.items()))
    return _digest(msgspec.msgpack.encode(asked))


def _source_digest(source: AnalysisSource) -> bytes:
    return _digest(msgspec.msgpack.encode(
        (source.content_key, source.fingerprint, source.master.frame_rate, source.starts,
         source.drawn, source.sound)))


@cache
def _program() -> bytes:
    """A digest of the code that solves: solutions of another version of it are not used."""
    digest = hashlib.blake2b(digest_size=DIGEST_BYTES)
    for room in (analysis, base, framing, layout, media, specs, text):
        for file in sorted(Path(room.__path__[0]).rglob("*.py")):
            digest.update(file.read_bytes())
    return digest.digest()


def _digest(data: bytes) -> bytes:
    return hashlib.blake2b(data, digest_size=DIGEST_BYTES).digest()


class SolutionStore:
    """Keeps solutions of one film by their keys; for one thread.

    It is optional: where it cannot be read or written, shots are solved again.
    """

    def __init__(self, content_key: str) -> None:
        folder = AnalysisStore(content_key).folder
        self._file = folder / SOLUTIONS
        self._data: sqlite3.Connection | None = None
        if folder.is_dir():
            with suppress(OSError, sqlite3.Error):
                self._open()

    def _open(self) -> None:
        if self._file.is_symlink():
            self._file.unlink()  # nothing of ours is written through a link
        if self._file.exists() and self._file.stat().st_size > MOST_BYTES:
            self._file.unlink()  # old choices, for the most part
        data = sqlite3.connect(self._file, WAIT_S, isolation_level=None)
        try:
            data.execute("pragma synchronous=off")  # what a power cut damages is left out
            data.execute(TABLE)
        except sqlite3.OperationalError:
            data.close()  # a read-only disk
            raise
        except sqlite3.DatabaseError:
            data.close()
            self._file.unlink()  # damaged: it is made again the next time
            raise
        self._data = data

    def get(self, key: bytes) -> ShotSolution | None:
        """The solution that was kept under ``key``; None when there is none that is whole."""
        if self._data is None:
            return None
        try:
            row = self._data.execute("select value from solutions where key=?", (key,)).fetchone()
            return None if row is None else decode_solution(row[0])
        except (sqlite3.OperationalError, *FAILURES, zlib.error):
            pass  # locked by another window; or damaged: it is solved again, and takes its place
        except sqlite3.DatabaseError:
            self._give_up()
        return None

    def put(self, key: bytes, solution: ShotSolution) -> None:
        """Keep ``solution`` under ``key``."""
        if self._data is None:
            return
        try:
            self._data.execute("insert or replace into solutions values (?, ?)",
                               (key, encode_solution(solution)))
        except sqlite3.OperationalError:
            pass  # a full or read-only disk, or another window writes
        except sqlite3.DatabaseError:
            self._give_up()

    def _give_up(self) -> None:
        """The file is damaged: it is made again the next time."""
        self.close()
        with suppress(OSError):
            self._file.unlink()

    def close(self) -> None:
        """Let the file go."""
        if self._data is not None:
            self._data.close()
            self._data = None


def encode_solution(solution: ShotSolution) -> bytes:
    """``solution`` as bytes, behind a digest of them."""
    data = _encoder.encode(replace(solution, panes=solution.panes[1:]))  # the first is its path
    return _digest(data) + zlib.compress(data, 1)


def decode_solution(data: bytes) -> ShotSolution:
    """What :func:`encode_solution` gave. Raises one of FAILURES, or zlib.error."""
    plain = zlib.decompress(data[DIGEST_BYTES:])
    if _digest(plain) != data[:DIGEST_BYTES]:
        raise ValueError("its checksum is wrong")
    found = _decoder().decode(plain)
    return replace(found, panes=(found.path, *found.panes))


def _encode_array(value: object) -> Any:
    if isinstance(value, np.ndarray):
        return value.dtype.str, value.shape, value.tobytes()
    if isinstance(value, np.generic):
        return value.item()
    raise TypeError(type(value))


def _decode_array(_: object, value: Any) -> Any:
    kind, shape, data = value
    return np.frombuffer(data, kind).reshape(shape)


_encoder = msgspec.msgpack.Encoder(enc_hook=_encode_array)


@cache
def _decoder() -> msgspec.msgpack.Decoder[ShotSolution]:
    return msgspec.msgpack.Decoder(ShotSolution, dec_hook=_decode_array)
