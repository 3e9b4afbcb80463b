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
        raise InputError(tr("A pattern of names has {most_pattern} characters at the most.",
                            most_pattern=MOST_PATTERN), remedy=tr("Shorten it."))
    if any(name in pattern for name in "/\\") or any(ord(name) < 32 for name in pattern):
        raise InputError(tr("The pattern “{pattern}” has a character that no name can have.",
                            pattern=pattern),
                         remedy=tr("A pattern names files, not folders: leave / and \\ out."))
    try:
        parsed = list(string.Formatter().parse(pattern))
    except ValueError as problem:
        raise InputError(tr("The pattern “{pattern}” has an odd brace.", pattern=pattern),
                         remedy=tr("Write fields as {film}.")) from problem
    used = [name for _, name, _, _ in parsed if name is not None]
    if any(form or turned for _, _, form, turned in parsed):
        raise InputError(tr("The pattern “{pattern}” has more than a name in its braces.",
                            pattern=pattern), remedy=tr("Write fields as {film}, without a form."))
    unknown = [name for name in used if name not in FIELDS]
    if unknown:
        raise InputError(tr("A name has no field {{{unknown}}}.", unknown=unknown[0]),
                         remedy=tr("There are: {fields}.", fields=", ".join(FIELDS)))
    if not used:
        raise InputError(tr("The pattern “{pattern}” names every file alike.", pattern=pattern),
                         remedy=tr("Use {film} and {sheet}, for instance."))
