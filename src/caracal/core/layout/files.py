"""Layouts kept as files of their own: open TOML, taken by the command line and the window."""

from __future__ import annotations

from pathlib import Path

from caracal.core.errors import InputError
from caracal.core.geometry import FramingSpec
from caracal.core.layout.kinds import kind_called
from caracal.core.layout.model import Layout, contradiction
from caracal.core.toml_text import read_toml, write_toml

SUFFIX = ".toml"


def read_layout(path: Path) -> Layout:
    """The layout in the file at ``path``. Raises InputError when there is none that can be."""
    found = read_toml(path, Layout, "layout")
    wrong = contradiction(found)
    if wrong:
        raise InputError(f"This layout cannot be: {wrong}.", path, "Mend it, or choose another.")
    return found


def write_layout(path: Path, layout: Layout) -> None:
    """Keep ``layout`` at ``path``, over what is there. Raises StorageError when it cannot be."""
    write_toml(path, layout)


def layout_asked(name: str, frame: FramingSpec) -> Layout:
    """A layout by its name, for a version's ``frame``, or from a file.

    Raises InputError when there is neither.
    """
    if name.lower().endswith(SUFFIX):
        return read_layout(Path(name))
    return kind_called(name).make(frame)
