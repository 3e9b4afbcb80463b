"""Paths from and to data: checked here, once, whoever wrote the data."""

from __future__ import annotations

import os
import stat
from collections.abc import Iterable
from pathlib import Path
from urllib.parse import unquote_to_bytes

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr

SCHEME = "file://"  # of a path that is no text: its bytes are escaped after RFC 8089


def text_of(path: Path | str) -> str:
    """``path`` as text that JSON and databases take; one that is not UTF-8 becomes a file URI."""
    text = str(path)
    try:
        text.encode("utf-8")
    except UnicodeEncodeError:
        return Path(path).absolute().as_uri()
    return text


def path_of(text: str) -> Path:
    """The path that :func:`text_of` gave as ``text``."""
    if not text.startswith(SCHEME):
        return Path(text)
    return Path(os.fsdecode(unquote_to_bytes(text.removeprefix(SCHEME))))


def readable_name(path: Path) -> str:
    """The name of ``path`` as text that can be written anywhere: bytes that are not UTF-8 become
    replacement characters."""
    return os.fsencode(path.name).decode("utf-8", "replace")


def same_file(path: Path, other: Path) -> bool:
    """Whether both are one file, by device and inode and through links."""
    try:
        return path.samefile(other)
    except OSError:
        return False


def changed_ns(path: Path) -> int:
    """When the file at ``path`` was changed, in nanoseconds; 0 where there is none."""
    try:
        found = path.stat()
    except (OSError, ValueError):  # also a name that is too long
        return 0
    return found.st_mtime_ns if stat.S_ISREG(found.st_mode) else 0


def refuse_inputs(target: Path, inputs: Iterable[Path]) -> None:
    """Raise InputError when writing ``target`` would write one of ``inputs``, whatever its name."""
    for path in inputs:
        if same_file(target, path):
            raise InputError(tr("{name} is the film or a file that the version uses, or a link to "
                                "one. It is never overwritten.",
                                name=target.name), target,
                             tr("Choose another folder or name pattern."))


def inside(folder: Path, name: str) -> Path:
    """The file called ``name`` in ``folder``; ``name`` was read from data.

    Raises InputError when it is not the name of a file right there.
    """
    path = folder / name
    if not name or path.name != name or path.parent != folder or name in (".", ".."):
        raise InputError(tr("“{name}” is not a file of this folder.", name=name), folder,
                         tr("The data that names it was changed: do not use it."))
    return path
