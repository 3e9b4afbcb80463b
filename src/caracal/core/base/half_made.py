"""Files in the making: ``final name.token.part``, locked by the process that makes them.

A process creates and locks such a file while it holds the folder's lock. Removing leftovers needs
that lock, too: a file that is created but not locked yet is nobody's leftover.
"""

from __future__ import annotations

import fcntl
import glob
import os
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

TOKEN = "[0-9a-f]" * 8
POLL_S = 0.02


def is_being_made(final: Path) -> bool:
    """Whether a process is making ``final``; what one has left that is gone is removed."""
    parts = final.parent.glob(f"{glob.escape(final.name)}.{TOKEN}.part")
    locked = [_is_locked(part) for part in parts]
    return any(locked)


def remove_left_parts(folder: Path) -> None:
    """Remove from ``folder`` what processes that are gone have left half-made.

    Where another process keeps the folder locked it is left to that one, and to the next.
    """
    with suppress(OSError), folder_locked(folder, within_s=1.0) as ours:
        if ours:
            for part in folder.glob(f"*.{TOKEN}.part"):
                _is_locked(part)


@contextmanager
def folder_locked(folder: Path, within_s: float) -> Iterator[bool]:
    """The lock under which names in ``folder`` are chosen: whether it is ours after ``within_s``.

    It is held for a moment only; a process that was stopped (SIGSTOP) may hold it for ever. On a
    file system without locks it is ours. Raises OSError when the folder cannot be opened.
    """
    lock = os.open(folder, os.O_RDONLY)
    try:
        until = time.monotonic() + within_s
        while (ours := _try_lock(lock)) is False and time.monotonic() < until:
            time.sleep(POLL_S)
        yield ours
    finally:
        os.close(lock)


def _try_lock(opened: int) -> bool:
    try:
        fcntl.flock(opened, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return False
    except OSError:  # a file system without locks
        return True
    return True


def _is_locked(part: Path) -> bool:
    """Whether ``part`` is locked; it is removed if it is not. Links are neither."""
    if part.is_symlink() or not part.is_file():
        return False
    with suppress(OSError):
        lock = os.open(part, os.O_RDONLY | os.O_NOFOLLOW)
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            part.unlink(missing_ok=True)
        except BlockingIOError:
            return True
        finally:
            os.close(lock)
    return False
