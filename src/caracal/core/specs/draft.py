"""Changes of a sheet that were not saved when the window was ended from outside."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import msgspec

from caracal.core.base.atomic_write import write_bytes
from caracal.core.base.decoding import DecodeError, decode_json
from caracal.core.base.errors import CaracalError
from caracal.core.base.folders import state_root
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.paths import changed_ns
from caracal.core.base.reading_text import read_bounded
from caracal.core.base.set_aside import set_aside
from caracal.core.specs.sheet import SpecSheet

_taken: set[int] = set()  # drafts that a window has, by the time they were written


def draft_file() -> Path:
    """Where the draft lies."""
    return state_root() / "sheet.json"


def keep_draft(sheet: SpecSheet) -> None:
    """Keep ``sheet``, also if it cannot be made yet. Raises StorageError."""
    write_bytes(draft_file(), msgspec.json.encode(sheet), make_folder=True)


def take_draft() -> SpecSheet | None:
    """The sheet that was kept, for one window of this process: it stays kept until it is dropped.

    A draft that cannot be read is set aside.
    """
    path = draft_file()
    written_ns = changed_ns(path)
    if not written_ns or written_ns in _taken:
        return None
    _taken.add(written_ns)
    try:
        return decode_json(read_bounded(path, MOST_TEXT_BYTES, "spec sheet"), SpecSheet)
    except DecodeError:
        set_aside(path)
    except CaracalError:
        pass
    return None


def drop_draft() -> None:
    """Keep no draft: it was saved, or discarded."""
    with suppress(OSError):
        draft_file().unlink()
