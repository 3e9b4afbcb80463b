"""Where analyses are kept: a folder a film, named by the film's content."""

from __future__ import annotations

import fcntl
import hashlib
import os
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import msgspec

from caracal.core.analysis.cache_limit import make_room, used
from caracal.core.analysis.model import VERSION, Analysis
from caracal.core.base.atomic_write import read_own, write_bytes
from caracal.core.base.decoding import DecodeError, sealed, unsealed
from caracal.core.base.errors import CaracalError
from caracal.core.base.folders import cache_root
from caracal.core.base.work import CancelToken
from caracal.core.media.av_errors import opened

ASK_S = 0.1  # how often it is asked whether the other analysis is over
WHOLE_BYTES = 64 << 20  # files of up to this size are read whole: a tenth of a second
SAMPLE_BYTES = 4096
SAMPLE_EVERY = 256 << 10  # bytes: a second of even a light film holds two samples
MOST_SAMPLES = 16384  # of a file; larger ones are sampled more thinly: 90 GB every 5 MB
END_BYTES = 1 << 20  # at both ends, where containers keep their index
OLD_SAMPLES = 16  # what keys were made of before
ANALYSIS, SOURCE = "analysis.msgpack", "source.msgpack"  # sealed: see core.decoding
SOLUTIONS = "solutions.sqlite"  # see core.plan.solution_store


def content_key(path: Path) -> str:
    """A name made from the file's size and its content, the same wherever it lies.

    Small files are read whole, large ones in so many samples that one replaced shot is noticed.
    """
    size = path.stat().st_size
    digest = hashlib.blake2b(f"2 {size}".encode(), digest_size=16)
    with path.open("rb") as file:
        if size <= WHOLE_BYTES:
            while data := file.read(END_BYTES):
                digest.update(data)
            return digest.hexdigest()
        digest.update(file.read(END_BYTES))
        count = min(MOST_SAMPLES, size // SAMPLE_EVERY)
        for i in range(count):
            file.seek(size * i // count)
            digest.update(file.read(SAMPLE_BYTES))
        file.seek(size - END_BYTES)
        digest.update(file.read(END_BYTES))
    return digest.hexdigest()


def old_content_key(path: Path) -> str:
    """The key that projects of format 3 and older have: sixteen samples."""
    size = path.stat().st_size
    digest = hashlib.blake2b(str(size).encode(), digest_size=16)
    with path.open("rb") as file:
        for i in range(OLD_SAMPLES):
            file.seek(max(0, (size - END_BYTES) * i // (OLD_SAMPLES - 1)))
            digest.update(file.read(END_BYTES))
    return digest.hexdigest()


class Source(msgspec.Struct, frozen=True):
    """The file that was analysed: its size, when it was changed last, and a digest of all of it."""

    size: int
    changed_ns: int
    digest: str

    @classmethod
    def of(cls, path: Path, cancel: CancelToken | None = None) -> Source:
        """What is true of ``path`` now; reads it whole. Raises Cancelled when stopped."""
        before = path.stat()
        digest = hashlib.blake2b(digest_size=16)
        with path.open("rb") as file:
            while data := file.read(END_BYTES):
                digest.update(data)
                if cancel is not None:
                    cancel.check()
        return cls(before.st_size, before.st_mtime_ns, digest.hexdigest())

    def is_still(self, path: Path) -> Source | None:
        """This, brought up to date, when ``path`` has the same content; None when it has not.

        A file of the same size that was not changed since is not read again; any other, whole.
        """
        now = path.stat()
        if (now.st_size, now.st_mtime_ns) == (self.size, self.changed_ns):
            return self
        again = Source.of(path) if now.st_size == self.size else None
        return again if again is not None and again.digest == self.digest else None


def _is_whole(proxy: Path, kept: Analysis) -> bool:
    """Whether the proxy opens and holds every frame: else it is made again."""
    try:
        if not proxy.stat().st_size:
            return False
        with opened(proxy) as container:
            return bool(container.streams.video) and (
                container.streams.video[0].frames == kept.master.frames)
    except (OSError, CaracalError):
        return False


class AnalysisStore:
    """One film's folder in the cache: the analysis and the proxy."""

    def __init__(self, key: str, root: Path | None = None) -> None:
        self.folder = (root or cache_root()) / key

    @property
    def proxy(self) -> Path:
        """Returns where the proxy lies."""
        return self.folder / "proxy.mp4"

    def load(self) -> Analysis | None:
        """The kept analysis, or None when there is none of this version."""
        try:
            kept = unsealed(read_own(self.folder / ANALYSIS), Analysis)
        except (OSError, DecodeError):
            return None
        return kept if kept.version == VERSION and _is_whole(self.proxy, kept) else None

    def load_for(self, path: Path) -> Analysis | None:
        """The kept analysis if it is one of the film at ``path``, as it is now."""
        kept = self.load()
        try:
            source = unsealed(read_own(self.folder / SOURCE), Source)
            same = None if kept is None else source.is_still(path)
        except (OSError, DecodeError):
            return None
        if same is not None and same != source:
            with suppress(OSError):  # a cache that cannot be written is as good to read
                self._write(SOURCE, same)
        if same is None:
            return None
        used(self.folder)
        return kept

    @contextmanager
    def alone(self, cancel: CancelToken) -> Iterator[None]:
        """Wait until nobody else analyses this film, in this process or another.

        Raises Cancelled when stopped meanwhile.
        """
        self.folder.mkdir(parents=True, exist_ok=True)
        folder = os.open(self.folder, os.O_RDONLY)  # the folder itself is locked: no file is left
        try:
            while True:
                cancel.check()
                try:
                    fcntl.flock(folder, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    break
                except BlockingIOError:
                    time.sleep(ASK_S)
            yield
        finally:
            os.close(folder)

    def forget(self) -> None:
        """Remove the kept analysis: it is of another film, or its proxy is damaged."""
        for name in (ANALYSIS, SOURCE, SOLUTIONS):
            (self.folder / name).unlink(missing_ok=True)
        self.proxy.unlink(missing_ok=True)

    def save(self, analysis: Analysis, source: Source) -> None:
        """Keep ``analysis`` of ``source``; it appears whole or not at all, and others make room."""
        self._write(SOURCE, source)
        self._write(ANALYSIS, analysis)
        make_room(root=self.folder.parent, keep=self.folder.name)

    def _write(self, name: str, value: object) -> None:
        write_bytes(self.folder / name, sealed(value), make_folder=True)
