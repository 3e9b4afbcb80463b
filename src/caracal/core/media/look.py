"""Looking at a movie file: its streams, and what is odd about it, before any work."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import msgspec
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream

from caracal.core.errors import InputError
from caracal.core.media.gate import missing, opened, reading
from caracal.core.time import nearest_standard_rate, rate_text

STEADY_PACKETS = 1500  # enough to notice a variable rate, quick to read
STEADY_SHARE = 0.01  # this many odd intervals are rounding, more are a variable rate
CUT_OFF_S = 1.0  # a file whose last picture comes this much too early is cut off
HDR_TRANSFERS = {16: "PQ", 18: "HLG"}  # ITU-T H.273 transfer characteristics
MATRIX_BT709 = 1  # ITU-T H.273 matrix coefficients
MATRIX_UNKNOWN = 2
FULL_RANGE = 2  # AVCOL_RANGE_JPEG


class SoundStream(msgspec.Struct, frozen=True):
    """One sound stream of a file."""

    codec: str
    rate_hz: int
    channels: int
    layout: str


class Colour(msgspec.Struct, frozen=True):
    """Colour tags as numbers of ITU-T H.273; 2 means unknown."""

    primaries: int
    transfer: int
    matrix: int
    full_range: bool


class Master(msgspec.Struct, frozen=True):
    """What a movie file is. ``width`` x ``height`` is the upright picture with square pixels.

    ``frame_rate`` is the exact constant rate that frames are counted in; a file of variable rate
    is conformed to the nearest standard rate. ``start_s`` is the time of the first picture.
    """

    path: str
    container: str
    codec: str
    profile: str
    level: int
    stored_width: int
    stored_height: int
    pixel_aspect: str
    rotation_degrees: int
    width: int
    height: int
    frame_rate: str
    variable_rate: bool
    frames: int
    start_s: float
    duration_s: float
    pixel_format: str
    bit_depth: int
    interlaced: bool
    colour: Colour
    bitrate_kbps: float
    sound: tuple[SoundStream, ...]
    notices: tuple[str, ...]

    @property
    def rate(self) -> Fraction:
        """``frame_rate`` as a number."""
        return Fraction(self.frame_rate)

    @property
    def file(self) -> Path:
        """``path`` as a path."""
        return Path(self.path)


def look(path: Path) -> Master:
    """Open ``path`` and describe it.

    Raises InputError when it is missing, unreadable, cut off, or holds no moving picture.
    """
    if not path.is_file():
        raise missing(path)
    if path.stat().st_size == 0:
        raise InputError("This file is empty.", path, "Copy or export it again.")
    with reading(path), opened(path) as container:
        if not container.streams.video:
            raise InputError("This file has no picture.", path, "Choose a movie file.")
        return _describe(path, container)


def _describe(path: Path, container: InputContainer) -> Master:
    stream = container.streams.video[0]
    context = stream.codec_context
    if not context.width or not context.height:
        raise InputError("This file's picture has no size.", path, "Export the movie again.")
    times, interlaced, rotation = _sample(container, stream)
    if len(times) < 2:
        raise InputError("This file has a single still picture.", path, "Choose a movie file.")
    rate, variable = _rate(stream, times)
    duration = _whole_duration_s(path, container, stream, rate)
    aspect = stream.sample_aspect_ratio or Fraction(1)
    aspect = aspect if aspect > 0 else Fraction(1)
    width, height = round(context.width * aspect), context.height
    if rotation % 180:
        width, height = height, width
    frames = stream.frames if stream.frames and not variable else max(1, round(duration * rate))
    master = Master(
        path=str(path), container=container.format.name, codec=context.codec.canonical_name,
        profile=str(context.profile or ""), level=int(getattr(context, "level", 0) or 0),
        stored_width=context.width, stored_height=context.height,
        pixel_aspect=rate_text(aspect), rotation_degrees=rotation, width=width, height=height,
        frame_rate=rate_text(rate), variable_rate=variable, frames=frames,
        start_s=float(times[0]), duration_s=float(frames / rate),
        pixel_format=context.pix_fmt or "", bit_depth=_bit_depth(stream), interlaced=interlaced,
        colour=Colour(
            int(context.color_primaries), int(context.color_trc), int(context.colorspace),
            int(context.color_range) == FULL_RANGE or (context.pix_fmt or "").startswith("yuvj"),
        ),
        bitrate_kbps=round((container.bit_rate or 0) / 1000, 1),
        sound=tuple(
            SoundStream(s.codec_context.codec.canonical_name, s.codec_context.sample_rate,
                        s.codec_context.layout.nb_channels, s.codec_context.layout.name)
            for s in container.streams.audio
        ),
        notices=(),
    )
    return msgspec.structs.replace(master, notices=_notices(master))


def _sample(
    container: InputContainer, stream: VideoStream
) -> tuple[list[Fraction], bool, int]:
    """Sorted picture times of the first packets, the interlace flag, and the rotation."""
    base = stream.time_base or Fraction(1, 90000)
    times: list[Fraction] = []
    interlaced, rotation, decoded = False, 0, False
    for packet in container.demux(stream):
        if packet.pts is not None:
            times.append(packet.pts * base)
        if not decoded:
            for frame in packet.decode():
                interlaced, rotation = frame.interlaced_frame, int(frame.rotation) % 360
                decoded = True
        if len(times) >= STEADY_PACKETS:
            break
    return sorted(times), interlaced, rotation


def _rate(stream: VideoStream, times: list[Fraction]) -> tuple[Fraction, bool]:
    """The exact rate, and whether the picture times vary."""
    said = stream.average_rate or stream.base_rate or stream.guessed_rate
    steps = np.diff(np.array([float(t) for t in times]))
    typical = float(np.median(steps))
    tick = float(stream.time_base or 0)
    odd = np.abs(steps - typical) > max(typical * 0.25, tick * 1.5)
    variable = bool(odd.mean() > STEADY_SHARE)
    if variable or not said:
        # The quickest usual step, not the average: slower stretches double pictures, none is lost.
        step = float(np.percentile(steps, 10)) if variable else typical
        return nearest_standard_rate(Fraction(1 / max(step, 1e-3))), variable
    near = nearest_standard_rate(Fraction(said))
    close = abs(float(near / said) - 1) < 2e-4  # rounding of the container's own clock
    return (near if close else Fraction(said)), False


def _duration_s(container: InputContainer, stream: VideoStream) -> float:
    if stream.duration and stream.time_base:
        return float(stream.duration * stream.time_base)
    return (container.duration or 0) / av.time_base


def _whole_duration_s(
    path: Path, container: InputContainer, stream: VideoStream, rate: Fraction
) -> float:
    """How long the pictures last; what the file promises may be how long its sound does.

    Raises InputError when they end well before that promise.
    """
    promised = _duration_s(container, stream)
    base = stream.time_base or Fraction(1, 90000)
    start = float((stream.start_time or 0) * base)
    last = 0.0
    try:
        container.seek(int(max(0.0, start + promised - 2.0) / base), stream=stream)
        for packet in container.demux(stream):
            if packet.pts is not None:
                lasts = (packet.duration or 0) * base or 1 / rate
                last = max(last, float(packet.pts * base + lasts) - start)
    except av.error.FFmpegError:
        last = 0.0
    if promised - last > CUT_OFF_S:
        raise InputError(
            f"This file is cut off: it promises {promised:.1f} s and its picture cannot be read "
            "to the end.", path, "Copy or export it again.",
        )
    return last or promised


def _bit_depth(stream: VideoStream) -> int:
    form = stream.codec_context.format
    return max((component.bits for component in form.components), default=8) if form else 8


def _notices(master: Master) -> tuple[str, ...]:
    """What a person should know about this master, a sentence each."""
    said = []
    if not master.sound:
        said.append("No sound: versions get none unless a spec sheet needs a silent track.")
    if master.variable_rate:
        said.append(f"Variable frame rate: conformed to a constant {float(master.rate):.3f} fps.")
    if master.rotation_degrees:
        said.append(f"Stored sideways: turned by {master.rotation_degrees} degrees.")
    if Fraction(master.pixel_aspect) != 1:
        said.append("Pixels are not square: widened to their true shape.")
    if master.interlaced:
        said.append("Interlaced: every frame is deinterlaced.")
    if master.colour.transfer in HDR_TRANSFERS:
        said.append(f"High dynamic range ({HDR_TRANSFERS[master.colour.transfer]}): tone-mapped "
                    "to BT.709.")
    if min(master.width, master.height) < 720:
        said.append("Low resolution: versions will be enlarged.")
    return tuple(said)
