"""Looking at a file of which only the sound is used: a sound file, or a film."""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path

import av
from av.container import InputContainer

from caracal.core.base.errors import InputError, missing
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.master import Colour, Master
from caracal.core.media.probe import read_sounds

RATE = 25  # frames a second in which its length is counted: it has none of its own
LONGEST_S = 24 * 3600.0


def probe_sound(path: Path) -> Master:
    """What the sound in the file at ``path`` is, as a master without a picture.

    Time 0 is that of its first sample; ``duration_s`` is how long it lasts. Raises InputError when
    the file is missing, unreadable or holds no sound.
    """
    if not path.is_file():
        raise missing(path) if not path.exists() else InputError(
            tr("This is no sound file."), path, tr("Choose a file."))
    if path.stat().st_size == 0:
        raise InputError(tr("This file is empty."), path, tr("Copy or export it again."))
    with reading(path, sound=True), opened(path, sound=True) as container:
        sounds = read_sounds(path, container)
        if not sounds:
            raise InputError(tr("This file has no sound."), path,
                             tr("Choose a file with sound, for example WAV or MP3."))
        stream = container.streams[sounds[0].index]
        base = stream.time_base or Fraction(1, 1000)
        start_s = float((stream.start_time or 0) * base)
        lasts_s = float(stream.duration * base) if stream.duration else (
            (container.duration or 0) / av.time_base)
        if lasts_s <= 0:
            lasts_s = _end_s(container, stream.index) - start_s
    if not 0 < lasts_s <= LONGEST_S:
        raise InputError(tr("This file's sound has no length that can be read."), path,
                         tr("Export it again, for example as WAV."))
    return Master(
        path=text_of(path), container=container.format.name, codec="", profile="", level=0,
        stored_width=0, stored_height=0, pixel_aspect="1/1", rotation_degrees=0, width=0, height=0,
        frame_rate=f"{RATE}/1", variable_rate=False, frames=max(1, math.ceil(lasts_s * RATE)),
        start_s=start_s, duration_s=lasts_s, pixel_format="", bit_depth=0, interlaced=False,
        colour=Colour(2, 2, 2, False), bitrate_kbps=0.0, sound=sounds, notices=())


def _end_s(container: InputContainer, index: int) -> float:
    """Where the last packet of the stream ends, in a file that does not say."""
    ends = [float((packet.pts + (packet.duration or 0)) * (packet.time_base or Fraction(1)))
            for packet in container.demux(container.streams[index]) if packet.pts is not None]
    return max(ends, default=0.0)
