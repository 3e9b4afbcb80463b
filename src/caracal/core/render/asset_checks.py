"""Whether the files that a version is made with can be used, before anything is made."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from PIL import Image

from caracal.core.analysis.process import probe_apart
from caracal.core.apart import Call, call_apart
from caracal.core.errors import Cancelled, InputError, Problem, missing, problem_of
from caracal.core.layout.model import Clip, FileContent, Layout, PictureFile, Still
from caracal.core.logs import unforeseen
from caracal.core.media.master import Master
from caracal.core.paths import changed_ns
from caracal.core.render.assets import open_picture, picture_ratio, refuse_bad_picture
from caracal.core.resources import asset_file
from caracal.core.translation import tr
from caracal.core.work import CancelToken

WITHIN_S = 60.0  # to look at a picture
MOST_KEPT = 10_000  # results; more files than any project shows
THUMBNAIL = 256  # pixels, both ways
T = TypeVar("T")
_checked: dict[tuple[str, Path, int], Any] = {}  # results, or Problems, by kind and file


def refuse_bad_assets(layout: Layout) -> None:
    """Raise InputError for the first file of ``layout`` that cannot be used."""
    for pane in layout.panes:
        refuse_bad_asset(pane.content)


def refuse_bad_asset(content: object, cancel: CancelToken | None = None) -> None:
    """Raise InputError when ``content`` is a picture, a clip or a still that cannot be used.

    Raises Cancelled when it is stopped meanwhile.
    """
    if not isinstance(content, FileContent):
        return
    if isinstance(content, PictureFile):
        picture_ratio_apart(asset_file(content.path), cancel)
        return
    film = film_of(content, cancel)
    if isinstance(content, Still) and content.moment_s > film.frames / float(film.rate):
        raise InputError(tr("This film ends before {moment_s:.2f} s, of which a picture is held.",
                            moment_s=content.moment_s), film.file, tr("Choose another moment."))


def picture_ratio_apart(path: Path, cancel: CancelToken | None = None) -> float:
    """The width of the picture at ``path`` to its height, looked at once in a process of its own.

    Raises InputError when it cannot be used: what a picture does to the library that reads it is
    blamed on the picture. Raises Cancelled.
    """
    def look() -> float:
        ratio: float = _apart(Call(checked_ratio, (path,)), path, cancel)
        return ratio

    return _checked_once("picture", path, look)


def is_checked(content: object) -> bool:
    """Whether :func:`refuse_bad_asset` has checked the file already, and so answers at once."""
    if not isinstance(content, FileContent):
        return True
    kind = "picture" if isinstance(content, PictureFile) else "film"
    path = asset_file(content.path)
    return (kind, path, changed_ns(path)) in _checked


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


def _checked_once(kind: str, path: Path, look: Callable[[], T]) -> T:
    """What ``look`` returns for the file at ``path``; kept until the file changes. Raises
    CaracalError.
    """
    key = kind, path, changed_ns(path)
    if key not in _checked:
        found: T | Problem
        try:
            found = look()
        except Cancelled:
            raise
        except Exception as problem:  # noqa: BLE001 - else it would be checked again and again
            found = problem_of(unforeseen(problem))
        if len(_checked) >= MOST_KEPT:
            _checked.pop(next(iter(_checked)), None)
        _checked[key] = found
    known: T | Problem = _checked[key]
    if isinstance(known, Problem):
        raise known.error()
    return known


def _apart(call: Call, path: Path, cancel: CancelToken | None) -> Any:
    return call_apart(call, path, cancel=cancel, within_s=WITHIN_S, blame=_ended)


def _ended(path: Path, _: int) -> InputError:
    return InputError(tr("Reading this picture ended the process that did it."), path,
                      tr("It is damaged in an unusual way: save it again, or choose another."))


def film_of(content: Clip | Still, cancel: CancelToken | None = None) -> Master:
    """What the film file of ``content`` is, looked at once in a process of its own.

    Raises InputError when it is missing or cannot be read, and Cancelled.
    """
    path = asset_file(content.path)

    def look() -> Master:
        if not path.is_file():
            raise missing(path) if not path.exists() else InputError(
                tr("This is no film file."), path, tr("Choose a file."))
        return probe_apart(path, cancel)

    return _checked_once("film", path, look)
