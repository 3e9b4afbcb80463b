"""Changes of a sheet that were not saved when the window was ended from outside."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

import msgspec

from caracal.core.atomic_write import write_bytes
from caracal.core.decoding import DecodeError, decode_json
from caracal.core.errors import CaracalError
from caracal.core.folders import state_root
from caracal.core.limits import MOST_TEXT_BYTES
from caracal.core.reading_text import read_bounded
from caracal.core.set_aside import set_aside
from caracal.core.specs.sheet import SpecSheet


def draft_file() -> Path:
    """Where the draft lies."""
    return state_root() / "sheet.json"


def keep_draft(sheet: SpecSheet) -> None:
    """Keep ``sheet``, also if it cannot be made yet. Raises StorageError."""
    write_bytes(draft_file(), msgspec.json.encode(sheet), make_folder=True)


def take_draft() -> SpecSheet | None:
    """The sheet that was kept, and no longer is from now on; what cannot be read is set aside."""
    path = draft_file()
    try:
        sheet = decode_json(read_bounded(path, MOST_TEXT_BYTES, "spec sheet"), SpecSheet)
    except DecodeError:
        set_aside(path)
        return None
    except CaracalError:
        return None
    with suppress(OSError):
        path.unlink()
    return sheet
