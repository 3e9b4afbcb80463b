"""H.264 levels: ITU-T H.264 Table A-1 (from memory) and the lowest level that suffices."""

from __future__ import annotations

from fractions import Fraction
from math import ceil

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr

# level x 10: (macroblocks a second, macroblocks a frame, decoded picture buffer in macroblocks,
#              largest bitrate in kb/s, and coded picture buffer in kb, for Baseline and Main)
TABLE_A1 = {
    10: (1485, 99, 396, 64, 175), 11: (3000, 396, 900, 192, 500),
    12: (6000, 396, 2376, 384, 1000), 13: (11880, 396, 2376, 768, 2000),
    20: (11880, 396, 2376, 2000, 2000), 21: (19800, 792, 4752, 4000, 4000),
    22: (20250, 1620, 8100, 4000, 4000), 30: (40500, 1620, 8100, 10000, 10000),
    31: (108000, 3600, 18000, 14000, 14000), 32: (216000, 5120, 20480, 20000, 20000),
    40: (245760, 8192, 32768, 20000, 25000), 41: (245760, 8192, 32768, 50000, 62500),
    42: (522240, 8704, 34816, 50000, 62500), 50: (589824, 22080, 110400, 135000, 135000),
    51: (983040, 36864, 184320, 240000, 240000), 52: (2073600, 36864, 184320, 240000, 240000),
    60: (4177920, 139264, 696320, 240000, 240000), 61: (8355840, 139264, 696320, 480000, 480000),
    62: (16711680, 139264, 696320, 800000, 800000),
}
HIGH_FACTOR = 1.25  # High profile may use a quarter more bits (H.264 A.3.3, cpbBrVclFactor)


def macroblocks(width: int, height: int) -> int:
    """Macroblocks in a frame: 8160 for 1080x1920."""
    return ceil(width / 16) * ceil(height / 16)


def lowest_level(width: int, height: int, rate: Fraction, largest_kbps: int,
                 profile: str = "High", buffer_kb: int = 0) -> int:
    """Ten times the lowest level for a picture, its rate, its bitrate and its buffer, such as 40.

    Raises InputError when no level is enough.
    """
    blocks = macroblocks(width, height)
    factor = HIGH_FACTOR if profile == "High" else 1.0
    for level, (a_second, a_frame, _, kbps, kb) in TABLE_A1.items():
        fits = blocks <= a_frame and blocks * rate <= a_second
        # A side may be at most sqrt(8 x frame size) macroblocks long (H.264 A.3.1).
        longest = max(ceil(width / 16), ceil(height / 16))
        bits = largest_kbps <= kbps * factor and buffer_kb <= kb * factor
        if fits and bits and longest**2 <= 8 * a_frame:
            return level
    raise InputError(tr("No H.264 level holds {width}x{height} at {rate:g} fps, {largest_kbps} "
                        "kb/s and a buffer of {buffer_kb} kb.", width=width, height=height,
                        rate=float(rate), largest_kbps=largest_kbps, buffer_kb=buffer_kb),
                     remedy=tr("Choose a smaller canvas, rate, bitrate or buffer."))


def most_references(width: int, height: int, level: int) -> int:
    """Reference frames the level's picture buffer can hold, at most 16."""
    return min(16, TABLE_A1[level][2] // macroblocks(width, height))
