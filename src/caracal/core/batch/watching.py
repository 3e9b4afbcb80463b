"""A folder that is watched: every new master in it gets the versions of a template."""

from __future__ import annotations

from pathlib import Path

import msgspec

from caracal.core.batch.jobs import BatchList, Work
from caracal.core.errors import CaracalError
from caracal.core.media.look import look
from caracal.core.plan import Wanted
from caracal.core.specs.shelf import find_sheet

MOVIES = (".mp4", ".mov", ".mkv", ".mxf", ".webm", ".avi", ".m4v", ".ts")
SETTING = "watched"


class Watched(msgspec.Struct, frozen=True):
    """The folder, where versions go, the sheets; and what was seen: sizes by name, and what is in.

    A file that still grows is being copied: it is taken when its size stays from one look to the
    next.
    """

    folder: str
    out: str
    sheets: tuple[str, ...]
    sizes: dict[str, int] = {}
    taken: tuple[str, ...] = ()
    refused: dict[str, str] = {}


def watch(jobs: BatchList, folder: Path, out: Path, sheets: tuple[str, ...]) -> None:
    """Begin to watch ``folder``. Raises InputError when a sheet is not known."""
    for one in sheets:
        find_sheet(one)
    before = watched(jobs)
    same = before is not None and before.folder == str(folder)
    kept = before.taken if before is not None and same else ()
    jobs.set(SETTING, Watched(str(folder), str(out), sheets, taken=kept))


def unwatch(jobs: BatchList) -> None:
    """Watch no more."""
    jobs.set(SETTING, None)


def watched(jobs: BatchList) -> Watched | None:
    """What is watched."""
    found: Watched | None = jobs.setting(SETTING, Watched | None)  # type: ignore[arg-type]
    return found


def look_for_more(jobs: BatchList) -> list[str]:
    """Put the new masters of the watched folder onto the list; their names.

    One that cannot be read is remembered with its reason, and not asked again until it changes.
    """
    one = watched(jobs)
    if one is None:
        return []
    sizes = {path.name: path.stat().st_size for path in sorted(Path(one.folder).glob("*"))
             if path.suffix.lower() in MOVIES and path.is_file()}
    ready = [name for name, size in sizes.items() if size and one.sizes.get(name) == size
             and name not in one.taken and name not in one.refused]
    refused = {name: why for name, why in one.refused.items()
               if sizes.get(name) == one.sizes.get(name)}
    taken = []
    for name in ready:
        path = Path(one.folder) / name
        try:
            look(path)
        except CaracalError as problem:
            refused[name] = problem.sentence()
            continue
        jobs.add(Work(str(path), one.out, Wanted(find_sheet(sheet))) for sheet in one.sheets)
        taken.append(name)
    now = msgspec.structs.replace(one, sizes=sizes, taken=(*one.taken, *taken), refused=refused)
    if now != one:
        jobs.set(SETTING, now)
    return taken
