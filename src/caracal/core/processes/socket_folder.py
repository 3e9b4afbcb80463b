"""The folder for the socket of a process's fork server, removed also after the process was killed.

A process that ends normally removes its own folder. One that is killed cannot, but the kernel
releases its lock: the next process to start removes all folders that are not locked.
"""

from __future__ import annotations

import fcntl
import os
import shutil
import tempfile
from multiprocessing.util import Finalize
from pathlib import Path

PREFIX = "caracal-run-"
MOST_BYTES = 107  # of a socket's name: unix(7), sun_path without its last byte
NAME_BYTES = len(f"/{PREFIX}12345678/listener-12345678")  # what is added to the folder's
SHORT = "/tmp"  # where TMPDIR is too long for that
LOCK = "lock"
LAST = -100  # after all else that is done at a process's end, as in the standard library


def make_socket_folder() -> str:
    """A new folder, locked until this process ends. Folders that are not locked are removed."""
    remove_left_folders()
    folder = tempfile.mkdtemp(prefix=PREFIX, dir=_place())
    fresh = os.path.join(folder, "fresh")  # noqa: PTH118 - the standard library wants text
    lock = os.open(fresh, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
    fcntl.flock(lock, fcntl.LOCK_EX)  # never closed: the kernel does that
    os.rename(fresh, os.path.join(folder, LOCK))  # noqa: PTH104, PTH118 - held before it is seen
    Finalize(None, shutil.rmtree, args=(folder, True), exitpriority=LAST)
    return folder


def remove_left_folders() -> None:
    """Remove the folders of processes that were killed."""
    for folder in Path(_place()).glob(f"{PREFIX}*"):
        try:
            lock = os.open(folder / LOCK, os.O_RDWR | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
        except OSError:
            continue  # somebody else's, or one that is just being made
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
            shutil.rmtree(folder, ignore_errors=True)
        except OSError:
            continue  # its process is there
        finally:
            os.close(lock)


def _place() -> str:
    usual = tempfile.gettempdir()
    return usual if len(os.fsencode(usual)) + NAME_BYTES <= MOST_BYTES else SHORT
