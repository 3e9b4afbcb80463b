"""The one gate for failures of the media library: its codes become errors of ours."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import av
import av.error
import av.logging
import cv2
from av.container import InputContainer

from caracal.core.base.errors import CaracalError, InputError, missing, reason_of, storage_error
from caracal.core.base.translation import tr

# None, not a level: with a level set the library's threads call into Python for every message, and
# closing a file that is still being decoded waits for them for ever.
av.logging.set_level(None)
# Our own threads share the processor; a second pool inside each call only makes them wait.
cv2.setNumThreads(1)


@contextmanager
def reading(path: Path, sound: bool = False) -> Iterator[None]:
    """Turn the library's failures while reading ``path`` into InputError; ``sound``: it is a file
    of which the sound is wanted."""
    try:
        yield
    except CaracalError:
        raise
    except (av.error.FileNotFoundError, FileNotFoundError) as problem:
        raise missing(path) from problem
    except (av.error.PermissionError, PermissionError) as problem:
        raise InputError(tr("You have no permission to read this file."), path,
                         tr("Change its permissions or copy it.")) from problem
    except (av.error.FFmpegError, MemoryError) as problem:
        if sound:
            raise InputError(tr("This is not a sound file Caracal can read ({reason_of}).",
                                reason_of=reason_of(problem)), path,
                             tr("It may be incomplete or of another format; export it again, for "
                                "example as WAV or MP3.")) from problem
        raise InputError(tr("This is not a movie Caracal can read ({reason_of}).",
                            reason_of=reason_of(problem)), path,
                         tr("It may be incomplete or of another format; export it again, for "
                            "example as MP4 or MOV.")) from problem


# Media containers only: a list, a script or an address in a film's clothes opens nothing else.
CONTAINERS = ("mov,mp4,m4a,3gp,3g2,mj2,matroska,webm,avi,mxf,mxf_opatom,mpegts,mpeg,asf,flv,f4v,"
              "ogg,gif,nut,gxf,lxf,dv,wav,w64,aiff,flac,mp3,aac,ac3,yuv4mpegpipe")
DOORS = {"protocol_whitelist": "file", "format_whitelist": CONTAINERS}


def opened(path: Path, sound: bool = False) -> InputContainer:
    """The movie file at ``path``. Names and titles in it may be of any encoding: none is refused.

    Only media containers are opened, and only files. Raises InputError.
    """
    with reading(path, sound):
        return av.open(address(path), metadata_errors="replace", options=dict(DOORS))


def address(path: Path) -> str:
    """``path`` as the media library takes it, also where the name holds a colon."""
    return f"file:{path}"


@contextmanager
def writing(path: Path) -> Iterator[None]:
    """Turn the library's failures while writing ``path`` into StorageError or CaracalError."""
    try:
        yield
    except CaracalError:
        raise
    except (av.error.FFmpegError, OSError) as problem:
        raise storage_error(path, problem) from problem
