"""Captions in a file beside a finished movie."""

from __future__ import annotations

from pathlib import Path

from caracal.core.base.paths import path_of
from caracal.core.exchange.caption_files import captions_text, write_captions
from caracal.core.plan.file_plan import FilePlan


def write_sidecar(plan: FilePlan, movie: Path) -> Path:
    """Write the captions of ``plan`` beside ``movie``, under its name, as its sheet asks for them;
    returns their file.

    The captions that a person gave are never written over, nor anything else unless the plan says
    so: the name is numbered then. Raises StorageError.
    """
    inputs = [plan.master.file, *([path_of(plan.captions_file)] if plan.captions_file else [])]
    suffix, number = f".{plan.sheet.captions_as}", 2
    path = movie.with_suffix(suffix)
    while path.exists() and not _may_replace(plan, path, inputs):
        path = movie.with_name(f"{movie.stem} {number}{suffix}")
        number += 1
    write_captions(path, plan.sidecar, inputs)
    return path


def _may_replace(plan: FilePlan, path: Path, inputs: list[Path]) -> bool:
    """Whether captions may be written where something lies already."""
    try:
        if not path.is_file() or any(other.exists() and other.samefile(path) for other in inputs):
            return False
        same = path.read_bytes() == captions_text(plan.sidecar, path.suffix).encode()
    except OSError:
        return False
    return plan.replace or same
