"""Layouts kept as files of their own: open TOML, taken by the command line and the window."""

from __future__ import annotations

import tomllib
from pathlib import Path

import msgspec

from caracal.core.errors import InputError, storage_error
from caracal.core.geometry import FramingSpec
from caracal.core.layout.kinds import kind_called
from caracal.core.layout.model import Layout, contradiction
from caracal.core.limits import MOST_TEXT_BYTES
from caracal.core.reading_text import read_bounded, refuse_dots, refuse_nesting
from caracal.core.toml_text import toml_of

SUFFIX = ".toml"
WHAT = "layout"


def read_layout(path: Path) -> Layout:
    """The layout in the file at ``path``. Raises InputError when there is none that can be."""
    data = read_bounded(path, MOST_TEXT_BYTES, WHAT)
    refuse_nesting(data, path, WHAT)
    try:
        text = data.decode("utf-8")
        refuse_dots(text, path, WHAT)
        found = msgspec.convert(tomllib.loads(text), Layout)
    except (UnicodeDecodeError, tomllib.TOMLDecodeError, msgspec.ValidationError,
            RecursionError) as problem:
        raise InputError(f"This is no layout: {problem}.", path,
                         "Save one from the window, and change that.") from problem
    wrong = contradiction(found)
    if wrong:
        raise InputError(f"This layout cannot be: {wrong}.", path, "Mend it, or choose another.")
    return found


def write_layout(path: Path, layout: Layout) -> None:
    """Keep ``layout`` at ``path``, over what is there. Raises StorageError when it cannot be."""
    part = path.with_name(f"{path.name}.part")
    try:
        part.write_text(toml_of(layout), encoding="utf-8")
        part.replace(path)
    except OSError as problem:
        part.unlink(missing_ok=True)
        raise storage_error(path, problem) from problem


def layout_asked(name: str, frame: FramingSpec) -> Layout:
    """A layout by its name, for a version's ``frame``, or from a file.

    Raises InputError when there is neither.
    """
    if name.lower().endswith(SUFFIX):
        return read_layout(Path(name))
    return kind_called(name).make(frame)
