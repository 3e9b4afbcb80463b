"""Patterns of files' names, such as ``{film} {sheet} {part}``: what they may hold."""

from __future__ import annotations

import string

from caracal.core.base.errors import InputError
from caracal.core.base.limits import MOST_PATTERN
from caracal.core.base.translation import tr

FIELDS = ("film", "version", "shape", "sheet", "part", "date", "time", "resolution")


def check_pattern(pattern: str) -> None:
    """Raise InputError when ``pattern`` has an unknown field or no field that tells files apart."""
    if len(pattern) > MOST_PATTERN:
        raise InputError(tr("A pattern can have at most {most_pattern} characters.",
                            most_pattern=MOST_PATTERN), remedy=tr("Shorten it."))
    if any(name in pattern for name in "/\\") or any(ord(name) < 32 for name in pattern):
        raise InputError(tr("The pattern “{pattern}” has a character that is not allowed in names.",
                            pattern=pattern),
                         remedy=tr("A pattern cannot contain / or \\: it names files, not "
                                   "folders."))
    try:
        parsed = list(string.Formatter().parse(pattern))
    except ValueError as problem:
        raise InputError(tr("The pattern “{pattern}” has an unmatched brace.", pattern=pattern),
                         remedy=tr("Write fields as {film}.")) from problem
    used = [name for _, name, _, _ in parsed if name is not None]
    if any(form or turned for _, _, form, turned in parsed):
        raise InputError(tr("The braces of the pattern “{pattern}” may hold a field name only.",
                            pattern=pattern), remedy=tr("Write fields as {film}, without a "
                                                        "format."))
    unknown = [name for name in used if name not in FIELDS]
    if unknown:
        raise InputError(tr("A name has no field {{{unknown}}}.", unknown=unknown[0]),
                         remedy=tr("There are: {fields}.", fields=", ".join(FIELDS)))
    if not used:
        raise InputError(tr("The pattern “{pattern}” gives every file the same name.",
                            pattern=pattern),
                         remedy=tr("Use {film} and {sheet}, for instance."))
