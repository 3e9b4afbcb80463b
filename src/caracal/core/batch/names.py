"""Names of files from a pattern, such as ``{film} {sheet} {part}``, fit for every file system."""

from __future__ import annotations

import re
import string
import unicodedata
from datetime import datetime
from pathlib import Path

import msgspec
from pathvalidate import sanitize_filename

from caracal.core.errors import InputError
from caracal.core.limits import MOST_PATTERN
from caracal.core.specs.sheet import SpecSheet

MOST_BYTES = 200  # of a name: file systems take 255, and .part, numbers and suffixes come on top
FIELDS = ("film", "version", "shape", "sheet", "part", "date", "time", "resolution")


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


def check_pattern(pattern: str) -> None:
    """Raise InputError when ``pattern`` has an unknown field or no field that tells files apart."""
    if len(pattern) > MOST_PATTERN:
        raise InputError(f"A pattern of names has {MOST_PATTERN} characters at the most.",
                         remedy="Shorten it.")
    if any(one in pattern for one in "/\\") or any(ord(one) < 32 for one in pattern):
        raise InputError(f"The pattern “{pattern}” has a character that no name can have.",
                         remedy="A pattern names files, not folders: leave / and \\ out.")
    try:
        parsed = list(string.Formatter().parse(pattern))
    except ValueError as problem:
        raise InputError(f"The pattern “{pattern}” has an odd brace.",
                         remedy="Write fields as {film}.") from problem
    used = [name for _, name, _, _ in parsed if name is not None]
    if any(form or turned for _, _, form, turned in parsed):
        raise InputError(f"The pattern “{pattern}” has more than a name in its braces.",
                         remedy="Write fields as {film}, without a form.")
    unknown = [one for one in used if one not in FIELDS]
    if unknown:
        raise InputError(f"A name has no field {{{unknown[0]}}}.",
                         remedy=f"There are: {', '.join(FIELDS)}.")
    if not used:
        raise InputError(f"The pattern “{pattern}” names every file alike.",
                         remedy="Use {film} and {sheet}, for instance.")


def name_of(pattern: str, one: Named) -> str:
    """The file's name without suffix. A part that the pattern leaves out stands at the end.

    Characters that some file system refuses become dashes (pathvalidate, for all systems).
    Raises InputError for a pattern that is none.
    """
    check_pattern(pattern)
    if one.part and "{part}" not in pattern:
        pattern += " {part}"
    made = pattern.format(**{key: _plain(value) for key, value in one.fields().items()})
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
