"""A sheet's values by their names, such as ``video.bitrate_kbps``: read, changed, compared."""

from __future__ import annotations

from typing import Any

import msgspec

from caracal.core.base.decoding import DecodeError, convert
from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.specs.sheet import SpecSheet, Zone

IGNORED = ("name", "title", "source", "checked")  # what a sheet is called is no difference


def value_of(sheet: SpecSheet, field: str) -> Any:
    """The value of a field."""
    found: Any = sheet
    for part in field.split("."):
        found = getattr(found, part)
    return found


def with_value(sheet: SpecSheet, field: str, value: Any) -> SpecSheet:
    """``sheet`` with another value; raises InputError when it is of the wrong kind."""
    data = msgspec.to_builtins(sheet)
    inner, parts = data, field.split(".")
    for part in parts[:-1]:
        inner = inner[part]
    inner[parts[-1]] = msgspec.to_builtins(value)
    try:
        return convert(data, SpecSheet)
    except DecodeError as problem:
        raise InputError(tr("{field} cannot be {value!r} ({problem}).", field=field, value=value,
                            problem=problem), remedy=tr("Write another value.")) from problem


def flat(sheet: SpecSheet) -> dict[str, str]:
    """Every value in words, by its field; zones by what lies there."""
    return dict(_flat(msgspec.to_builtins(sheet), ""))


def _flat(data: Any, name: str) -> list[tuple[str, str]]:
    if isinstance(data, dict) and "what" not in data:
        return [pair for key, value in data.items()
                for pair in _flat(value, f"{name}.{key}" if name else key)]
    if isinstance(data, list | tuple) and data and isinstance(data[0], dict):
        return [(f"{name}: {zone['what']}", _zone(zone)) for zone in data]
    if isinstance(data, dict):
        return [(name, _zone(data))]
    if isinstance(data, list | tuple):
        return [(name, " × ".join(f"{number:g}" for number in data) or tr("any"))]
    if isinstance(data, bool):
        return [(name, tr("yes") if data else tr("no"))]
    return [(name, tr("none") if data is None else f"{data:g}" if isinstance(data, float)
             else str(data))]


def _zone(data: dict[str, Any]) -> str:
    zone = convert(data, Zone)
    return tr("{left:.0%} to {right:.0%} across, {top:.0%} to {bottom:.0%} down", left=zone.left,
              right=zone.left + zone.width, top=zone.top, bottom=zone.top + zone.height)


def differences(sheet: SpecSheet, other: SpecSheet) -> list[tuple[str, str, str]]:
    """(field, value in ``sheet``, value in ``other``) for every field that differs."""
    mine, theirs = flat(sheet), flat(other)
    return [(field, mine.get(field, "none"), theirs.get(field, "none"))
            for field in dict.fromkeys([*mine, *theirs])
            if field not in IGNORED and mine.get(field) != theirs.get(field)]
