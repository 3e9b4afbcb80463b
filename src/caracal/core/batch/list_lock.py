"""Only one process at a time works off a batch list."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from filelock import FileLock, Timeout

from caracal.core.base.errors import storage_error


@contextmanager
def worked_by_us(path: Path) -> Iterator[bool]:
    """Whether this process may work off the list in ``path``: one process at a time does.

    Raises StorageError when its folder cannot be written.
    """
    lock = FileLock(path.with_name(f"{path.name}.lock"), timeout=0, mode=0o666, thread_local=False)
    try:
        lock.acquire()
    except Timeout:
        yield False
        return
    except OSError as problem:
        raise storage_error(path.parent, problem) from problem
    try:
        yield True
    finally:
        lock.release()
