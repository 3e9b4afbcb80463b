"""What a finished file really holds, read packet by packet from the file itself."""

from __future__ import annotations

from fractions import Fraction
from itertools import islice
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from av.container import InputContainer

from caracal.core.base.errors import InputError
from caracal.core.base.time import rate_text, samples_at
from caracal.core.base.translation import tr
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.master import Colour, Master, SoundStream
from caracal.core.media.picture_clock import picture_stream
from caracal.core.media.probe import MATROSKA, probe
from caracal.core.media.sound import SoundReader
from caracal.core.sound.loudness import Loudness, Meter

IDR = 5  # nal_unit_type of an instantaneous refresh, ITU-T H.264 Table 7-1
SLICES = (1, 5)
HEVC_IDR = (19, 20)  # ITU-T H.265 Table 7-1; 21 is a clean random access: an open GOP
MP4_FAMILY = "mov,mp4,m4a,3gp,3g2,mj2"
QUICKTIME = "qt  "
MP4_BRANDS = ("iso", "mp4", "avc", "M4V", "dash", "hvc", "hev", "av0", "MSNV", "f4v")  # mp4ra.org
SAMPLED_AT = (0.1, 0.5, 0.9)  # of the length
SAMPLED_FRAMES = 8
HEVC_OTHERS = 32  # from here on: parameter sets and messages, no pictures


class Evidence(msgspec.Struct, frozen=True):
    """Facts of one movie file. Gaps are sound minus picture, in seconds; sizes in 10^6 bytes."""

    width: int
    height: int
    pixel_aspect: str
    codec: str
    profile: str
    level: int
    pixel_format: str
    colour: Colour
    interlaced: bool
    frame_rate: str
    steady: bool
    frames: int
    longest_gop: int
    closed_gop: bool
    video_kbps: float
    busiest_second_kb: float
    sound: SoundStream | None
    sound_kbps: float
    sound_start_gap_s: float
    sound_end_gap_s: float
    container: str
    index_first: bool
    size_mb: float
    loudness: Loudness | None = None

    def colour_name(self) -> str:
        """``BT.709 limited`` or the tags as numbers of ITU-T H.273."""
        tags = (self.colour.primaries, self.colour.transfer, self.colour.matrix)
        span = "full" if self.colour.full_range else "limited"
        return f"BT.709 {span}" if tags == (1, 1, 1) else f"{'/'.join(map(str, tags))} {span}"


def gather(path: Path) -> Evidence:
    """Read every packet of ``path``. Raises InputError when it is not a readable movie."""
    master = probe(path)
    with reading(path), opened(path) as container:
        video, audio = _packets(container, master)
    if not video:
        raise InputError(tr("This file has no pictures."), path, tr("Encode it again."))
    rate = Fraction(master.frame_rate)
    times = np.sort(np.array([float(packet.time) for packet in video]))
    length = float(len(video) / rate)
    keys = [i for i, packet in enumerate(video) if packet.key]
    gaps = np.diff([*keys, len(video)])
    starts, ends = _gaps(times, length, audio)
    sound_s = sum(packet.duration for packet in audio)
    return Evidence(
        width=master.stored_width, height=master.stored_height, pixel_aspect=master.pixel_aspect,
        codec=master.codec, profile=master.profile, level=master.level,
        pixel_format=master.pixel_format, colour=master.colour, interlaced=master.interlaced,
        frame_rate=rate_text(rate),
        steady=bool(np.abs(np.diff(times) * float(rate) - 1).max(initial=0.0) < 0.1),
        frames=len(video), longest_gop=int(gaps.max()),
        closed_gop=all(video[i].idr for i in keys),
        video_kbps=sum(packet.size for packet in video) * 8 / 1000 / length,
        busiest_second_kb=_busiest(video, round(rate)),
        sound=master.sound[0] if master.sound else None,
        sound_kbps=sum(packet.size for packet in audio) * 8 / 1000 / sound_s if sound_s else 0.0,
        sound_start_gap_s=starts, sound_end_gap_s=ends,
        container=container_kind(master), index_first=_index_first(path),
        size_mb=path.stat().st_size / 1e6,
        loudness=_loudness(master) if master.sound else None,
    )


def _loudness(master: Master) -> Loudness:
    """How loud the first sound stream is, as it is."""
    sound = master.sound[0]
    channels = 1 if sound.channels == 1 else 2
    count = samples_at(master.frames, master.rate, sound.rate_hz)
    meter = Meter(sound.rate_hz, channels)
    with SoundReader(master, sound.rate_hz, channels) as reader:
        for at in range(0, count, sound.rate_hz):
            meter.push(reader.take(min(sound.rate_hz, count - at)))
    return meter.result()


def container_kind(master: Master) -> str:
    """What the file is by its own words: mp4, mov, mkv, webm, or what the library calls it.

    MP4 and QuickTime share a structure and differ in the brand (ISO/IEC 14496-12 section 4.3);
    Matroska and WebM in the DocType (RFC 9559).
    """
    if master.container == MATROSKA:
        return {"webm": "webm", "matroska": "mkv"}.get(master.brand, master.brand)
    if master.container == MP4_FAMILY:
        if master.brand in (QUICKTIME, ""):  # the oldest QuickTime files name no brand
            return "mov"
        return "mp4" if master.brand.startswith(MP4_BRANDS) else master.brand.strip()
    return master.container


def quantiser(path: Path) -> float | None:
    """The mean quantiser of a file's pictures, sampled; None where its codec does not tell.

    Only H.264 (0 the finest, 51 the coarsest) is asked: others have scales of their own.
    """
    with reading(path), opened(path) as container:
        stream = picture_stream(container)
        if stream is None or stream.codec_context.name != "h264":
            return None
        stream.codec_context.options = {"export_side_data": "venc_params"}
        length = float((stream.duration or 0) * (stream.time_base or 0))
        found: list[float] = []
        for share in SAMPLED_AT:
            container.seek(int(length * share / (stream.time_base or Fraction(1))), stream=stream)
            for frame in islice(container.decode(stream), SAMPLED_FRAMES):
                told: Any = frame.side_data.get("VIDEO_ENC_PARAMS")
                if told is not None:
                    found.append(float(np.mean(told.qp_map())))
    return float(np.mean(found)) if found else None


def picture_sizes(path: Path) -> list[int]:
    """Bytes of the pictures, in the order in which they are shown.

    Raises InputError when ``path`` is not a readable movie.
    """
    master = probe(path)
    with reading(path), opened(path) as container:
        video, _ = _packets(container, master)
    return [packet.size for packet in sorted(video, key=lambda packet: packet.time)]


class _Packet(msgspec.Struct, frozen=True):
    time: float
    duration: float
    size: int
    key: bool
    idr: bool


def _packets(
    container: InputContainer, master: Master
) -> tuple[list[_Packet], list[_Packet]]:
    """Every packet of the picture and of the first sound that is shown or heard."""
    video: list[_Packet] = []
    audio: list[_Packet] = []
    chosen = [container.streams[master.picture_index],
              *(container.streams[stream.index] for stream in master.sound[:1])]
    closed = CLOSED.get(master.codec)
    for packet in container.demux(chosen):
        if packet.pts is None or not packet.size or packet.is_discard:
            continue
        base = packet.time_base or Fraction(1)
        key = packet.is_keyframe
        is_video = packet.stream.type == "video"
        made = _Packet(
            float(packet.pts * base), float((packet.duration or 0) * base), packet.size, key,
            is_video and key and (closed is None or closed(bytes(packet))),
        )
        (video if is_video else audio).append(made)
    return video, audio


def _starts_with_idr(data: bytes) -> bool:
    """Whether the first slice of a length-prefixed (avcC, 4 bytes) access unit is IDR."""
    at = 0
    while at + 5 <= len(data):
        kind = data[at + 4] & 0x1F
        if kind in SLICES:
            return kind == IDR
        at += 4 + int.from_bytes(data[at : at + 4], "big")
    return False


def _starts_with_hevc_idr(data: bytes) -> bool:
    """The same for H.265, whose refresh may also be one that earlier pictures are shown after."""
    at = 0
    while at + 5 <= len(data):
        kind = data[at + 4] >> 1 & 0x3F
        if kind < HEVC_OTHERS:
            return kind in HEVC_IDR
        at += 4 + int.from_bytes(data[at : at + 4], "big")
    return False


# Of other codecs a key picture refreshes everything: nothing before it is used after it.
CLOSED = {"h264": _starts_with_idr, "hevc": _starts_with_hevc_idr}


def _gaps(times: np.ndarray, length: float, audio: list[_Packet]) -> tuple[float, float]:
    """(start, end) of sound minus those of the picture.

    Packets before the picture's start hold the encoder's priming, which the container's edit list
    hides; the end is that of the last packet, cut by the container to the sound's true length.
    """
    if not audio:
        return 0.0, 0.0
    first = max(audio[0].time, 0.0) if audio[0].time <= 0 else audio[0].time
    last = audio[-1].time + audio[-1].duration
    return first - float(times[0]), last - (float(times[0]) + length)


def _busiest(video: list[_Packet], window: int) -> float:
    """Kilobits of the largest run of one second of pictures, in decoding order."""
    sizes = np.array([packet.size for packet in video], np.float64) * 8 / 1000
    total = np.concatenate([[0.0], np.cumsum(sizes)])
    if len(sizes) <= window:
        return float(total[-1])
    return float((total[window:] - total[:-window]).max())


def _index_first(path: Path) -> bool:
    """Whether the ``moov`` box stands before ``mdat`` (ISO/IEC 14496-12)."""
    with path.open("rb") as file:
        while header := file.read(8):
            size, name = int.from_bytes(header[:4], "big"), header[4:8]
            if name in (b"moov", b"mdat"):
                return name == b"moov"
            if size == 1:
                size = int.from_bytes(file.read(8), "big") - 8
            if size < 8:
                return False
            file.seek(size - 8, 1)
    return False
