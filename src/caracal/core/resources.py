"""Files that ship inside the package: models, spec sheets, fonts, the demo film."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from caracal.core.errors import InstallError

POINTER = b"version https://git-lfs."  # the first words of what stands for a large file


def shipped(*parts: str) -> Path:
    """Path of a shipped file below ``caracal/data`` (Caracal is installed unzipped)."""
    return Path(str(resources.files("caracal"))) / "data" / Path(*parts)


def model(name: str) -> Path:
    """Path of a shipped model. Raises InstallError when only its pointer is there, or nothing."""
    path = shipped("models", name)
    try:
        with path.open("rb") as file:
            pointer = file.read(len(POINTER)) == POINTER
    except OSError as problem:
        raise InstallError("A model that ships with Caracal is missing.", path,
                           "Install Caracal again.") from problem
    if pointer:
        raise InstallError("This model is only a pointer into a large-file store.", path,
                           "Fetch it with git lfs pull, or copy it from a whole checkout.")
    return path


DEMO_FILM = shipped("demo", "kiln-day-at-marram-quay.mp4")
