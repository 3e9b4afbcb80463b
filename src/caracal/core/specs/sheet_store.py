"""Where spec sheets are kept: those that ship, and the user's own, as TOML files."""

from __future__ import annotations

import functools
import re
import tomllib
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

from caracal.core.base.atomic_write import write_text
from caracal.core.base.decoding import DecodeError, convert
from caracal.core.base.errors import CaracalError, InputError, storage_error
from caracal.core.base.folders import config_root
from caracal.core.base.limits import MOST_TEXT_BYTES
from caracal.core.base.reading_text import read_bounded, refuse_dots, refuse_nesting
from caracal.core.base.resources import shipped
from caracal.core.base.schemas import schema_of
from caracal.core.base.toml_text import toml_of
from caracal.core.base.translation import tr
from caracal.core.specs.checks import problems
from caracal.core.specs.describe import described
from caracal.core.specs.sheet import SIZED, SpecSheet

SUFFIX = ".toml"


def own_folder() -> Path:
    """Where the user's own sheets lie."""
    return config_root() / "sheets"


def read_sheet(path: Path) -> SpecSheet:
    """Read a sheet; raises InputError with the line and the reason when it is broken."""
    data = read_bounded(path, MOST_TEXT_BYTES, "spec sheet")
    refuse_nesting(data, path, "spec sheet")
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError as problem:
        raise InputError(tr("This spec sheet cannot be read."), path,
                         tr("Choose another file.")) from (
            problem)
    refuse_dots(text, path, "spec sheet")
    try:
        sheet = convert(tomllib.loads(text), SpecSheet)
    except (tomllib.TOMLDecodeError, DecodeError, RecursionError) as problem:
        raise InputError(tr("This spec sheet is broken{where}: {problem}.",
                            where=_where(text, str(problem)), problem=problem), path,
                         tr("Correct that line.")) from problem
    wrong = problems(sheet)
    if wrong:
        raise InputError(tr("This spec sheet cannot be used. {wrong}",
                            wrong=" ".join(wrong)), path, tr("Correct it."))
    return sheet


def sheet_of(data: dict[str, Any], of: Path) -> SpecSheet:
    """The sheet that ``data`` tells, as the report of the file ``of`` holds it.

    Raises InputError when it is none, or asks for what cannot be made.
    """
    try:
        sheet = convert(data, SpecSheet)
    except DecodeError as problem:
        raise InputError(tr("The note in this file about its spec sheet cannot be read: "
                            "{problem}.", problem=problem), of,
                         tr("Give its spec sheet.")) from problem
    wrong = problems(sheet)
    if wrong:
        raise InputError(tr("What this file was made for cannot be made. {wrong}",
                            wrong=" ".join(wrong)), of, tr("Give its spec sheet."))
    return sheet


def _where(text: str, problem: str) -> str:
    """The line a validation problem is about, as words; TOML's own errors name theirs."""
    path = re.search(r"at `\$\.([\w.\[\]]+)`", problem) or re.search(r"field `(\w+)`", problem)
    if not path:
        return ""
    key = re.sub(r"\[.*?\]", "", path[1]).split(".")[-1]
    for number, line in enumerate(text.splitlines(), 1):
        if re.match(rf"\s*(\[+)?\s*{re.escape(key)}\s*[=\]]", line):
            return tr(" in line {number}", number=number)
    return ""


def sheet_text(sheet: SpecSheet) -> str:
    """``sheet`` as TOML that :func:`read_sheet` reads."""
    return toml_of(sheet)


def schema() -> dict[str, Any]:
    """The JSON schema of a sheet's data, as docs/spec-sheet.schema.json publishes it."""
    return described(schema_of(SpecSheet))


def write_sheet(sheet: SpecSheet, path: Path) -> None:
    """Write ``sheet`` to ``path``. Raises StorageError when the place cannot be written."""
    write_text(path, sheet_text(sheet), make_folder=True)


def keep_sheet(sheet: SpecSheet) -> Path:
    """Keep ``sheet`` among the user's own, under its name; its file.

    Raises InputError for a sheet that cannot be made or whose name no file can have.
    """
    wrong = problems(sheet)
    if wrong:
        raise InputError(tr("This spec sheet cannot be used. {wrong}",
                            wrong=" ".join(wrong)), remedy=tr("Correct it."))
    if not re.fullmatch(r"[\w][\w -]*", sheet.name):
        raise InputError(tr("A sheet cannot be called “{name}”.", name=sheet.name),
                         remedy=tr("Use letters, digits, dashes and spaces."))
    path = _own_files().get(sheet.name) or own_folder() / f"{sheet.name}{SUFFIX}"
    write_sheet(sheet, path)
    return path


def _own_files() -> dict[str, Path]:
    """The user's files by the name of their sheet; broken ones are left out."""
    found: dict[str, Path] = {}
    for path in sorted(own_folder().glob(f"*{SUFFIX}")):
        with suppress(CaracalError):
            found.setdefault(read_sheet(path).name, path)
    return found


def own_names() -> set[str]:
    """The names of the user's own sheets."""
    return set(_own_files())


def remove_own(name: str) -> None:
    """Remove the user's own sheet; one that ships under this name is back."""
    path = _own_files().get(name)
    if path is not None:
        try:
            path.unlink()
        except OSError as problem:
            raise storage_error(path, problem) from problem


def shipped_sheets() -> dict[str, SpecSheet]:
    """All sheets that ship, by name."""
    return {sheet.name: sheet for sheet in _shipped()}


@functools.cache
def _shipped() -> tuple[SpecSheet, ...]:
    return tuple(read_sheet(path) for path in sorted(shipped("sheets").glob(f"*{SUFFIX}")))


def all_sheets() -> tuple[dict[str, SpecSheet], tuple[str, ...]]:
    """Shipped and own sheets by name, own ones first; and a sentence for each broken own one."""
    found, wrong = dict(shipped_sheets()), []
    files: dict[str, Path] = {}
    for path in sorted(own_folder().glob(f"*{SUFFIX}")):
        try:
            sheet = read_sheet(path)
        except CaracalError as problem:
            wrong.append(problem.sentence())
            continue
        if sheet.name in files:
            wrong.append(tr("{first} and {second} in {folder} are both called “{name}”: the first "
                            "is used. Give one another name.", first=files[sheet.name].name,
                            second=path.name, folder=own_folder(), name=sheet.name))
            continue
        files[sheet.name] = path
        found[sheet.name] = sheet
    return found, tuple(wrong)


def find_sheet(name: str) -> SpecSheet:
    """The sheet called ``name``, or in the TOML file of that name.

    Raises InputError that lists what there is.
    """
    if name.lower().endswith(SUFFIX):
        return read_sheet(Path(name))
    sheets, _ = all_sheets()
    found = sheet_called(name, sheets)
    if found is None:
        raise InputError(tr("There is no spec sheet “{name}”.", name=name),
                         remedy=tr("There are: {sheets}.", sheets=", ".join(sheets)))
    return found


def sheet_called(name: str, sheets: Mapping[str, SpecSheet]) -> SpecSheet | None:
    """The one of ``sheets`` with this name; ``master@1080x1920`` is ``master`` for that canvas,
    if it takes canvases as they are made and such a one can be made."""
    base, _, size = name.partition(SIZED)
    sheet = sheets.get(base)
    if sheet is None or not size:
        return sheet
    sides = re.fullmatch(r"(\d+)x(\d+)", size)
    if sides is None or not sheet.as_made:
        return None
    return _sized(sheet, (int(sides[1]), int(sides[2])))


@functools.lru_cache(64)
def _sized(sheet: SpecSheet, canvas: tuple[int, int]) -> SpecSheet | None:
    sized = sheet.sized(canvas)
    return None if problems(sized) else sized
