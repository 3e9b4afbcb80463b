"""The films and projects that were opened lately, as far as they are still there."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSettings

from caracal.ui.services.settings import kept_texts

MOST_RECENT = 6


def recent(settings: QSettings) -> list[Path]:
    """Returns the films that were opened lately, the newest first."""
    return [Path(name) for name in kept_texts(settings, "recent") if Path(name).exists()]


def remember(settings: QSettings, film: Path) -> None:
    """This remembers that ``film`` was opened now."""
    films = [film, *(path for path in recent(settings) if path != film)]
    settings.setValue("recent", [str(path) for path in films[:MOST_RECENT]])
