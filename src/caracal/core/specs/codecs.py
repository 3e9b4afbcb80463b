"""What the encoders can do: codecs, their profiles and pixel formats, and where they may be put.

Containers: ISO/IEC 14496-12 and the registrations at mp4ra.org for MP4, the QuickTime File
Format for MOV, the WebM container guidelines, and the Matroska codec mappings (all from memory).
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class VideoCodec:
    """A family of encoders. ``profiles`` are the names a finished file tells, and the encoder's.

    ``found`` is what a prober calls the codec; ``intra`` when every picture stands alone, and then
    ``bits_a_pixel`` is about what it takes: measured on ten seconds of the demo film.
    """

    title: str
    encoder: str
    found: str
    containers: tuple[str, ...]
    pixel_formats: tuple[str, ...]
    profiles: dict[str, str]
    intra: bool = False
    bits_a_pixel: float = 0.0


@dataclass(frozen=True)
class SoundCodec:
    """A sound encoder; ``rates_hz`` empty takes any."""

    title: str
    encoder: str
    found: str
    containers: tuple[str, ...]
    rates_hz: tuple[int, ...] = ()
    lossless: bool = False


VIDEO = {
    "h264": VideoCodec(
        "H.264", "libx264", "h264", ("mp4", "mov", "mkv"), ("yuv420p",),
        {"Constrained Baseline": "baseline", "Main": "main", "High": "high"}),
    "h265": VideoCodec(
        "H.265", "libx265", "hevc", ("mp4", "mov", "mkv"), ("yuv420p", "yuv420p10le"),
        {"Main": "main", "Main 10": "main10"}),
    "vp9": VideoCodec(
        "VP9", "libvpx-vp9", "vp9", ("webm", "mkv", "mp4"), ("yuv420p",), {"Profile 0": "0"}),
    "av1": VideoCodec(
        "AV1", "libsvtav1", "av1", ("mp4", "webm", "mkv"), ("yuv420p", "yuv420p10le"),
        {"Main": "main"}),
    "prores": VideoCodec(
        "10-bit 4:2:2 intermediate", "prores_ks", "prores", ("mov", "mkv"), ("yuv422p10le",),
        {"HQ": "hq", "Standard": "standard"}, intra=True, bits_a_pixel=2.33),
    "dnxhr": VideoCodec(
        "4:2:2 intermediate", "dnxhd", "dnxhd", ("mov",), ("yuv422p", "yuv422p10le"),
        {"DNXHR HQ": "dnxhr_hq", "DNXHR HQX": "dnxhr_hqx"}, intra=True, bits_a_pixel=3.54),
}

SOUND = {
    "aac": SoundCodec("AAC", "aac", "aac", ("mp4", "mov", "mkv")),
    "opus": SoundCodec("Opus", "libopus", "opus", ("webm", "mkv", "mp4"),
                       (48000, 24000, 16000, 12000, 8000)),
    "pcm": SoundCodec("PCM 24 bit", "pcm_s24le", "pcm_s24le", ("mov", "mkv"), lossless=True),
}

MUXERS = {"mp4": "mp4", "mov": "mov", "mkv": "matroska", "webm": "webm"}
TWO_PASSES = ("h264", "h265")  # codecs whose encoders take notes in a first pass
INDEXED = ("mp4", "mov")  # those whose index may stand in front
