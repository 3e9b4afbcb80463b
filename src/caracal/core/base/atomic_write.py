"""Every file of ours is written here: its name holds the old content or the new, never a part.

New content goes into a file with a random name in the same folder. That file is created
exclusively, so nothing is ever written through a link, and flushed to the disk before it takes the
name. A link that stands at the name is replaced; the file it points to stays as it is.
"""

from __future__ import annotations

import errno
import os
import secrets
import stat
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import BinaryIO

from caracal.core.base.errors import missing, storage_error

NEW_FILE = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW | os.O_CLOEXEC
COPIED_BYTES = 1 << 20  # at a time
MOST_NAME_BYTES = 255  # of a name on ext4, XFS, Btrfs and most others


def part_name(path: Path) -> Path:
    """A name beside ``path`` that nothing has, for its content while that is written."""
    ending = f".{secrets.token_hex(4)}.part"
    name = os.fsencode(path.name)[: MOST_NAME_BYTES - len(ending)]
    return path.with_name(os.fsdecode(name) + ending)


@contextmanager
def new_content(path: Path, make_folder: bool = False) -> Iterator[BinaryIO]:
    """A file to write the new content of ``path`` into; it takes the name when the block ends.

    When the block raises, ``path`` stays as it was. ``make_folder`` makes a missing folder. Raises
    StorageError when the place cannot be written.
    """
    part = part_name(path)
    try:
        if make_folder:
            path.parent.mkdir(parents=True, exist_ok=True)
        with os.fdopen(os.open(part, NEW_FILE, 0o666), "wb") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        part.replace(path)
        _sync_folder(path.parent)
    except OSError as problem:
        raise storage_error(path, problem) from problem
    finally:
        with suppress(OSError):
            part.unlink(missing_ok=True)


def _sync_folder(folder: Path) -> None:
    """Flush the new name to the disk, where the file system can do that."""
    with suppress(OSError):
        opened = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
        try:
            os.fsync(opened)
        finally:
            os.close(opened)


def write_bytes(path: Path, data: bytes, make_folder: bool = False) -> None:
    """Let ``path`` hold ``data``. Raises StorageError, as :func:`new_content` does."""
    with new_content(path, make_folder) as file:
        file.write(data)


def write_text(path: Path, text: str, make_folder: bool = False) -> None:
    """Let ``path`` hold ``text`` in UTF-8. Raises StorageError, as :func:`new_content` does."""
    write_bytes(path, text.encode("utf-8"), make_folder)


def copy_file(
    source: Path, path: Path, keep_times: bool = False, check: Callable[[], None] = lambda: None
) -> None:
    """Let ``path`` hold what ``source`` holds. Raises StorageError, as :func:`new_content` does.

    ``keep_times``: the copy has the permissions and times of ``source``. ``check`` is called again
    and again, and may raise to stop.
    """
    try:
        given = source.open("rb")
    except FileNotFoundError as problem:
        raise missing(source) from problem
    with given, new_content(path) as file:
        while data := given.read(COPIED_BYTES):
            check()
            file.write(data)
        if keep_times:
            file.flush()
            found = os.fstat(given.fileno())
            os.fchmod(file.fileno(), stat.S_IMODE(found.st_mode))
            os.utime(file.fileno(), ns=(found.st_atime_ns, found.st_mtime_ns))


def open_own(path: Path, flags: int) -> int:
    """A descriptor of a file of ours that is changed in place: a log, a lock, a cache.

    It is created when it is missing. Raises OSError (ELOOP) when a link stands at its name, a hard
    link to another file included: what is written would go into that file.
    """
    descriptor = os.open(path, flags | os.O_CREAT | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC,
                         0o666)
    found = os.fstat(descriptor)
    if not stat.S_ISREG(found.st_mode) or found.st_nlink != 1:
        os.close(descriptor)
        raise OSError(errno.ELOOP, os.strerror(errno.ELOOP), str(path))
    return descriptor


def read_own(path: Path) -> bytes:
    """The bytes of a file of ours. Raises OSError, also for anything but a regular file: reading a
    pipe would never end.
    """
    with open_to_read(path) as file:
        return file.read()


def open_to_read(path: Path) -> BinaryIO:
    """A file of ours, opened to be read. Raises OSError, as :func:`read_own` does."""
    descriptor = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    if not stat.S_ISREG(os.fstat(descriptor).st_mode):
        os.close(descriptor)
        raise OSError(errno.EINVAL, os.strerror(errno.EINVAL), str(path))
    return os.fdopen(descriptor, "rb")
