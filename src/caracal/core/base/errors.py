"""What can go wrong, split by who can act. Each says what happened, to which file, what to do."""

from __future__ import annotations

import errno
import os
from pathlib import Path
from unicodedata import category

import msgspec

from caracal.core.base.translation import mark, tr


class CaracalError(Exception):
    """The root of every error that Caracal raises on purpose.

    ``what`` and ``remedy`` are whole sentences; ``file`` is named between them when there is one.
    """

    def __init__(self, what: str, file: Path | str | None = None, remedy: str = "") -> None:
        self.what = what
        self.file = None if file is None else Path(file)
        self.remedy = remedy
        super().__init__(self.sentence())

    def sentence(self) -> str:
        """The text shown in the window and on the command line."""
        named = self.what
        if self.file is not None and str(self.file) not in named and self.file.name not in named:
            named = f"{self.file}: {named}"
        return on_one_line(readable(f"{named} {self.remedy}".strip()))


class InputError(CaracalError, ValueError):
    """The file, time, name or number a person gave cannot be used; they can give another."""


class StorageError(CaracalError, OSError):
    """A folder or disk refuses: not writable, full, gone; a person can choose another place."""

    def __str__(self) -> str:
        return self.sentence()


class InstallError(CaracalError):
    """Something that ships with Caracal is missing or damaged."""


class Cancelled(CaracalError):  # noqa: N818 - a request was met, nothing is wrong
    """The person stopped the work."""

    def __init__(self) -> None:
        super().__init__("Stopped.")


class Problem(msgspec.Struct, frozen=True):
    """An error as data, to be sent from one process to another or kept."""

    kind: str
    what: str
    file: str | None = None
    remedy: str = ""

    def error(self) -> CaracalError:
        """The error that this data was made from, to be raised again."""
        kinds = {kind.__name__: kind for kind in (InputError, StorageError, InstallError)}
        return kinds.get(self.kind, CaracalError)(self.what, self.file, self.remedy)


def problem_of(error: CaracalError) -> Problem:
    """Returns ``error`` as data that another process can be sent."""
    return Problem(type(error).__name__, readable(error.what),
                   readable(str(error.file)) if error.file else None, readable(error.remedy))


def readable(text: str) -> str:
    """``text`` that can be written anywhere: what is no character is a question mark."""
    return text.encode("utf-8", "replace").decode("utf-8")


def on_one_line(text: str) -> str:
    """``text`` without what commands a terminal: a name may hold line breaks and escapes."""
    return "".join("?" if category(letter) == "Cc" else letter for letter in text)


def storage_error(path: Path, problem: Exception) -> CaracalError:
    """What an operating system's refusal to write ``path`` means for a person.

    ``path`` is a folder, or a file in one; an error of ours stays what it is.
    """
    if isinstance(problem, CaracalError):
        return problem
    code = getattr(problem, "errno", None)
    if code in (errno.ENOENT, errno.ENOTDIR) and not os.path.isdir(path.parent):  # noqa: PTH112
        path = path.parent
    file = next((each for each in (path, *path.parents)
                 if os.path.isfile(each)), None)  # noqa: PTH113 - pathlib's refuses long names
    if code == errno.ENOTDIR and file is not None:
        path, code = file, errno.EEXIST  # it stands where a folder is needed
    for codes, what, remedy in REFUSALS:
        if code in codes:
            return StorageError(tr(what), path, tr(remedy))
    return CaracalError(tr("Writing failed ({reason_of}).", reason_of=reason_of(problem)), path,
                        tr("Try again."))


REFUSALS = (  # codes of the operating system, what they mean, and what to do
    ((errno.ENOSPC, errno.EDQUOT), mark("The disk is full."),
     mark("Free some space or choose another folder.")),
    ((errno.EACCES, errno.EPERM, errno.EROFS), mark("This folder cannot be written to."),
     mark("Choose another folder.")),
    ((errno.ENOENT, errno.ENOTDIR), mark("This folder does not exist."),
     mark("Choose another folder.")),
    ((errno.EISDIR, errno.EEXIST, errno.ENOTEMPTY),
     mark("A folder or file of this name exists already."),
     mark("Rename it, or choose another name.")),
    ((errno.ENAMETOOLONG,), mark("This name is too long."), mark("Choose a shorter one.")),
    ((errno.ELOOP,), mark("A link of this name exists already."),
     mark("Remove the link, or choose another name.")),
)


def missing(path: Path) -> InputError:
    """The error for a file that is not there."""
    return InputError(tr("There is no such file."), path, tr("Check the name and the folder."))


def reason_of(problem: Exception) -> str:
    """What the system or the media library says of ``problem``, as part of a sentence."""
    return str(getattr(problem, "strerror", None) or problem).strip().rstrip(".").lower()
