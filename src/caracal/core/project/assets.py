"""The files that a project is made with, beside its film: named, found again, gathered."""

from __future__ import annotations

import functools
import os
from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from itertools import chain, islice
from pathlib import Path
from typing import Any, TypeVar

import msgspec

from caracal.core.analysis.cache import content_key
from caracal.core.base.atomic_write import copy_file
from caracal.core.base.decoding import convert
from caracal.core.base.errors import InputError, missing, storage_error
from caracal.core.base.paths import inside, path_of, text_of
from caracal.core.base.resources import OURS
from caracal.core.base.translation import tr
from caracal.core.layout.added_sound import SoundFile
from caracal.core.layout.model import Clip, PictureFile, Still
from caracal.core.text.fonts import SHIPPED

TAGS = {kind.__struct_config__.tag for kind in (PictureFile, Clip, Still, SoundFile)}
MOST_SEARCHED = 4000  # files that are looked at for one that was moved
T = TypeVar("T")


class AssetReference(msgspec.Struct, frozen=True):
    """A file that a project is made with: where it was, how large it is, and what it contains."""

    path: str
    size_bytes: int
    content: str


def files_of(value: object) -> tuple[str, ...]:
    """The files that a project, a template or a part of one shows, without those that ship."""
    found = (each["path"] for each in _contents(msgspec.to_builtins(value, str_keys=True)))
    return tuple(dict.fromkeys(name for name in found if not name.startswith(OURS)))


def with_files_called(value: T, called: Callable[[str], str]) -> T:
    """``value`` with its files called otherwise; what ships keeps its name."""
    data = msgspec.to_builtins(value, str_keys=True)
    for content in _contents(data):
        if not content["path"].startswith(OURS):
            content["path"] = called(content["path"])
    return convert(data, type(value), strict=False)


def with_fonts_called(value: T, called: Callable[[str], str]) -> T:
    """``value`` with its fonts called otherwise, those that ship among them."""
    def renamed(data: Any, key: str = "") -> Any:
        if key == "colours":  # of a brand, which may be called anything
            return data
        if isinstance(data, dict):
            return {name: renamed(part, name) for name, part in data.items()}
        if isinstance(data, list | tuple):
            return [renamed(part, "font" if key == "fonts" else "") for part in data]
        return called(data) if key == "font" and isinstance(data, str) else data

    data = renamed(msgspec.to_builtins(value, str_keys=True))
    return convert(data, type(value), strict=False)


def with_files_beside(value: T, path: Path, older: bool = False) -> T:
    """``value``, as it was read from ``path``, with its files and fonts found beside that.

    ``older``: fonts may also lie elsewhere, as they did once. Raises InputError when a name is that
    of no file right there.
    """
    folder = path.absolute().parent

    def there(name: str) -> str:
        return str(inside(folder, name))

    def font(name: str) -> str:
        known = name in SHIPPED or (older and Path(name).is_absolute())
        return name if known else there(name)

    return with_fonts_called(with_files_called(value, there), font)


def with_copies_beside(value: T, path: Path) -> T:
    """``value`` as it is written to ``path``: with copies of its files and fonts beside that.

    Raises StorageError when one cannot be written, InputError when one is missing.
    """
    copies = Copies(path)
    return with_fonts_called(with_files_called(value, copies.beside),
                             lambda name: name if name in SHIPPED else copies.beside(name))


class Copies:
    """Copies of files beside a file at ``path``, called after it and numbered."""

    def __init__(self, path: Path) -> None:
        self._path, self._taken = path.absolute(), dict[str, str]()

    def beside(self, name: str) -> str:
        """What the copy of the file called ``name`` is called.

        Raises StorageError when it cannot be written, InputError when the file is missing.
        """
        if name not in self._taken:
            source = path_of(name)
            if not source.is_file():
                raise InputError(tr("This file is not there."), source, tr("Choose another."))
            self._taken[name] = self._copied(source).name
        return self._taken[name]

    def _copied(self, source: Path) -> Path:
        """A file beside, called after the path and numbered, with the content of ``source``.

        A file that is there and holds something else is never replaced: the next number is taken.
        """
        number = len(self._taken) + 1
        while True:
            place = self._path.with_name(f"{self._path.stem} {number}{source.suffix.lower()}")
            if place.name not in self._taken.values():
                if not os.path.lexists(place):
                    copy_file(source, place)
                    return place
                if _same_content(place, source):
                    return place
            number += 1


def _contents(data: Any) -> Iterator[dict[str, Any]]:
    """The parts of plain ``data`` that name a file."""
    if isinstance(data, dict):
        if data.get("type") in TAGS and isinstance(data.get("path"), str):
            yield data
        data = data.values()
    elif not isinstance(data, list | tuple):
        return
    for part in data:
        yield from _contents(part)


def content_of(path: Path) -> str:
    """A name for what the file at ``path`` contains, worked out once. Raises OSError."""
    seen = path.stat()
    return _content(path, seen.st_size, seen.st_mtime_ns)


@functools.lru_cache(256)
def _content(path: Path, _size: int, _changed: int) -> str:
    return content_key(path)


def references(value: object) -> tuple[AssetReference, ...]:
    """The files of a project that are there, with what they contain."""
    made = []
    for name in files_of(value):
        try:
            path = path_of(name)
            made.append(AssetReference(name, path.stat().st_size, content_of(path)))
        except OSError:
            continue  # missing: told where it is used, and nothing is known of it
    return tuple(made)


def with_files_found(value: T, known: Iterable[AssetReference], folder: Path) -> T:
    """``value`` with files that are not where they were, found below ``folder`` by their content.

    One that is not found keeps its name.
    """
    gone = [each for each in known if not path_of(each.path).is_file()]
    if not gone:
        return value
    found = {each.path: place for each in gone if (place := _found(each, folder)) is not None}
    return with_files_called(value, lambda name: text_of(found[name]) if name in found else name)


def _found(wanted: AssetReference, folder: Path) -> Path | None:
    """Where below ``folder`` the file is: those of its name come first, and none is read that has
    another size."""
    was = path_of(wanted.path)
    near = (folder / was.name, *sorted(folder.glob(f"*/{was.name}")))
    others = (path for path in chain(folder.glob("*"), folder.glob("*/*"))
              if path.suffix.lower() == was.suffix.lower())
    for path in islice(chain(near, others), MOST_SEARCHED):
        with suppress(OSError):
            if (path.is_file() and path.stat().st_size == wanted.size_bytes
                    and content_of(path) == wanted.content):
                return path
    return None


def gathered(value: T, folder: Path, check: Callable[[], None] = lambda: None) -> T:
    """``value`` with copies of all its files in ``folder``, none of which replaces another file.

    Raises InputError when a file is missing, StorageError when the folder cannot be written.
    ``check`` is called again and again, and may raise to stop: whole copies stay.
    """
    places: dict[str, Path] = {}
    try:
        folder.mkdir(parents=True, exist_ok=True)
        for name in files_of(value):
            source = path_of(name)
            if not source.is_file():
                raise missing(source)
            places[name] = _copied(source, folder, check)
    except InputError:
        raise
    except OSError as problem:
        raise storage_error(folder, problem) from problem
    return with_files_called(value, lambda name: text_of(places[name]))


def _copied(source: Path, folder: Path, check: Callable[[], None]) -> Path:
    """A file in ``folder`` with the content of ``source``: one that is there, or a copy."""
    place, number = folder / source.name, 2
    while os.path.lexists(place):
        if _same_content(place, source):
            return place
        place, number = folder / f"{source.stem} {number}{source.suffix}", number + 1
    copy_file(source, place, check=check)
    return place


def _same_content(place: Path, source: Path) -> bool:
    """Whether the file at ``place`` holds what ``source`` holds."""
    try:
        return place.is_file() and (
            place.samefile(source) or content_of(place) == content_of(source))
    except OSError:
        return False
