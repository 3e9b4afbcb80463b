"""Layouts kept as files of their own: open TOML, taken by the command line and the window."""

from __future__ import annotations

from pathlib import Path

from caracal.core.base.errors import InputError
from caracal.core.base.geometry import FramingSpec
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.toml_text import from_toml, read_toml, toml_of, write_toml
from caracal.core.base.translation import tr
from caracal.core.layout.contradictions import layout_error
from caracal.core.layout.kinds import kind_called
from caracal.core.layout.model import (
    Layout,
)

SUFFIX = ".toml"


def read_layout(path: Path) -> Layout:
    """The layout in the file at ``path``. Raises InputError when there is none that can be."""
    return _possible(read_toml(path, Layout, "layout"), path)


def layout_text(layout: Layout) -> str:
    """``layout`` as the text of a file, for a clipboard."""
    return toml_of(layout)


def layout_in(text: str) -> Layout:
    """The layout in ``text``. Raises InputError when there is none that can be."""
    data = text.encode("utf-8", "replace")
    if len(data) > MOST_TEXT_BYTES:
        raise InputError(tr("This is not a layout: it is too long."),
                         remedy=tr("Copy one in Aim first."))
    return _possible(from_toml(data, Layout, "layout"), None)


def _possible(layout: Layout, path: Path | None) -> Layout:
    wrong = layout_error(layout)
    if wrong:
        raise InputError(tr("This layout is not valid: {wrong}.", wrong=wrong), path,
                         tr("Correct it, or choose another."))
    return layout


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
