"""Names of files from a pattern, such as ``{film} {sheet} {part}``, fit for every file system."""

from __future__ import annotations

import re
import unicodedata
from datetime import datetime
from pathlib import Path

import msgspec
from pathvalidate import sanitize_filename

from caracal.core.specs.patterns import check_pattern
from caracal.core.specs.sheet import SpecSheet

MOST_BYTES = 200  # of a name: file systems take 255, and .part, numbers and suffixes come on top


class Named(msgspec.Struct, frozen=True):
    """What the fields of a pattern say. ``part`` is empty, or such as ``part 1 of 4``."""

    film: str
    version: str
    sheet: SpecSheet
    part: str
    moment: datetime

    def fields(self) -> dict[str, str]:
        """The words for each of FIELDS."""
        width, height = self.sheet.canvas
        return {
            "film": self.film, "version": self.version, "sheet": self.sheet.name,
            "shape": str(self.sheet.shape).replace(":", "x"), "part": self.part,
            "date": f"{self.moment:%Y-%m-%d}", "time": f"{self.moment:%H%M}",
            "resolution": f"{width}x{height}",
        }


def name_of(pattern: str, named: Named) -> str:
    """The file's name without suffix. A part that the pattern leaves out stands at the end.

    Characters that some file system refuses become dashes (pathvalidate, for all systems).
    Raises InputError for a pattern that is none.
    """
    check_pattern(pattern)
    if named.part and "{part}" not in pattern:
        pattern += " {part}"
    made = pattern.format(**{key: _plain(value) for key, value in named.fields().items()})
    made = re.sub(r"\s+", " ", unicodedata.normalize("NFC", made)).strip(" .-_")
    clean = sanitize_filename(made, replacement_text="-", platform="universal") or "film"
    while len(clean.encode()) > MOST_BYTES:
        clean = clean[:-1]
    return str(clean).strip(" .") or "film"


def _plain(value: str) -> str:
    return re.sub(r'[<>:"/\\|?*\x00-\x1f]', "-", value)


def free_path(folder: Path, stem: str, suffix: str, taken: set[Path]) -> Path:
    """A path in ``folder`` that no file and none of ``taken`` has: numbered, never replacing."""
    path = folder / f"{stem}.{suffix}"
    number = 2
    while path.exists() or path in taken:
        path = folder / f"{stem} {number}.{suffix}"
        number += 1
    return path
