"""Looking at a movie file: its streams, and what is odd about it, before any work."""

from __future__ import annotations

import math
import struct
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import msgspec
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream

from caracal.core.base.errors import InputError, missing
from caracal.core.base.limits import (
    LEAST_RATE,
    LEAST_SIDE,
    LONGEST_STILL_S,
    MOST_CHANNELS,
    MOST_FRAMES,
    MOST_PIXELS,
    MOST_SHAPE,
    MOST_SIDE,
)
from caracal.core.base.paths import text_of
from caracal.core.base.time import nearest_standard_rate, rate_text
from caracal.core.base.translation import tr
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.channels import open_channels
from caracal.core.media.master import Colour, Master, SoundStream, _notices
from caracal.core.media.picture_clock import (
    JOINED_CONTAINERS,
    PictureTimes,
    picture_stream,
    read_times,
    steady_step,
)

FIRST_PACKETS = 500  # tried before it is said that nothing can be decoded
SAID_SHARE = 0.02  # how far the rate that a container names may be from its pictures' own
MATROSKA = "matroska,webm"
STEADY_SHARE = 0.01  # this many odd intervals are rounding, more are a variable rate
CUT_OFF_S = 1.0  # a file whose last picture comes this much too early is cut off
MATRIX_BT709 = 1  # ITU-T H.273 matrix coefficients
MATRIX_UNKNOWN = 2
FULL_RANGE = 2  # AVCOL_RANGE_JPEG


def probe(path: Path) -> Master:
    """Open ``path`` and describe it.

    Raises InputError when it is missing, unreadable, cut off, or holds no moving picture.
    """
    if not path.is_file():
        raise missing(path)
    if path.stat().st_size == 0:
        raise InputError(tr("This file is empty."), path, tr("Copy or export it again."))
    with reading(path):
        with opened(path) as container:
            stream = picture_stream(container)
            if stream is None:
                raise InputError(tr("This file has no picture."), path, tr("Choose a movie file."))
            _refuse_size(path, stream)
            turn = _first_picture(container, stream)
        # Opened anew: no seek brings back pictures that lie before the first time.
        with opened(path) as container:
            stream = picture_stream(container)
            assert stream is not None
            return _describe(path, container, stream, turn)


def _describe(
    path: Path, container: InputContainer, stream: VideoStream, turn: _Turn
) -> Master:
    context = stream.codec_context
    seen = read_times(container, stream, path.stat().st_size)
    if len(seen.times) + seen.untimed < 2:
        raise InputError(tr("This file has a single still picture."), path,
                         tr("Choose a movie file."))
    rate, variable = _rate(path, stream, seen)
    _refuse_cut_off(path, container, stream, seen)
    aspect = stream.sample_aspect_ratio or Fraction(1)
    aspect = aspect if aspect > 0 else Fraction(1)
    width, height = round(context.width * aspect), context.height
    if turn.degrees % 180:
        width, height = height, width
    start_s = float(seen.times[0] - seen.untimed / rate)
    shown_s = seen.end_s - start_s if variable else seen.last_s - start_s + 1 / float(rate)
    frames = max(1, round(shown_s * float(rate)))
    if frames > MOST_FRAMES:
        raise InputError(tr("This film is {shown_s:.0f} hours long.", shown_s=shown_s / 3600), path,
                         tr("Its timestamps may be damaged: export it again."))
    master = Master(
        path=text_of(path), container=container.format.name, codec=context.codec.canonical_name,
        profile=str(context.profile or ""), level=int(getattr(context, "level", 0) or 0),
        stored_width=context.width, stored_height=context.height,
        pixel_aspect=rate_text(aspect), rotation_degrees=turn.degrees, width=width, height=height,
        frame_rate=rate_text(rate), variable_rate=variable, frames=frames,
        start_s=start_s, duration_s=float(frames / rate),
        pixel_format=context.pix_fmt or "", bit_depth=_bit_depth(stream),
        interlaced=turn.interlaced,
        colour=Colour(
            int(context.color_primaries), int(context.color_trc), int(context.colorspace),
            int(context.color_range) == FULL_RANGE or (context.pix_fmt or "").startswith("yuvj"),
        ),
        bitrate_kbps=round((container.bit_rate or 0) / 1000, 1),
        sound=read_sounds(path, container), notices=(), mirrored=turn.mirrored,
        discontinuous=seen.joints > 0, picture_index=stream.index, brand=_brand(path, container))
    return msgspec.structs.replace(master, notices=_notices(master))


def _refuse_size(path: Path, stream: VideoStream) -> None:
    if stream.codec_context is None:  # of a kind that the media library does not know
        raise InputError(tr("This file's picture is of an unknown kind."), path,
                         tr("Export the movie again, as H.264 for instance."))
    width, height = stream.codec_context.width, stream.codec_context.height
    if not width or not height:
        raise InputError(tr("This file's picture has no size."), path,
                         tr("Export the movie again."))
    if min(width, height) < LEAST_SIDE:
        raise InputError(tr("This file's picture is {width} × {height} pixels; films have at least "
                            "{least} × {least}.", width=width, height=height, least=LEAST_SIDE),
                         path, tr("Choose another film, or export it larger."))
    if max(width, height) > MOST_SHAPE * min(width, height):
        raise InputError(tr("This file's picture is {width} × {height} pixels, too narrow for a "
                            "film.", width=width, height=height), path,
                         tr("Choose another film, or crop this one first."))
    if max(width, height) > MOST_SIDE or width * height > MOST_PIXELS:
        raise InputError(tr("This file's picture is {width} × {height} pixels, too large for a "
                            "film.",
                            width=width, height=height), path,
                         tr("Export it with at most 8192 × 8192 pixels."))


class _Turn(msgspec.Struct, frozen=True):
    """How the stored picture is to be brought upright, and whether it is interlaced."""

    interlaced: bool = False
    degrees: int = 0
    mirrored: bool = False


def _first_picture(container: InputContainer, stream: VideoStream) -> _Turn:
    """What the first picture that can be decoded says of all."""
    for tried, packet in enumerate(container.demux(stream)):
        for frame in packet.decode():
            matrix = frame.side_data.get("DISPLAYMATRIX")
            degrees, mirrored = upright(_numbers(matrix) if matrix else None)
            return _Turn(frame.interlaced_frame, degrees, mirrored)
        if tried > FIRST_PACKETS:
            break
    return _Turn()


def _numbers(matrix: Any) -> tuple[int, ...]:
    return struct.unpack("<9i", bytes(matrix))


def upright(matrix: tuple[int, ...] | None) -> tuple[int, bool]:
    """(degrees, mirrored) of a display matrix (nine numbers, ISO/IEC 14496-12 section 8.3.2).

    The picture is first mirrored left to right, if it is, then turned clockwise by 360 minus
    ``degrees``, a multiple of 90.
    """
    if matrix is None:
        return 0, False
    across, down, sideways, along = matrix[0], matrix[1], matrix[3], matrix[4]
    mirrored = across * along - down * sideways < 0
    if mirrored:
        across, down = -across, -down
    clockwise = round(math.degrees(math.atan2(down, across)) / 90) * 90
    return -clockwise % 360, mirrored


def _rate(path: Path, stream: VideoStream, seen: PictureTimes) -> tuple[Fraction, bool]:
    """The exact rate, and whether the picture times vary."""
    said = stream.average_rate or stream.base_rate or stream.guessed_rate
    if len(seen.times) < 2:
        return nearest_standard_rate(Fraction(said or 25)), False
    typical, steps = steady_step(seen.times)
    if float(steps.max()) > LONGEST_STILL_S:
        raise InputError(tr("The timestamps of this film jump by {max:.0f} s.",
                            max=float(steps.max())),
                         path, tr("Export it again, or cut it there."))
    tick = float(stream.time_base or 0)
    odd = np.abs(steps - typical) > max(typical * 0.25, tick * 1.5)
    variable = bool(odd.mean() > STEADY_SHARE)
    # The quickest usual step, not the average: slower stretches double pictures, none is lost.
    step = max(float(np.percentile(steps, 10)) if variable else typical, 1e-3)
    if 1 / step < LEAST_RATE:
        raise InputError(tr("This film has a new picture only every {step:.1f} s.", step=step),
                         path, tr("Export it with at least one picture a second."))
    if variable or not said:
        return nearest_standard_rate(Fraction(1 / step)), variable
    if abs(float(said) * typical - 1) > SAID_SHARE:  # some containers count fields
        return nearest_standard_rate(Fraction(1 / step)), False
    near = nearest_standard_rate(Fraction(said))
    close = abs(float(near / said) - 1) < 2e-4  # rounding of the container's own clock
    return (near if close else Fraction(said)), False


def _refuse_cut_off(
    path: Path, container: InputContainer, stream: VideoStream, seen: PictureTimes
) -> None:
    """Raise InputError when the file ends well before what it promises."""
    if seen.joints or container.format.name in JOINED_CONTAINERS:
        return  # transport streams promise nothing
    base = stream.time_base or Fraction(1, 90000)
    if stream.duration:
        promised, reached = float(stream.duration * base), seen.end_s
        reached -= float((stream.start_time or 0) * base)
    else:
        promised, reached = (container.duration or 0) / av.time_base, seen.reached_s
    if promised - reached > CUT_OFF_S:
        raise InputError(tr("This file is cut off: it promises {promised:.1f} s and its picture "
                            "cannot be read to the end.", promised=promised), path,
                         tr("Copy or export it again."))


def read_sounds(path: Path, container: InputContainer) -> tuple[SoundStream, ...]:
    """Every sound stream that can be read. Raises InputError when there is sound and none can."""
    streams = container.streams.audio
    found = []
    for stream in streams:
        context = stream.codec_context
        if context is None or not context.sample_rate:
            continue
        names = open_channels(stream)
        if 0 < len(names) <= MOST_CHANNELS:
            found.append(SoundStream(context.codec.canonical_name, context.sample_rate,
                                     len(names), _layout_words(names), stream.index))
    if streams and not found:
        raise InputError(tr("This film's sound is of a kind that cannot be read."), path,
                         tr("Export it with AAC or PCM sound."))
    return tuple(found)


def _layout_words(names: tuple[str, ...]) -> str:
    words = {("FC",): "mono", ("FL", "FR"): "stereo"}
    return words.get(names, " ".join(names) if len(names) <= 8 else f"{len(names)} channels")


def _brand(path: Path, container: InputContainer) -> str:
    """What a container calls itself: MP4's major brand, Matroska's DocType; else nothing."""
    if container.format.name == MATROSKA:
        return doc_type(path)
    return str(container.metadata.get("major_brand", ""))


def doc_type(path: Path) -> str:
    """The DocType in a Matroska or WebM file's first bytes (RFC 8794, element 0x4282)."""
    with path.open("rb") as file:
        head = file.read(256)
    at = head.find(b"\x42\x82")
    length = head[at + 2] & 0x7F if 0 <= at < len(head) - 2 else 0
    return head[at + 3 : at + 3 + length].decode("ascii", "replace")


def _bit_depth(stream: VideoStream) -> int:
    form = stream.codec_context.format
    return max((component.bits for component in form.components), default=8) if form else 8


