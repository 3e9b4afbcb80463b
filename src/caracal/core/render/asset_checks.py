"""Whether the files that a version is made with can be used, before anything is made."""

from __future__ import annotations

import functools
from pathlib import Path

from caracal.core.analysis.process import probe_apart
from caracal.core.errors import InputError, missing
from caracal.core.layout.model import Clip, FileContent, Layout, PictureFile, Still
from caracal.core.media.master import Master
from caracal.core.paths import changed_ns
from caracal.core.render.assets import refuse_bad_picture
from caracal.core.resources import asset_file
from caracal.core.translation import tr


def refuse_bad_assets(layout: Layout) -> None:
    """Raise InputError for the first file of ``layout`` that cannot be used."""
    for pane in layout.panes:
        refuse_bad_asset(pane.content)


def refuse_bad_asset(content: object) -> None:
    """Raise InputError when ``content`` is a picture, a clip or a still that cannot be used."""
    if not isinstance(content, FileContent):
        return
    if isinstance(content, PictureFile):
        refuse_bad_picture(asset_file(content.path))
        return
    film = film_of(content)
    if isinstance(content, Still) and content.moment_s > film.frames / float(film.rate):
        raise InputError(tr("This film ends before {moment_s:.2f} s, of which a picture is held.",
                            moment_s=content.moment_s), film.file, tr("Choose another moment."))


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
