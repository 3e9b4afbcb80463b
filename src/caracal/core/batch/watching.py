"""A folder that is watched: every new master in it gets the versions of a template."""

from __future__ import annotations

from pathlib import Path

import msgspec

from caracal.core.analysis.film_pass.process import probe_apart
from caracal.core.base.errors import CaracalError, InputError
from caracal.core.base.paths import path_of, same_file, text_of
from caracal.core.base.translation import tr
from caracal.core.batch.batch_list import BatchList
from caracal.core.batch.job import EncodeJob, State
from caracal.core.project.recipe import Recipe
from caracal.core.specs.sheet_store import find_sheet

MOVIES = (".mp4", ".mov", ".mkv", ".mxf", ".webm", ".avi", ".m4v", ".ts")
SETTING = "watched"


class Watched(msgspec.Struct, frozen=True):
    """The folder, where versions go, the sheets; and what was seen, by the files' paths as text.

    A file that still grows is being copied: it is taken when its size stays from one look to the
    next. ``added`` films are on the list; ``taken`` ones are done, or were taken off it.
    """

    folder: str
    out: str
    sheets: tuple[str, ...]
    sizes: dict[str, int] = {}
    taken: tuple[str, ...] = ()
    refused: dict[str, str] = {}
    added: tuple[str, ...] = ()


def check_watched(folder: Path, out: Path, has_sheets: bool) -> None:
    """Raise InputError when ``folder`` cannot be watched so that versions go to ``out``."""
    if not folder.is_dir():
        raise InputError(tr("There is no such folder to watch."), folder, tr("Check the name."))
    if not has_sheets:
        raise InputError(tr("No spec sheet was given for the films in the watched folder."),
                         folder, tr("Name spec sheets."))
    if same_file(folder, out) or folder.resolve() == out.resolve():
        raise InputError(tr("The watched folder is also the output folder: each version would be "
                            "taken for a new film."), folder, tr("Choose another folder for one "
                                                                 "of them."))


def watch(jobs: BatchList, folder: Path, out: Path, sheets: tuple[str, ...]) -> None:
    """Begin to watch ``folder``. Raises InputError when it cannot be, or a sheet is not known."""
    check_watched(folder, out, bool(sheets))
    for sheet in sheets:
        find_sheet(sheet)
    before = watched(jobs)
    same = before is not None and before.folder == text_of(folder)
    begun = Watched(text_of(folder), text_of(out), sheets)
    if before is not None and same:
        begun = msgspec.structs.replace(begun, taken=before.taken, added=before.added)
    jobs.set(SETTING, begun)


def unwatch(jobs: BatchList) -> None:
    """The folder is watched no more."""
    jobs.set(SETTING, None)


def watched(jobs: BatchList) -> Watched | None:
    """Returns the watched folder and what is made of its films; None: nothing is watched."""
    found: Watched | None = jobs.setting(SETTING, Watched | None)  # type: ignore[arg-type]
    return found


def look_for_more(jobs: BatchList) -> list[str]:
    """Put the new masters of the watched folder onto the list; their names.

    One that cannot be read is remembered with its reason, and not asked again until it changes.
    Each is looked at in a process of its own.
    """
    kept = watched(jobs)
    if kept is None:
        return []
    kept = _brought_up(kept, jobs)
    files = {text_of(path): path for path in _movies(path_of(kept.folder), jobs)}
    sizes = {key: path.stat().st_size for key, path in files.items() if path.is_file()}
    known = {*kept.taken, *kept.added}
    refused = {key: why for key, why in kept.refused.items()
               if sizes.get(key) == kept.sizes.get(key)}
    added = []
    for key, size in sizes.items():
        if not size or kept.sizes.get(key) != size or key in known or key in refused:
            continue
        try:
            probe_apart(files[key])
        except CaracalError as problem:
            refused[key] = problem.sentence()
            continue
        jobs.add(EncodeJob(key, kept.out, Recipe(find_sheet(sheet))) for sheet in kept.sheets)
        added.append(key)
    now = msgspec.structs.replace(kept, sizes=sizes, added=(*kept.added, *added), refused=refused)
    if now != watched(jobs):
        jobs.set(SETTING, now)
    return [files[key].name for key in added]


def _movies(folder: Path, jobs: BatchList) -> list[Path]:
    """The films in ``folder``, without what we made ourselves."""
    ours = {name for item in jobs.items() for name in (*item.status.planned, *(
        made.file for made in item.status.made))}
    try:
        return sorted(path for path in folder.iterdir()
                      if path.suffix.lower() in MOVIES and text_of(path) not in ours)
    except OSError:
        return []  # gone for a while, as folders on a network are


def _brought_up(kept: Watched, jobs: BatchList) -> Watched:
    """``kept`` with those films taken whose versions are done, or were taken off the list."""
    states: dict[str, set[State]] = {}
    for item in jobs.items():
        states.setdefault(item.job.master, set()).add(item.state)
    over = [key for key in kept.added if states.get(key, {State.DONE}) == {State.DONE}]
    return msgspec.structs.replace(
        kept, taken=tuple(dict.fromkeys((*kept.taken, *over))),
        added=tuple(key for key in kept.added if key not in over))
