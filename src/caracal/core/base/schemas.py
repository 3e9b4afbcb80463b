"""JSON schemas of what we read and write, the same from every version of Python."""

from __future__ import annotations

import inspect
from typing import Any

import msgspec


def schema_of(kind: type[Any]) -> dict[str, Any]:
    """The JSON schema of ``kind``. Descriptions are docstrings without their indentation."""
    return _clean(msgspec.json.schema(kind))  # type: ignore[no-any-return]


def _clean(part: Any) -> Any:
    """``part`` of a schema; Python 3.13 takes indentation away by itself, older ones do not."""
    if isinstance(part, dict):
        return {name: inspect.cleandoc(value)
                if name == "description" and isinstance(value, str) else _clean(value)
                for name, value in part.items()}
    return [_clean(item) for item in part] if isinstance(part, list) else part
