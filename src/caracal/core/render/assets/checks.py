"""Whether the files that a version is made with can be used, before anything is made."""

from __future__ import annotations

from caracal.core.analysis.film_pass.process import probe_apart
from caracal.core.base.errors import InputError, missing
from caracal.core.base.paths import changed_ns
from caracal.core.base.resources import asset_file
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.core.layout.added_sound import SoundFile
from caracal.core.layout.model import Clip, FileContent, Layout, PictureFile, Still
from caracal.core.media.master import Master
from caracal.core.media.probe_sound import probe_sound
from caracal.core.processes.apart import Call, call_apart
from caracal.core.render.assets.picture_checks import checked, checked_once, picture_ratio_apart

SOUND_S = 60.0  # to look at what a sound file is


def refuse_bad_assets(layout: Layout) -> None:
    """Raise InputError for the first file of ``layout`` that cannot be used."""
    for pane in layout.panes:
        refuse_bad_asset(pane.content)


def refuse_bad_asset(content: object, cancel: CancelToken | None = None) -> None:
    """Raise InputError when ``content`` is a picture, clip, still or sound that cannot be used.

    Raises Cancelled when it is stopped meanwhile.
    """
    if isinstance(content, SoundFile):
        sound_of(content, cancel)
        return
    if not isinstance(content, FileContent):
        return
    if isinstance(content, PictureFile):
        picture_ratio_apart(asset_file(content.path), cancel)
        return
    film = film_of(content, cancel)
    if isinstance(content, Still) and content.moment_s > film.frames / float(film.rate):
        raise InputError(tr("This film ends before {moment_s:.2f} s, where a picture is held.",
                            moment_s=content.moment_s), film.file, tr("Choose another moment."))


def is_checked(content: object) -> bool:
    """Whether :func:`refuse_bad_asset` has checked the file already, and so answers at once."""
    if not isinstance(content, FileContent | SoundFile):
        return True
    kind = {PictureFile: "picture", SoundFile: "sound"}.get(type(content), "film")
    path = asset_file(content.path)
    return (kind, path, changed_ns(path)) in checked


def film_of(content: Clip | Still, cancel: CancelToken | None = None) -> Master:
    """What the film file of ``content`` is, read once in a separate process.

    Raises InputError when it is missing or cannot be read, and Cancelled.
    """
    path = asset_file(content.path)

    def look() -> Master:
        if not path.is_file():
            raise missing(path) if not path.exists() else InputError(
                tr("This is no film file."), path, tr("Choose a file."))
        return probe_apart(path, cancel)

    return checked_once("film", path, look)


def sound_of(content: SoundFile, cancel: CancelToken | None = None) -> Master:
    """What the sound file of ``content`` is, read once in a separate process.

    Raises InputError when it is missing, has no sound or ends before it is to begin, and Cancelled.
    """
    path = asset_file(content.path)

    def look() -> Master:
        found: Master = call_apart(Call(probe_sound, (path,)), path, cancel=cancel,
                                   within_s=SOUND_S)
        return found

    found: Master = checked_once("sound", path, look)
    if content.start_s >= found.duration_s:
        raise InputError(tr("This sound ends at {end_s:.2f} s, before its start at {start_s:.2f} "
                            "s.", end_s=found.duration_s, start_s=content.start_s), path,
                         tr("Choose an earlier start."))
    return found
