"""Files in the making: ``final name.token.part``, locked by the process that makes them."""

from __future__ import annotations

import fcntl
import glob
import os
from contextlib import suppress
from pathlib import Path

TOKEN = "[0-9a-f]" * 8


def is_being_made(final: Path) -> bool:
    """Whether a process is making ``final``; what one has left that is gone is removed."""
    parts = final.parent.glob(f"{glob.escape(final.name)}.{TOKEN}.part")
    locked = [_is_locked(part) for part in parts]
    return any(locked)


def remove_left_parts(folder: Path) -> None:
    """Remove from ``folder`` what processes that are gone have left half-made."""
    for part in folder.glob(f"*.{TOKEN}.part"):
        _is_locked(part)


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
