"""Files that ship inside the package: models, spec sheets, fonts, the demo film."""

from __future__ import annotations

from importlib import resources
from pathlib import Path


def shipped(*parts: str) -> Path:
    """Path of a shipped file below ``caracal/data`` (Caracal is installed unzipped)."""
    return Path(str(resources.files("caracal"))) / "data" / Path(*parts)


DEMO_FILM = shipped("demo", "kiln-day-at-marram-quay.mp4")
