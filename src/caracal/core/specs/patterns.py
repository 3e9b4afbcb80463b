"""Patterns of files' names, such as ``{film} {sheet} {part}``: what they may hold."""

from __future__ import annotations

import string

from caracal.core.errors import InputError
from caracal.core.limits import MOST_PATTERN

FIELDS = ("film", "version", "shape", "sheet", "part", "date", "time", "resolution")


def check_pattern(pattern: str) -> None:
    """Raise InputError when ``pattern`` has an unknown field or no field that tells files apart."""
    if len(pattern) > MOST_PATTERN:
        raise InputError(f"A pattern of names has {MOST_PATTERN} characters at the most.",
                         remedy="Shorten it.")
    if any(name in pattern for name in "/\\") or any(ord(name) < 32 for name in pattern):
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
    unknown = [name for name in used if name not in FIELDS]
    if unknown:
        raise InputError(f"A name has no field {{{unknown[0]}}}.",
                         remedy=f"There are: {', '.join(FIELDS)}.")
    if not used:
        raise InputError(f"The pattern “{pattern}” names every file alike.",
                         remedy="Use {film} and {sheet}, for instance.")
