"""From a spec sheet to what the encoder is told, and the size to expect."""

from __future__ import annotations

from fractions import Fraction

from caracal.core.media.encode import EncoderSettings, SoundSettings
from caracal.core.specs.levels import lowest_level, most_references
from caracal.core.specs.sheet import Index, SpecSheet
from caracal.core.time import rate_text

PRESET = "fast"  # at these bitrates it looks like medium and takes about three quarters of the time
REFERENCES = 3
CONTAINER_SHARE = 1.01  # common practice: one part in a hundred on top


def encoder_settings(sheet: SpecSheet, rate: Fraction, with_sound: bool) -> EncoderSettings:
    """Settings for H.264 in MP4 by ``sheet`` at ``rate``."""
    width, height = sheet.canvas
    video = sheet.video
    level = lowest_level(width, height, rate, video.largest_kbps, video.profile)
    gop = max(1, int(video.gop_s * rate))
    options = {
        "preset": PRESET, "profile": video.profile.lower(), "level": f"{level / 10:.1f}",
        "maxrate": f"{video.largest_kbps}k", "bufsize": f"{video.buffer_kb}k",
        "refs": str(min(REFERENCES, most_references(width, height, level))),
        "x264-params": f"keyint={gop}:min-keyint={min(gop, round(rate))}:open-gop=0"
                       ":colorprim=bt709:transfer=bt709:colormatrix=bt709",
    }
    sound = sheet.sound
    return EncoderSettings(
        width=width, height=height, frame_rate=rate_text(rate), encoder="libx264",
        pixel_format=video.pixel_format, gop_frames=gop, options=options,
        bitrate_kbps=video.bitrate_kbps,
        sound=SoundSettings(sound.codec, sound.rate_hz, sound.channels, sound.bitrate_kbps)
        if with_sound else None,
        container=sheet.file.container,
        container_options={"movflags": "+faststart"} if sheet.file.index is Index.FRONT else {},
    )


def estimated_mb(sheet: SpecSheet, seconds: float, with_sound: bool = True) -> float:
    """Expected size in MB (10^6 bytes): 60.96 before the container's share for 8000 + 128 kb/s
    over 60 s."""
    kbps = sheet.video.bitrate_kbps + (sheet.sound.bitrate_kbps if with_sound else 0)
    return kbps * seconds / 8000 * CONTAINER_SHARE
