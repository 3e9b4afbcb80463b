"""Where analyses are kept: a folder a film, named by the film's content."""

from __future__ import annotations

import fcntl
import hashlib
import os
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import msgspec

from caracal.core.analysis.model import VERSION, Analysis
from caracal.core.folders import cache_root
from caracal.core.work import CancelToken

SAMPLE_BYTES = 1 << 20
ASK_S = 0.1  # how often it is asked whether the other analysis is over
SAMPLES = 16  # with the size and both ends, enough to tell films apart without reading them whole


def content_key(path: Path) -> str:
    """A name made from the file's size and samples of its content, the same wherever it lies.

    The same for every version of Caracal: projects find their film by it.
    """
    size = path.stat().st_size
    digest = hashlib.blake2b(str(size).encode(), digest_size=16)
    with path.open("rb") as file:
        for i in range(SAMPLES):
            file.seek(max(0, (size - SAMPLE_BYTES) * i // (SAMPLES - 1)))
            digest.update(file.read(SAMPLE_BYTES))
    return digest.hexdigest()


class AnalysisStore:
    """One film's folder in the cache: the analysis and the proxy."""

    def __init__(self, key: str, root: Path | None = None) -> None:
        self.folder = (root or cache_root()) / key

    @property
    def proxy(self) -> Path:
        """The proxy's path."""
        return self.folder / "proxy.mp4"

    def load(self) -> Analysis | None:
        """The kept analysis, or None when there is none of this version."""
        try:
            data = (self.folder / "analysis.msgpack").read_bytes()
            kept = msgspec.msgpack.decode(data, type=Analysis)
        except (OSError, msgspec.MsgspecError):
            return None
        return kept if kept.version == VERSION and self.proxy.exists() else None

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

    def save(self, analysis: Analysis) -> None:
        """Keep ``analysis``; it appears whole or not at all."""
        self.folder.mkdir(parents=True, exist_ok=True)
        part = self.folder / "analysis.msgpack.part"
        part.write_bytes(msgspec.msgpack.encode(analysis))
        part.replace(self.folder / "analysis.msgpack")
