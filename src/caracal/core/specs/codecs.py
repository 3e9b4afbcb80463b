"""What the encoders can do: codecs, their profiles and pixel formats, and where they may be put.

Containers: ISO/IEC 14496-12 and the registrations at mp4ra.org for MP4, the QuickTime File
Format for MOV, the WebM container guidelines, and the Matroska codec mappings (all from memory).
"""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass(frozen=True)
class VideoCodec:
    """A family of encoders. ``profiles`` are the names a finished file tells, and the encoder's.

    ``found`` is what a prober calls the codec; ``intra`` when every picture stands alone, and then
    ``bits_a_pixel`` is about what it takes: measured on ten seconds of the demo film. ``depths``
    names the pixel formats of profiles that take only some. ``least_canvas`` is the smallest that
    the encoder takes; ``quality`` is the range of its own scale, best first (None: it has none);
    ``least_gop`` is how many pictures a group has at the least. A ``scalable`` intermediate can be
    told to take fewer bits.
    """

    title: str
    encoder: str
    found: str
    containers: tuple[str, ...]
    pixel_formats: tuple[str, ...]
    profiles: dict[str, str]
    intra: bool = False
    bits_a_pixel: float = 0.0
    depths: dict[str, tuple[str, ...]] = field(default_factory=dict)
    least_canvas: tuple[int, int] = (16, 16)
    quality: tuple[float, float] | None = None
    least_gop: int = 1
    scalable: bool = False

    def formats_of(self, profile: str) -> tuple[str, ...]:
        """The pixel formats that a profile takes."""
        return self.depths.get(profile, self.pixel_formats)


@dataclass(frozen=True)
class SoundCodec:
    """A sound encoder; ``rates_hz`` empty takes any. ``block`` is how many samples it takes at a
    time, ``least_bits`` how many bits a sample of a channel needs, ``most_kbps`` how many a
    channel may have."""

    title: str
    encoder: str
    found: str
    containers: tuple[str, ...]
    rates_hz: tuple[int, ...] = ()
    lossless: bool = False
    most_kbps: int = 512
    block: int = 1
    least_bits: float = 0.0


VIDEO = {
    "h264": VideoCodec(
        "H.264", "libx264", "h264", ("mp4", "mov", "mkv"), ("yuv420p",),
        {"Constrained Baseline": "baseline", "Main": "main", "High": "high"},
        quality=(1, 51)),  # 0 is lossless, which these profiles have not
    "h265": VideoCodec(
        "H.265", "libx265", "hevc", ("mp4", "mov", "mkv"), ("yuv420p", "yuv420p10le"),
        {"Main": "main", "Main 10": "main10"}, least_canvas=(64, 64), quality=(0, 51),
        depths={"Main": ("yuv420p",), "Main 10": ("yuv420p10le",)},  # ITU-T H.265 A.3
        least_gop=2),  # with one picture the encoder declares an intra profile
    "vp9": VideoCodec(
        "VP9", "libvpx-vp9", "vp9", ("webm", "mkv", "mp4"), ("yuv420p",), {"Profile 0": "0"},
        quality=(0, 63)),
    "av1": VideoCodec(
        "AV1", "libsvtav1", "av1", ("mp4", "webm", "mkv"), ("yuv420p", "yuv420p10le"),
        {"Main": "main"}, least_canvas=(64, 64), quality=(1, 63)),
    "prores": VideoCodec(
        "10-bit 4:2:2 intermediate", "prores_ks", "prores", ("mov", "mkv"), ("yuv422p10le",),
        {"HQ": "hq", "Standard": "standard"}, intra=True, bits_a_pixel=2.33, scalable=True),
    "dnxhr": VideoCodec(
        "4:2:2 intermediate", "dnxhd", "dnxhd", ("mov",), ("yuv422p", "yuv422p10le"),
        {"DNXHR HQ": "dnxhr_hq", "DNXHR HQX": "dnxhr_hqx"}, intra=True, bits_a_pixel=3.54,
        depths={"DNXHR HQ": ("yuv422p",), "DNXHR HQX": ("yuv422p10le",)},
        least_canvas=(256, 120)),  # SMPTE ST 2019-1, from memory; the encoder refuses less
}

SOUND = {
    "aac": SoundCodec("AAC", "aac", "aac", ("mp4", "mov", "mkv"),
                      (96000, 88200, 64000, 48000, 44100, 32000, 24000, 22050, 16000, 12000, 11025,
                       8000), block=1024, least_bits=0.3),  # ISO/IEC 14496-3, Table 1.18
    "opus": SoundCodec("Opus", "libopus", "opus", ("webm", "mkv", "mp4"),
                       (48000,), block=960, most_kbps=256),  # decoders give 48 kHz: RFC 7845, 5.1
    "pcm": SoundCodec("PCM 24 bit", "pcm_s24le", "pcm_s24le", ("mov", "mkv"), lossless=True),
}

MUXERS = {"mp4": "mp4", "mov": "mov", "mkv": "matroska", "webm": "webm"}
TWO_PASSES = ("h264", "h265")  # codecs whose encoders take notes in a first pass
INDEXED = ("mp4", "mov")  # those whose index may stand in front
