"""Frozen values as TOML."""

from __future__ import annotations

from typing import Any

import msgspec
import tomli_w


def toml_of(value: object) -> str:
    """A struct or its builtins as TOML, without what is None: TOML has no word for it."""
    return tomli_w.dumps(_without_nothing(msgspec.to_builtins(value)))


def _without_nothing(data: object) -> Any:
    if isinstance(data, dict):
        return {key: _without_nothing(value) for key, value in data.items() if value is not None}
    return [_without_nothing(item) for item in data] if isinstance(data, list | tuple) else data
