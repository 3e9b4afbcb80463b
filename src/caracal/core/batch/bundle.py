"""The bundle handed over: files, sidecars, report, and a manifest with checksums.

A bundle is a BagIt bag (RFC 8493, through the bagit package): what is delivered lies in ``data``,
its SHA-256 sums in ``manifest-sha256.txt``, and any tool that knows bags can check it.
"""

from __future__ import annotations

import logging
import shutil
from collections.abc import Iterable
from pathlib import Path

import bagit

from caracal import __version__
from caracal.core.base.atomic_write import copy_file, part_name
from caracal.core.base.errors import Cancelled, InputError, StorageError, storage_error
from caracal.core.base.paths import path_of
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.core.batch.job import Item, State
from caracal.core.batch.report import REPORT_NAME, ReportedFile, files_in_report, write_report
from caracal.core.specs.sheet import CaptionFormat

UNLISTED = str.maketrans(dict.fromkeys("%\r\n", "_"))  # characters that a manifest percent-encodes
SIDECARS = tuple(f".{each}" for each in CaptionFormat)
logging.getLogger("bagit").setLevel(logging.CRITICAL)  # its problems are raised, too


def make_bundle(items: Iterable[Item], folder: Path, cancel: CancelToken | None = None) -> Path:
    """Copy every file that is done, its sidecars and the report into a new bag at ``folder``.

    Raises InputError when nothing is done or ``folder`` holds something, StorageError when it
    cannot be written, Cancelled when stopped: nothing of it is left then.
    """
    token = cancel or CancelToken()
    done = [item for item in items if item.state is State.DONE]
    files = [path_of(made.file) for item in done for made in item.status.made]
    if not files:
        raise InputError(tr("No file is done yet."), remedy=tr("Make the versions first."))
    gone = next((path for path in files if not path.is_file()), None)
    if gone is not None:
        raise InputError(tr("This file was moved away since it was made."), gone,
                         tr("Put it back, or make it again."))
    check_empty(folder)
    part = part_name(folder)
    names = names_in_bundle(files)
    try:
        part.mkdir(parents=True)
        for file in files:
            for delivered in (file, *_sidecars(file)):
                name = names[file].removesuffix(file.suffix) + delivered.suffix
                copy_file(delivered, part / name, keep_times=True, check=token.check)
        write_report(done, part, names, token)
        bagit.make_bag(str(part), {"Bagging-Software": f"caracal {__version__}"},
                       checksums=["sha256"])
        if folder.exists():
            folder.rmdir()
        part.rename(folder)
    except Cancelled:
        shutil.rmtree(part, ignore_errors=True)
        raise
    except OSError as problem:
        shutil.rmtree(part, ignore_errors=True)
        if isinstance(problem, StorageError):
            raise
        raise storage_error(folder, problem) from problem
    return folder


def names_in_bundle(files: Iterable[Path]) -> dict[Path, str]:
    """What each of ``files`` is called in a bundle: its own name, numbered where files of other
    folders have it, too.

    Files that share a sidecar keep one stem, so that the sidecar is found beside each of them.
    Percent signs and line ends are replaced: manifests percent-encode them (RFC 8493, 2.1.3), and
    not every tool that checks bags decodes them.
    """
    stems: dict[Path, str] = {}  # by the file without its suffix
    taken: set[str] = set()  # as file systems compare that know no large and small letters
    for file in files:
        whole, number = file.with_suffix(""), 2
        if whole not in stems:
            own = stem = file.stem.translate(UNLISTED)
            while stem.casefold() in taken:
                stem, number = f"{own} {number}", number + 1
            stems[whole] = stem
            taken.add(stem.casefold())
    return {file: f"{stems[file.with_suffix('')]}{file.suffix}" for file in files}


def check_empty(folder: Path) -> None:
    """Raise InputError when something is at ``folder`` already."""
    if folder.exists() and not (folder.is_dir() and not any(folder.iterdir())):
        raise InputError(tr("This folder is not empty."), folder, tr("Name a new one."))


def _sidecars(file: Path) -> list[Path]:
    return [sidecar for suffix in SIDECARS if (sidecar := file.with_suffix(suffix)).is_file()]


def opened_bundle(folder: Path) -> list[Path]:
    """The movies of a bundle whose checksums are right.

    Raises InputError when it is no bundle, or something in it is missing, changed or added.
    """
    if not folder.is_dir():
        raise InputError(tr("There is no such folder."), folder, tr("Check the name."))
    try:
        bagit.Bag(str(folder)).validate()
    except bagit.BagValidationError as problem:
        raise InputError(tr("This bundle was changed since it was made ({first}).",
                            first=_first(problem)), folder, tr("Make it again.")) from problem
    # The package lets what it meets in damaged tag files through: bytes that are no text, unknown
    # encodings, names that are no files.
    except (bagit.BagError, ValueError, LookupError, OSError) as problem:
        raise InputError(tr("This folder is not a bundle."), folder,
                         tr("Make a bundle of your files.")) from problem
    movies = (".mp4", ".mov", ".webm", ".mkv")
    return sorted(path for path in (folder / "data").rglob("*") if path.suffix.lower() in movies)


def reported_in(folder: Path) -> dict[str, ReportedFile]:
    """What the report of a bundle tells of each file, by its name.

    Empty where the bundle's report does not say. Raises InputError when the report is damaged.
    """
    report = folder / "data" / REPORT_NAME
    if not report.is_file():
        return {}
    return files_in_report(report)


def _first(problem: bagit.BagValidationError) -> str:
    details = getattr(problem, "details", None)
    return str(details[0] if details else problem)
