"""What cannot be read is never removed: it gets another name, so that a new file can begin."""

from __future__ import annotations

import os
import time
from pathlib import Path

SIDECARS = ("-wal", "-shm")  # of a database: they belong to it


def set_aside(path: Path) -> Path | None:
    """Rename the file or folder at ``path``; where it is now.

    None: there is nothing, or the folder cannot be written, and all stays as it is.
    """
    moment = time.strftime("%Y-%m-%d %H%M%S")
    aside, number = path.with_name(f"{path.stem} unreadable {moment}{path.suffix}"), 2
    while os.path.lexists(aside):
        aside = path.with_name(f"{path.stem} unreadable {moment} {number}{path.suffix}")
        number += 1
    try:
        path.rename(aside)
        for sidecar in SIDECARS:
            beside = path.with_name(path.name + sidecar)
            if beside.exists():
                beside.rename(aside.with_name(aside.name + sidecar))
    except OSError:
        return None
    return aside
