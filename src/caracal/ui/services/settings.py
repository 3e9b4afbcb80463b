"""What the window's settings hold, by kind: anything else, from a damaged file, is the default."""

from __future__ import annotations

import math
import os
from pathlib import Path
from typing import Any

from PySide6.QtCore import QByteArray, QSettings, QStandardPaths

from caracal.core.base.set_aside import set_aside

MOST_LETTERS = 4096  # of a text: longer than any path


def own_settings() -> QSettings:
    """The settings of the program's windows.

    Anything but a regular file is set aside first: reading a pipe would never end.
    """
    folder = Path(QStandardPaths.writableLocation(
        QStandardPaths.StandardLocation.GenericConfigLocation))
    path = folder / "caracal" / "caracal.conf"  # where the toolkit keeps them on Linux
    if os.path.lexists(path) and not path.is_file():
        set_aside(path)
    return QSettings("caracal", "caracal")


def kept_flag(settings: QSettings, name: str, default: bool = False) -> bool:
    """Whether something is on; text files hold that as a word."""
    value = settings.value(name)
    if isinstance(value, bool):
        return value
    return {"true": True, "false": False}.get(value, default) if isinstance(value, str) else default


def kept_text(settings: QSettings, name: str, default: str = "") -> str:
    """A text, such as the path of a folder."""
    value = settings.value(name)
    return value if _is_text(value) else default


def kept_texts(settings: QSettings, name: str) -> list[str]:
    """Several texts; text files hold a single one by itself."""
    value = settings.value(name)
    return [each for each in (value if isinstance(value, list) else [value]) if _is_text(each)]


def kept_number(settings: QSettings, name: str, default: float) -> float:
    """A number, which is not infinite."""
    return number_in(settings.value(name), default)


def kept_map(settings: QSettings, name: str) -> dict[str, Any]:
    """Values by their names."""
    value = settings.value(name)
    return {str(key): each for key, each in value.items()} if isinstance(value, dict) else {}


def kept_bytes(settings: QSettings, name: str) -> QByteArray | None:
    """What Qt keeps of a window or a splitter."""
    value = settings.value(name)
    return value if isinstance(value, QByteArray) else None


def number_in(value: object, default: float) -> float:
    """A kept ``value`` as a number; ``default`` where it is none."""
    if isinstance(value, bool) or not isinstance(value, int | float | str):
        return default
    try:
        found = float(value)
    except (ValueError, OverflowError):
        return default
    return found if math.isfinite(found) else default


def _is_text(value: object) -> bool:
    return isinstance(value, str) and 0 < len(value) <= MOST_LETTERS and "\0" not in value
