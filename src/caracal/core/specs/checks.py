"""What is impossible about a spec sheet, said before anybody uses it."""

from __future__ import annotations

import re
from datetime import date
from fractions import Fraction
from typing import Any

import msgspec

from caracal.core.errors import InputError
from caracal.core.specs.codecs import INDEXED, MUXERS, SOUND, TWO_PASSES, VIDEO
from caracal.core.specs.levels import lowest_level
from caracal.core.specs.patterns import check_pattern
from caracal.core.specs.sheet import Index, SpecSheet, Zone

MOST_NUMBER = 1e9  # of any kind; not a number is not within it either


def problems(sheet: SpecSheet) -> tuple[str, ...]:
    """One sentence for each thing that cannot be made as ``sheet`` asks; none for a good sheet."""
    numbers = _numbers(msgspec.to_builtins(sheet), "")
    if numbers:
        return tuple(numbers)
    found = [*_names(sheet), *_canvas(sheet), *_codecs(sheet)]
    if not found:
        found = [*_bits(sheet), *_loudness(sheet), *_times(sheet)]
    return tuple(found)


def _numbers(data: Any, name: str) -> list[str]:
    """A sentence for each number that is none, or beyond all that is ever asked for."""
    if isinstance(data, dict):
        return [number for key, value in data.items() for number in _numbers(value, key)]
    if isinstance(data, list | tuple):
        return [number for value in data for number in _numbers(value, name)]
    if isinstance(data, bool) or not isinstance(data, int | float):
        return []
    return [] if abs(data) <= MOST_NUMBER else [f"{name} cannot be {data}."]


def _names(sheet: SpecSheet) -> list[str]:
    """What is wrong with its words: its name, its date and the pattern of its files' names."""
    found = []
    if not re.fullmatch(r"[\w][\w @-]{0,99}", sheet.name):
        found.append(f"A sheet cannot be called “{sheet.name}”; names have letters, digits, dashes "
                     "and spaces, 100 at the most.")
    if not sheet.title.strip() or len(sheet.title) > 100:
        found.append("The title has 1 to 100 characters.")
    try:
        date.fromisoformat(sheet.checked)
    except ValueError:
        found.append(f"“{sheet.checked}” is no day; checked is written YYYY-MM-DD.")
    try:
        check_pattern(sheet.file.names)
    except InputError as problem:
        found.append(problem.sentence())
    if not 0 < sheet.file.most_mb <= 1e7:
        found.append("The largest size is above 0 MB, and 10 TB at the most.")
    return found


def _loudness(sheet: SpecSheet) -> list[str]:
    sound, found = sheet.sound, []
    if sound.loudness_lufs is not None and not -40 <= sound.loudness_lufs <= -5:
        found.append(f"A loudness of {sound.loudness_lufs:g} LUFS is not made; -40 to -5 are.")
    if not -20 <= sound.true_peak_dbtp <= 0:
        found.append(f"A true peak of {sound.true_peak_dbtp:g} dBTP is not made; -20 to 0 are.")
    if not sound.family.lossless and not 16 <= sound.bitrate_kbps <= 512:
        found.append(f"Sound of {sound.bitrate_kbps} kb/s is not made; 16 to 512 are.")
    if not 8000 <= sound.rate_hz <= 192000:
        found.append(f"Sound of {sound.rate_hz} Hz is not made; 8000 to 192000 are.")
    return found


def _canvas(sheet: SpecSheet) -> list[str]:
    width, height = sheet.canvas
    found = []
    if width % 2 or height % 2 or min(width, height) < 16:
        found.append(f"The canvas {width}x{height} must have even sides of 16 or more: colour is "
                     "kept for pairs of pixels.")
    if max(width, height) > 8192:
        found.append(f"The canvas {width}x{height} is larger than 8192.")
    zones = [*sheet.covers, *(zone for zone in (sheet.clear, sheet.thumbnail_cut,
                                              sheet.edge_trim) if zone)]
    return found + [f"The zone “{zone.what}” reaches beyond the canvas: its sides are shares, 0 to "
                    "1." for zone in zones if not _inside(zone)]


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
    if video.passes not in (1, 2):
        return [f"{video.passes} passes are not made; 1 or 2 are."]
    if video.passes == 2 and video.codec not in TWO_PASSES:
        return [f"{video.family.title} has one pass."]
    if video.quality is not None and not 0 <= video.quality <= 63:
        return [f"A quality of {video.quality:g} is none; 0 to 63 are."]
    rates = (video.bitrate_kbps, video.largest_kbps, video.buffer_kb)
    if video.family.intra:
        asked = any(number is not None for number in rates)
        return [f"{video.family.title} takes the bits it needs: leave the bitrates out."] if (
            asked) else []
    if None in rates or min(rate or 0 for rate in rates) <= 0:
        return [f"{video.family.title} needs a bitrate, a largest bitrate and a buffer."]
    target, largest, buffer = (rate or 0 for rate in rates)
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
    if not 0 < sheet.video.gop_s <= 60:
        found.append("A GOP lasts more than 0 s, and 60 s at the most.")
    if any(not sheet.rates.least <= value <= sheet.rates.most for value in sheet.rates.only):
        found.append("The only rates lie between the least and the most.")
    return found
