"""Only one process at a time works off a batch list."""

from __future__ import annotations

import fcntl
import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from caracal.core.errors import storage_error


@contextmanager
def worked_by_us(path: Path) -> Iterator[bool]:
    """Whether this process may work off the list in ``path``: one process at a time does."""
    lock = path.with_name(f"{path.name}.lock")
    while True:
        try:
            file = os.open(lock, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW, 0o666)
        except OSError as problem:
            raise storage_error(path.parent, problem) from problem
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(file)
            yield False
            return
        if _is_at(file, lock):
            break
        os.close(file)  # whoever had it removed it meanwhile: another one counts now
    try:
        yield True
    finally:
        os.close(file)


def _is_at(file: int, path: Path) -> bool:
    try:
        return os.path.samestat(os.fstat(file), path.stat())
    except OSError:
        return False
