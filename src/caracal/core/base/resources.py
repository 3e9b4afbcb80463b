"""Files that ship inside the package: models, spec sheets, fonts, the demo film."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

from caracal.core.base.errors import InputError, InstallError
from caracal.core.base.paths import path_of
from caracal.core.base.translation import tr

OURS = "shipped:"  # what the names of shipped assets begin with
ASSET_FOLDERS = ("backdrops", "graphics", "effects", "demo")
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
        raise InstallError(tr("A model that ships with Caracal is missing."), path,
                           tr("Install Caracal again.")) from problem
    if pointer:
        raise InstallError(tr("This model is only a pointer into a large-file store."), path,
                           tr("Fetch it with git lfs pull, or copy it from a whole checkout."))
    return path


def asset_file(name: str) -> Path:
    """The file that a layout, an overlay or a card calls ``name``: a path, or one of ours.

    Ours are called by a name that is the same on every machine, such as ``shipped:graphics/x.svg``.
    """
    if not name.startswith(OURS):
        return path_of(name)
    folder, _, file = name.removeprefix(OURS).partition("/")
    if folder not in ASSET_FOLDERS or Path(file).name != file or not file:
        raise InputError(tr("No shipped asset is called “{name}”.", name=name[:80]),
                         remedy=tr("Choose a file."))
    return shipped(folder, file)


def ours(folder: str, file: str) -> str:
    """What a shipped asset is called: see :func:`asset_file`."""
    return f"{OURS}{folder}/{file}"


def licence_texts() -> dict[str, str]:
    """The notice of this program, and the licences of the models and fonts that ship, by name."""
    data = shipped()
    notices = [path for path in (data.parent / "NOTICE", data.parents[2] / "NOTICE")
               if path.is_file()][:1]
    found = [*notices, *sorted(data.rglob("LICENSE*")), *sorted(data.rglob("*-OFL.txt"))]
    return {path.name: path.read_text("utf-8", "replace") for path in found}


DEMO_FILM = shipped("demo", "kiln-day-at-marram-quay.mp4")
