"""Text files of strangers, read within limits: their size, their kind, and how deep they nest."""

from __future__ import annotations

import re
import stat
from pathlib import Path

from caracal.core.base.errors import InputError, missing
from caracal.core.base.limits import MOST_NESTING, MOST_TOML_DOTS, MOST_TOML_LINE
from caracal.core.base.translation import tr

STRINGS = re.compile(rb'"(?:[^"\\]|\\.)*"')


def read_bounded(path: Path, most_bytes: int, what: str) -> bytes:
    """The bytes of ``path``, a ``what`` (such as "spec sheet") of at most ``most_bytes``.

    Raises InputError when it is missing, no plain file, too large, or cannot be read.
    """
    try:
        found = path.stat()
        if not stat.S_ISREG(found.st_mode):
            raise InputError(tr("This is not a file.", what=what), path,
                             tr("Choose another file."))
        if found.st_size > most_bytes:
            raise InputError(tr("This file is too large for a {what} ({size:.0f} MB).",
                                what=what, size=found.st_size / 1e6), path,
                             tr("Choose another file."))
        with path.open("rb") as file:
            return file.read(most_bytes + 1)[:most_bytes]
    except FileNotFoundError as problem:
        raise missing(path) from problem
    except InputError:
        raise
    except (OSError, ValueError) as problem:
        raise InputError(tr("This {what} cannot be read.", what=what), path,
                         tr("Choose another file.")) from problem


def refuse_nesting(data: bytes, path: Path | None, what: str) -> None:
    """Raise InputError when brackets and braces in ``data`` nest too deeply to be read safely."""
    depth = deepest = 0
    for bracket in re.findall(rb"[\[{\]}]", STRINGS.sub(b"", data)):
        depth += 1 if bracket in b"[{" else -1
        deepest = max(deepest, depth)
    if deepest > MOST_NESTING:
        raise InputError(tr("This {what} nests {deepest} levels deep.", what=what, deepest=deepest),
                         path, tr("It is damaged or was made to do harm: choose another file."))


def refuse_dots(text: str, path: Path | None, what: str) -> None:
    """Raise InputError when a key of TOML ``text`` has too many dots: each is a level."""
    for number, line in enumerate(text.splitlines(), 1):
        key = line.partition("=")[0]
        if len(line) > MOST_TOML_LINE or key.count(".") > MOST_TOML_DOTS:
            raise InputError(tr("Line {number} of this {what} is too long or nests too deeply.",
                                number=number, what=what), path, tr("Correct that line."))
