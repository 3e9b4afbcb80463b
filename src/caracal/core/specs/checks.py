"""What is impossible about a spec sheet, said before anybody uses it."""

from __future__ import annotations

from fractions import Fraction

from caracal.core.errors import InputError
from caracal.core.specs.codecs import INDEXED, MUXERS, SOUND, VIDEO
from caracal.core.specs.levels import lowest_level
from caracal.core.specs.sheet import Index, SpecSheet, Zone


def problems(sheet: SpecSheet) -> tuple[str, ...]:
    """One sentence for each thing that cannot be made as ``sheet`` asks; none for a good sheet."""
    found = [*_canvas(sheet), *_codecs(sheet)]
    if not found:
        found = [*_bits(sheet), *_times(sheet)]
    return tuple(found)


def _canvas(sheet: SpecSheet) -> list[str]:
    width, height = sheet.canvas
    found = []
    if width % 2 or height % 2 or min(width, height) < 16:
        found.append(f"The canvas {width}x{height} must have even sides of 16 or more: colour is "
                     "kept for pairs of pixels.")
    if max(width, height) > 8192:
        found.append(f"The canvas {width}x{height} is larger than 8192.")
    zones = [*sheet.covers, *([sheet.clear] if sheet.clear else [])]
    return found + [f"The zone “{one.what}” reaches beyond the canvas: its sides are shares, 0 to "
                    "1." for one in zones if not _inside(one)]


def _inside(zone: Zone) -> bool:
    (left, right), (top, bottom) = zone.part
    return 0 <= left < right <= 1 + 1e-9 and 0 <= top < bottom <= 1 + 1e-9


def _codecs(sheet: SpecSheet) -> list[str]:
    video, sound, container = sheet.video, sheet.sound, sheet.file.container
    found = []
    if container not in MUXERS:
        found.append(f"There is no container “{container}”; there are {', '.join(MUXERS)}.")
    if video.codec not in VIDEO:
        found.append(f"There is no video codec “{video.codec}”; there are {', '.join(VIDEO)}.")
    if sound.codec not in SOUND:
        found.append(f"There is no sound codec “{sound.codec}”; there are {', '.join(SOUND)}.")
    if found:
        return found
    for codec in (video.family, sound.family):
        if container not in codec.containers:
            found.append(f"{codec.title} cannot be put into {container}; it goes into "
                         f"{', '.join(codec.containers)}.")
    if video.pixel_format not in video.family.pixel_formats:
        found.append(f"{video.family.title} is made as {', '.join(video.family.pixel_formats)}, "
                     f"not as {video.pixel_format}.")
    if video.profile not in video.family.profiles:
        found.append(f"{video.family.title} has the profiles {', '.join(video.family.profiles)}, "
                     f"not {video.profile}.")
    rates = sound.family.rates_hz
    if rates and sound.rate_hz not in rates:
        found.append(f"{sound.family.title} has the rates {', '.join(map(str, rates))} Hz, not "
                     f"{sound.rate_hz}.")
    if sound.channels not in (1, 2):
        found.append(f"Sound of {sound.channels} channels is not made; 1 or 2 are.")
    if sheet.file.index is Index.FRONT and container not in INDEXED:
        found.append(f"{container} has no index in front; only {' and '.join(INDEXED)} have.")
    return found


def _bits(sheet: SpecSheet) -> list[str]:
    video = sheet.video
    rates = (video.bitrate_kbps, video.largest_kbps, video.buffer_kb)
    if video.family.intra:
        asked = any(one is not None for one in rates)
        return [f"{video.family.title} takes the bits it needs: leave the bitrates out."] if (
            asked) else []
    if None in rates or min(one or 0 for one in rates) <= 0:
        return [f"{video.family.title} needs a bitrate, a largest bitrate and a buffer."]
    target, largest, buffer = (one or 0 for one in rates)
    found = []
    if max(target, video.quick_kbps or 0) > largest:
        found.append(f"The bitrate {max(target, video.quick_kbps or 0)} kb/s is above the largest, "
                     f"{largest}.")
    if buffer < largest / 4:
        found.append(f"A buffer of {buffer} kb holds less than a quarter of a second at "
                     f"{largest} kb/s.")
    if video.codec == "h264":
        try:
            lowest_level(*sheet.canvas, Fraction(sheet.rates.most), largest, video.profile)
        except InputError as problem:
            found.append(problem.what)
    return found


def _times(sheet: SpecSheet) -> list[str]:
    found = []
    if not 0 <= sheet.duration.least_s <= sheet.duration.most_s:
        found.append("The least duration is above the most.")
    if not 1 <= sheet.rates.least <= sheet.rates.most <= 120:
        found.append("Frame rates go from the least to the most, between 1 and 120.")
    if sheet.video.gop_s <= 0:
        found.append("A GOP lasts more than 0 s.")
    return found
