"""Whether picture files can be used: checked once, in a separate process."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PIL import Image

from caracal.core.base.errors import Cancelled, InputError, Problem, problem_of
from caracal.core.base.logs import unforeseen
from caracal.core.base.paths import changed_ns
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.core.processes.apart import Call, call_apart
from caracal.core.render.assets.pictures import open_picture, picture_ratio, refuse_bad_picture

WITHIN_S = 60.0  # to look at a picture
MOST_KEPT = 10_000  # results; more files than any project shows
THUMBNAIL = 256  # pixels, both ways
T = TypeVar("T")
checked: dict[tuple[str, Path, int], Any] = {}  # results, or Problems, by kind and file


def picture_ratio_apart(path: Path, cancel: CancelToken | None = None) -> float:
    """The width of the picture at ``path`` to its height, looked at once in a process of its own.

    Raises InputError when it cannot be used: what a picture does to the library that reads it is
    blamed on the picture. Raises Cancelled.
    """
    def look() -> float:
        ratio: float = _apart(Call(checked_ratio, (path,)), path, cancel)
        return ratio

    return checked_once("picture", path, look)


def thumbnail_apart(path: Path, cancel: CancelToken | None = None) -> Image.Image:
    """The picture at ``path`` in RGBA, small, read in a process of its own.

    Raises InputError, and Cancelled.
    """
    found: Image.Image = _apart(Call(thumbnail, (path,)), path, cancel)
    return found


def thumbnail(path: Path) -> Image.Image:
    """The picture at ``path`` in RGBA, no larger than THUMBNAIL. Raises InputError."""
    made = open_picture(path, THUMBNAIL)
    made.thumbnail((THUMBNAIL, THUMBNAIL))
    return made


def checked_ratio(path: Path) -> float:
    """The width of a picture or animation to its height. Raises InputError."""
    refuse_bad_picture(path)
    return picture_ratio(path)


def checked_once(kind: str, path: Path, look: Callable[[], T]) -> T:
    """What ``look`` returns for the file at ``path``; kept until the file changes. Raises
    CaracalError.
    """
    key = kind, path, changed_ns(path)
    if key not in checked:
        found: T | Problem
        try:
            found = look()
        except Cancelled:
            raise
        except Exception as problem:  # noqa: BLE001 - else it would be checked again and again
            found = problem_of(unforeseen(problem))
        if len(checked) >= MOST_KEPT:
            checked.pop(next(iter(checked)), None)
        checked[key] = found
    known: T | Problem = checked[key]
    if isinstance(known, Problem):
        raise known.error()
    return known


def _apart(call: Call, path: Path, cancel: CancelToken | None) -> Any:
    return call_apart(call, path, cancel=cancel, within_s=WITHIN_S, blame=_ended)


def _ended(path: Path, _: int) -> InputError:
    return InputError(tr("The process that read this picture crashed."), path,
                      tr("The file is damaged: save it again, or choose another."))
