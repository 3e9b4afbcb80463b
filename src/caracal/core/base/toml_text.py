"""Frozen values as TOML files: read within limits, written whole or not at all."""

from __future__ import annotations

import tomllib
from pathlib import Path
from typing import Any, TypeVar

import msgspec
import tomli_w

from caracal.core.base.atomic_write import write_text
from caracal.core.base.decoding import DecodeError, convert
from caracal.core.base.errors import InputError
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.reading_text import read_bounded, refuse_dots, refuse_nesting
from caracal.core.base.translation import tr

T = TypeVar("T")


def toml_of(value: object) -> str:
    """A struct or its builtins as TOML, without what is None: TOML has no word for it."""
    return tomli_w.dumps(_without_nothing(msgspec.to_builtins(value)))


def read_toml(path: Path, kind: type[T], what: str) -> T:
    """The ``kind`` of struct in the file at ``path``; ``what`` it is called in a sentence.

    Raises InputError when it is none.
    """
    return from_toml(read_bounded(path, MOST_TEXT_BYTES, what), kind, what, path)


def from_toml(data: bytes, kind: type[T], what: str, path: Path | None = None) -> T:
    """The ``kind`` of struct in ``data``, which came from the file at ``path``, if from any;
    ``what`` it is called in a sentence. Raises InputError when it is none.
    """
    refuse_nesting(data, path, what)
    try:
        text = data.decode("utf-8")
        refuse_dots(text, path, what)
        return convert(tomllib.loads(text), kind)
    except (UnicodeDecodeError, tomllib.TOMLDecodeError, DecodeError, RecursionError) as problem:
        raise InputError(tr("This is not a {what}: {problem}.", what=what, problem=problem), path,
                         tr("Save one from the window, and edit that.")) from problem


def write_toml(path: Path, value: object) -> None:
    """Keep ``value`` at ``path``, over what is there. Raises StorageError when it cannot be."""
    write_text(path, toml_of(value))


def _without_nothing(data: object) -> Any:
    if isinstance(data, dict):
        return {key: _without_nothing(value) for key, value in data.items() if value is not None}
    return [_without_nothing(item) for item in data] if isinstance(data, list | tuple) else data
