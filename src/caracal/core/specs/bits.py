"""How many bits the pictures of one file get: as its sheet says, and no more than its size allows.

Largest video bitrate for a size limit: limit x 8000 / seconds - audio, less 2 % (common practice).
An encoder's buffer lets a file have more than its largest bitrate for a moment, and a short file
is little more than that moment: its buffer and its target are smaller.
"""

from __future__ import annotations

from fractions import Fraction

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.specs.sheet import SpecSheet

SPARE = 0.98  # of what the size limit leaves: encoders meet a target to about 2 %
OVERHEAD_KB = 60.0  # kilobits of a container's own, and of each second: indexes and headers
OVERHEAD_KBPS = 12.0
SHORT_SHARE = 0.4  # of a file's length: what its buffer may hold at the most
HEADROOM = 1.15  # of a short file's largest bitrate over its target
SHORT_S = 20.0  # from here on a file's average is its target whatever its buffer holds
ALONE_BITS, FOLLOWING_BITS = 0.12, 0.012  # of a pixel, at the least, in a picture that stands
# alone and in one that follows: with less, moving pictures are no longer recognised (measured with
# x264 on FFmpeg's test pattern, likeness 0.5)
LATER_SHARE = 0.6  # of that for codecs after H.264
INTRA_LEAST = 0.4  # of the same: with less an intermediate is none any more
INTRA_SPARE = 1.5  # of what intermediates usually take: busy pictures take more


class Bits(msgspec.Struct, frozen=True):
    """Bitrates in kb/s and the buffer in kb. None: the encoder takes what it needs.

    ``quality``, in the encoder's own scale, takes the place of the target where the sheet has one.
    """

    target_kbps: int | None = None
    largest_kbps: int | None = None
    buffer_kb: int | None = None
    quality: float | None = None


def bits_of(sheet: SpecSheet, rate: Fraction) -> Bits:
    """What ``sheet`` asks for at ``rate`` frames a second, whatever the length."""
    video = sheet.video
    return Bits(video.target_kbps(rate), video.largest_kbps, video.buffer_kb, video.quality)


def bits_for(sheet: SpecSheet, rate: Fraction, seconds: float, with_sound: bool) -> Bits:
    """The bits for a file of ``seconds`` by ``sheet``, so that it keeps within the sheet's size.

    Raises InputError when nothing worth looking at would fit.
    """
    bits = bits_of(sheet, rate)
    target, largest, buffer = bits.target_kbps, bits.largest_kbps, bits.buffer_kb
    room_kb = (sheet.file.most_mb * 8000 - (sheet.sound.kbps * with_sound + OVERHEAD_KBPS) * seconds
               - OVERHEAD_KB) * SPARE
    if target is None or largest is None or buffer is None:
        usual, fits = intra_kbps(sheet, rate), room_kb / seconds
        if usual * INTRA_SPARE <= fits:
            return bits
        if sheet.video.family.scalable and fits >= INTRA_LEAST * usual:
            return Bits(round(fits))
        raise _too_long(sheet, seconds)
    if seconds < SHORT_S:
        buffer = min(buffer, round(SHORT_SHARE * seconds * largest))
        target = min(target, round(largest / HEADROOM))
    fits = max(0, round(room_kb / (seconds + SHORT_SHARE)))
    if target > fits:
        target = largest = fits
        buffer = round(SHORT_SHARE * fits)
    if sheet.video.quality is not None:  # its bounds hold it, not a target
        target = largest = min(largest, fits)
        buffer = min(buffer, largest)
    if target < least_kbps(sheet, rate):
        raise _too_long(sheet, seconds) if target == fits else too_few_bits(sheet, rate)
    return Bits(target, largest, max(1, buffer), sheet.video.quality)


def least_kbps(sheet: SpecSheet, rate: Fraction) -> int:
    """The fewest kb/s with which pictures on the canvas are recognised at ``rate``."""
    pictures = max(1, int(sheet.video.gop_s * rate))
    bits = (ALONE_BITS + (pictures - 1) * FOLLOWING_BITS) / pictures
    later = 1.0 if sheet.video.codec == "h264" else LATER_SHARE
    return max(1, round(bits * later * sheet.canvas[0] * sheet.canvas[1] * float(rate) / 1000))


def intra_kbps(sheet: SpecSheet, rate: Fraction) -> float:
    """What an intermediate usually takes."""
    width, height = sheet.canvas
    return width * height * float(rate) * sheet.video.family.bits_a_pixel / 1000


def too_few_bits(sheet: SpecSheet, rate: Fraction) -> InputError:
    """The error for a bitrate with which nothing would be recognised."""
    return InputError(
        tr("{width} × {height} at {rate:.5g} fps needs {least} kb/s or more; {name} gives fewer.",
           width=sheet.canvas[0], height=sheet.canvas[1], rate=float(rate),
           least=least_kbps(sheet, rate), name=sheet.name),
        remedy=tr("Raise the bitrate, or choose a smaller canvas, a lower rate or a longer GOP."))


def _too_long(sheet: SpecSheet, seconds: float) -> InputError:
    return InputError(tr("{seconds:.0f} s do not fit into the {most_mb:g} MB that {name} allows.",
                         seconds=seconds, most_mb=sheet.file.most_mb, name=sheet.name),
                      remedy=tr("Choose a shorter range, or a larger size in the spec sheet."))

