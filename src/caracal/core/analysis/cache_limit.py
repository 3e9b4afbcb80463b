"""How much analyses of films take, and making room: those that were used longest ago go first."""

from __future__ import annotations

import fcntl
import os
import re
import shutil
from contextlib import ExitStack, suppress
from dataclasses import dataclass
from pathlib import Path

from caracal.core.base.folders import cache_root

MOST_BYTES = 20 * 10**9  # of all analyses together
LOCK = "in-use.lock"  # in a film's folder, of those who show the film
NAME = re.compile(r"[0-9a-f]{32}")  # of a film's folder: its content key


@dataclass(frozen=True)
class KeptFilm:
    """The folder of one film's analysis, how many bytes it takes, and when it was used last (s
    since 1970)."""

    folder: Path
    size_bytes: int
    used_s: float


def kept_films(root: Path | None = None) -> list[KeptFilm]:
    """All films whose analyses are kept below ``root``, those used longest ago first."""
    made = []
    with suppress(OSError):
        for folder in (root or cache_root()).iterdir():
            if NAME.fullmatch(folder.name) and folder.is_dir() and not folder.is_symlink():
                with suppress(OSError):
                    size = sum(path.lstat().st_size for path in folder.rglob("*")
                               if not path.is_dir())
                    made.append(KeptFilm(folder, size, folder.stat().st_mtime))
    return sorted(made, key=lambda kept: kept.used_s)


def used(folder: Path) -> None:
    """Somebody uses the analysis in ``folder`` now."""
    with suppress(OSError):  # a cache that cannot be written is as good to read
        os.utime(folder)


def make_room(most_bytes: int = MOST_BYTES, root: Path | None = None, keep: str = "") -> int:
    """Remove analyses until the rest takes no more than ``most_bytes``; returns how many went.

    One that is worked at or in use, and that of the film whose key is ``keep``, stay.
    """
    films, gone = kept_films(root), 0
    total = sum(kept.size_bytes for kept in films)
    for kept in films:
        if total <= most_bytes:
            break
        if kept.folder.name != keep and _removed(kept.folder):
            total, gone = total - kept.size_bytes, gone + 1
    return gone


class InUse:
    """Somebody shows the film whose analysis is in ``folder``: until this is closed it stays.

    A lock on a file in the folder says so, which the system gives back whenever a process ends.
    """

    def __init__(self, folder: Path) -> None:
        self._lock: int | None = None
        with suppress(OSError):  # a cache that cannot be written loses nothing to others either
            self._lock = os.open(folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW, 0o600)
            fcntl.flock(self._lock, fcntl.LOCK_SH | fcntl.LOCK_NB)

    def close(self) -> None:
        """Whoever needs room may remove the analysis now."""
        if self._lock is not None:
            os.close(self._lock)
            self._lock = None


def _removed(folder: Path) -> bool:
    """Whether ``folder`` was removed: not while somebody analyses its film, or shows it."""
    with ExitStack() as locks:
        try:
            for path in (folder, folder / LOCK):
                if path == folder or path.exists():
                    lock = os.open(path, os.O_RDONLY)
                    locks.callback(os.close, lock)
                    fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(folder)
        except OSError:
            return False
    return True
