"""From a spec sheet to what the encoders are told, and the size to expect."""

from __future__ import annotations

import re
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

from caracal.core.base.time import rate_text
from caracal.core.media.encode import EncoderSettings, SoundSettings
from caracal.core.specs.bits import Bits, bits_of, intra_kbps
from caracal.core.specs.codecs import MUXERS
from caracal.core.specs.levels import lowest_level, macroblocks, most_references
from caracal.core.specs.sheet import Index, Sound, SpecSheet

PRESET = "fast"  # at these bitrates it looks like medium and takes about three quarters of the time
REFERENCES = 3
CONTAINER_SHARE = 1.01  # common practice: one part in a hundred on top
TAGS = "colorprim=bt709:transfer=bt709:colormatrix=bt709"

Options = dict[str, str]


def encoder_settings(
    sheet: SpecSheet, rate: Fraction, with_sound: bool, turn: int = 0, file: Path | None = None,
    bits: Bits | None = None,
) -> EncoderSettings:
    """Settings for a checked ``sheet`` at ``rate`` frames a second.

    ``turn`` 1 and 2 are the two passes over ``file``; the encoder's notes lie beside it. ``bits``
    are those of the file, where its length is known; else the sheet's.
    """
    bits = bits or bits_of(sheet, rate)
    width, height = sheet.canvas
    video = sheet.video
    gop = 1 if video.family.intra else max(1, int(video.gop_s * rate))
    options = OPTIONS[video.codec](sheet, rate, gop, bits)
    if turn and file is not None:
        key = PASSES[video.codec]
        options[key] += f":pass={turn}:stats={_escaped(notes_file(file))}"
    return EncoderSettings(
        width=width, height=height, frame_rate=rate_text(rate), encoder=video.family.encoder,
        pixel_format=video.pixel_format, gop_frames=gop,
        options=options,
        bitrate_kbps=_bitrate(sheet, bits),
        sound=sound_settings(sheet.sound) if with_sound else None,
        container=MUXERS[sheet.file.container],
        container_options={"movflags": "+faststart"} if sheet.file.index is Index.FRONT else {},
    )


def sound_settings(sound: Sound) -> SoundSettings:
    """Encoder settings for the ``sound`` of a checked sheet."""
    return SoundSettings(sound.family.encoder, sound.rate_hz, sound.channels, sound.kbps)


def notes_file(file: Path) -> Path:
    """Where an encoder of two passes keeps its notes about ``file``."""
    return file.with_name(f".{file.name}.notes")


def _escaped(path: Path) -> str:
    """A path inside a list of options: colons, commas and so on are taken literally."""
    return re.sub(r"([\\:='\[\],;])", r"\\\1", str(path))


def _bitrate(sheet: SpecSheet, bits: Bits) -> int | None:
    """What the encoder aims at; None: at a quality. VP9 takes its upper bound as an aim then."""
    if sheet.video.family.intra:
        return None
    if sheet.video.quality is None:
        return bits.target_kbps
    return bits.largest_kbps if sheet.video.codec == "vp9" else None


def _h264(sheet: SpecSheet, rate: Fraction, gop: int, bits: Bits) -> Options:
    (width, height), video = sheet.canvas, sheet.video
    level = level_of(sheet, rate)
    return {
        "preset": PRESET, "profile": video.family.profiles[video.profile],
        "level": f"{level / 10:.1f}", **_bounds(bits), **_quality(bits),
        "refs": str(min(REFERENCES, most_references(width, height, level))),
        "x264-params": f"keyint={gop}:min-keyint={min(gop, round(rate))}:open-gop=0:{TAGS}",
    }


def level_of(sheet: SpecSheet, rate: Fraction) -> int:
    """Ten times the H.264 level that a file by ``sheet`` declares. Raises InputError."""
    video = sheet.video
    return lowest_level(*sheet.canvas, rate, video.largest_kbps or 0, video.profile,
                        video.buffer_kb or 0)


def _h265(sheet: SpecSheet, rate: Fraction, gop: int, bits: Bits) -> Options:
    video = sheet.video
    return {
        "preset": "veryfast", "profile": video.family.profiles[video.profile], **_quality(bits),
        "forced-idr": "1",
        "x265-params": f"keyint={gop}:min-keyint={min(gop, round(rate))}:open-gop=0:"
                       f"vbv-maxrate={bits.largest_kbps}:vbv-bufsize={bits.buffer_kb}:"
                       f"{TAGS}:range=limited:log-level=none",
    }


def _vp9(sheet: SpecSheet, rate: Fraction, gop: int, bits: Bits) -> Options:
    return {"deadline": "good", "cpu-used": "4", "row-mt": "1", **_bounds(bits),
            **_quality(bits)}


def _av1(sheet: SpecSheet, rate: Fraction, gop: int, bits: Bits) -> Options:
    # Its own bound for a quality (mbr) is not used: pressed hard it writes what nobody can decode.
    way = "rc=0" if bits.quality is not None else "rc=1"
    return {"preset": "8", **_quality(bits),
            "svtav1-params": f"keyint={gop}:{way}:enable-overlays=0"}


def _intermediate(sheet: SpecSheet, rate: Fraction, gop: int, bits: Bits) -> Options:
    options = {"profile": sheet.video.family.profiles[sheet.video.profile]}
    if bits.target_kbps is not None:
        blocks = macroblocks(*sheet.canvas) * float(rate)
        options["bits_per_mb"] = f"{max(1, min(8192, int(bits.target_kbps * 1000 / blocks)))}"
    return options


OPTIONS: dict[str, Callable[[SpecSheet, Fraction, int, Bits], Options]] = {
    "h264": _h264, "h265": _h265, "vp9": _vp9, "av1": _av1, "prores": _intermediate,
    "dnxhr": _intermediate,
}


PASSES = {"h264": "x264-params", "h265": "x265-params"}  # where two passes are told


def _quality(bits: Bits) -> Options:
    """Constant quality in place of a target, where the sheet says so."""
    return {} if bits.quality is None else {"crf": f"{bits.quality:g}"}


def _bounds(bits: Bits) -> Options:
    return {"maxrate": f"{bits.largest_kbps}k", "bufsize": f"{bits.buffer_kb}k"}


def video_kbps(sheet: SpecSheet, rate: Fraction) -> float:
    """What the picture takes: the target, or what an intermediate usually needs."""
    target = sheet.video.target_kbps(rate)
    if target is not None:
        return float(target)
    return intra_kbps(sheet, rate)


def estimated_mb(
    sheet: SpecSheet, seconds: float, with_sound: bool = True, rate: Fraction = Fraction(25)
) -> float:
    """Expected size in MB (10^6 bytes): 60.96 before the container's share for 8000 + 128 kb/s
    over 60 s."""
    kbps = video_kbps(sheet, rate) + (sheet.sound.kbps if with_sound else 0)
    return kbps * seconds / 8000 * CONTAINER_SHARE
