"""Whether the files that a version is made with can be used, before anything is made."""

from __future__ import annotations

import functools
from pathlib import Path
from typing import Any

from PIL import Image

from caracal.core.analysis.process import probe_apart
from caracal.core.apart import Call, call_apart
from caracal.core.errors import CaracalError, InputError, Problem, missing, problem_of
from caracal.core.layout.model import Clip, FileContent, Layout, PictureFile, Still
from caracal.core.media.master import Master
from caracal.core.paths import changed_ns
from caracal.core.render.assets import open_picture, picture_ratio, refuse_bad_picture
from caracal.core.resources import asset_file
from caracal.core.translation import tr

WITHIN_S = 60.0  # to look at a picture
THUMBNAIL = 256  # pixels, both ways


def refuse_bad_assets(layout: Layout) -> None:
    """Raise InputError for the first file of ``layout`` that cannot be used."""
    for pane in layout.panes:
        refuse_bad_asset(pane.content)


def refuse_bad_asset(content: object) -> None:
    """Raise InputError when ``content`` is a picture, a clip or a still that cannot be used."""
    if not isinstance(content, FileContent):
        return
    if isinstance(content, PictureFile):
        picture_ratio_apart(asset_file(content.path))
        return
    film = film_of(content)
    if isinstance(content, Still) and content.moment_s > film.frames / float(film.rate):
        raise InputError(tr("This film ends before {moment_s:.2f} s, of which a picture is held.",
                            moment_s=content.moment_s), film.file, tr("Choose another moment."))


def picture_ratio_apart(path: Path) -> float:
    """The width of the picture at ``path`` to its height, looked at once in a process of its own.

    Raises InputError when it cannot be used: what a picture does to the library that reads it is
    blamed on the picture.
    """
    found = _picture_looked_at(path, changed_ns(path))
    if isinstance(found, Problem):
        raise found.error()
    return found


def thumbnail_apart(path: Path) -> Image.Image:
    """The picture at ``path`` in RGBA, small, read in a process of its own. Raises InputError."""
    found: Image.Image = _apart(Call(thumbnail, (path,)), path)
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


@functools.lru_cache(256)
def _picture_looked_at(path: Path, _: int) -> float | Problem:
    try:
        ratio: float = _apart(Call(checked_ratio, (path,)), path)
    except CaracalError as problem:
        return problem_of(problem)
    return ratio


def _apart(call: Call, path: Path) -> Any:
    return call_apart(call, path, within_s=WITHIN_S, blame=_ended)


def _ended(path: Path, _: int) -> InputError:
    return InputError(tr("Reading this picture ended the process that did it."), path,
                      tr("It is damaged in an unusual way: save it again, or choose another."))


def film_of(content: Clip | Still) -> Master:
    """What the film file of ``content`` is, looked at once in a process of its own.

    Raises InputError when it is missing or cannot be read.
    """
    path = asset_file(content.path)
    if not path.is_file():
        raise missing(path) if not path.exists() else InputError(
            tr("This is no film file."), path, tr("Choose a file."))
    return _looked_at(path, changed_ns(path))


@functools.lru_cache(64)
def _looked_at(path: Path, _: int) -> Master:
    return probe_apart(path)
