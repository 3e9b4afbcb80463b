"""What is impossible about a spec sheet, said before anybody uses it."""

from __future__ import annotations

import re
from datetime import date
from fractions import Fraction
from typing import Any

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.limits import MOST_SHAPE
from caracal.core.base.time import standard_rate
from caracal.core.base.translation import tr
from caracal.core.specs.bits import least_kbps, too_few_bits
from caracal.core.specs.codecs import INDEXED, MUXERS, SOUND, TWO_PASSES, VIDEO
from caracal.core.specs.levels import lowest_level
from caracal.core.specs.patterns import check_pattern
from caracal.core.specs.sheet import Index, SpecSheet, Video, Zone

LEAST_CREST_LU = 9.0  # of a true peak over a loudness: speech and music that are limited harder
# are no longer recognised (common practice: the loudest records are at -9 LUFS and 0 dBTP)
LEAST_MB = 0.1  # of a file: containers alone take a few kilobytes
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
    return [] if abs(data) <= MOST_NUMBER else [tr("{name} cannot be {data}.", name=name,
                                                   data=data)]


def _names(sheet: SpecSheet) -> list[str]:
    """What is wrong with its words: its name, its date and the pattern of its files' names."""
    found = []
    if not re.fullmatch(r"[\w][\w @-]{0,99}", sheet.name):
        found.append(tr("A sheet cannot be called “{name}”. Names can have letters, digits, "
                        "dashes and spaces, at most 100.", name=sheet.name))
    if not sheet.title.strip() or len(sheet.title) > 100:
        found.append(tr("The title must have 1 to 100 characters."))
    try:
        date.fromisoformat(sheet.checked)
    except ValueError:
        found.append(tr("“{checked}” is not a date; write it as YYYY-MM-DD.",
                        checked=sheet.checked))
    try:
        check_pattern(sheet.file.names)
    except InputError as problem:
        found.append(problem.sentence())
    if not LEAST_MB <= sheet.file.most_mb <= 1e7:
        found.append(tr("The largest size must be between {least:g} and 10,000,000 MB; {size:g} "
                        "was given.", least=LEAST_MB, size=sheet.file.most_mb))
    return found


def _loudness(sheet: SpecSheet) -> list[str]:
    sound, found = sheet.sound, []
    if sound.loudness_lufs is not None and not -40 <= sound.loudness_lufs <= -5:
        found.append(tr("Loudness must be between −40 and −5 LUFS; {loudness_lufs:g} was given.",
                        loudness_lufs=sound.loudness_lufs))
    elif sound.loudness_lufs is not None and (
            sound.loudness_lufs > sound.true_peak_dbtp - LEAST_CREST_LU):
        found.append(tr("{lufs:g} LUFS cannot be reached under a true peak of {peak:g} dBTP: at "
                        "most {most:g} LUFS can.", lufs=sound.loudness_lufs,
                        peak=sound.true_peak_dbtp, most=sound.true_peak_dbtp - LEAST_CREST_LU))
    if not -20 <= sound.true_peak_dbtp <= 0:
        found.append(tr("True peak must be between −20 and 0 dBTP; {true_peak_dbtp:g} was given.",
                        true_peak_dbtp=sound.true_peak_dbtp))
    if not sound.family.lossless and not 16 <= sound.bitrate_kbps <= 512:
        found.append(tr("The audio bitrate must be between 16 and 512 kb/s; {bitrate_kbps} was "
                        "given.",
                        bitrate_kbps=sound.bitrate_kbps))
    most = sound.family.most_kbps * sound.channels
    if sound.bitrate_kbps > most and not sound.family.lossless:
        found.append(tr("{title} takes at most {most} kb/s for so many channels; {bitrate_kbps} "
                        "was given.", title=sound.family.title, most=most,
                        bitrate_kbps=sound.bitrate_kbps))
    least = round(sound.family.least_bits * sound.rate_hz * sound.channels / 1000)
    if sound.bitrate_kbps < least and not sound.family.lossless:
        found.append(tr("{title} at {rate_hz} Hz needs {least} kb/s or more; {bitrate_kbps} was "
                        "given.", title=sound.family.title, rate_hz=sound.rate_hz, least=least,
                        bitrate_kbps=sound.bitrate_kbps))
    if not 8000 <= sound.rate_hz <= 192000:
        found.append(tr("The sample rate must be between 8000 and 192000 Hz; {rate_hz} was given.",
                        rate_hz=sound.rate_hz))
    return found


def _canvas(sheet: SpecSheet) -> list[str]:
    width, height = sheet.canvas
    found = []
    if width % 2 or height % 2 or min(width, height) < 16:
        found.append(tr("The canvas {width} × {height} must have even sides of at least 16 "
                        "pixels: colour is stored for pairs of pixels.", width=width,
                        height=height))
    if max(width, height) > MOST_SHAPE * min(width, height):
        found.append(tr("The canvas {width} × {height} is too narrow: one side can be at most "
                        "{most:g} times as long as the other.", width=width, height=height,
                        most=MOST_SHAPE))
    if max(width, height) > 8192:
        found.append(tr("The canvas {width} × {height} is too large: at most 8192 pixels a side.",
                        width=width,
                        height=height))
    zones = [*sheet.covers, *(zone for zone in (sheet.clear, sheet.thumbnail_cut,
                                              sheet.edge_trim) if zone)]
    return found + [tr("The zone “{what}” reaches beyond the canvas: its sides are shares, 0 to 1.",
                       what=zone.what) for zone in zones if not _inside(zone)]


def _inside(zone: Zone) -> bool:
    (left, right), (top, bottom) = zone.part
    return 0 <= left < right <= 1 + 1e-9 and 0 <= top < bottom <= 1 + 1e-9


def _codecs(sheet: SpecSheet) -> list[str]:
    video, sound, container = sheet.video, sheet.sound, sheet.file.container
    found = []
    if container not in MUXERS:
        found.append(tr("There is no container “{container}”; there are {muxers}.",
                        container=container, muxers=", ".join(MUXERS)))
    if video.codec not in VIDEO:
        found.append(tr("There is no video codec “{codec}”; there are {video}.", codec=video.codec,
                        video=", ".join(VIDEO)))
    if sound.codec not in SOUND:
        found.append(tr("There is no sound codec “{codec}”; there are {sound}.", codec=sound.codec,
                        sound=", ".join(SOUND)))
    if found:
        return found
    for codec in (video.family, sound.family):
        if container not in codec.containers:
            found.append(tr("{title} cannot be stored in {container}; it can in {containers}.",
                            title=codec.title, container=container,
                            containers=", ".join(codec.containers)))
    found += _encoder(sheet)
    rates = sound.family.rates_hz
    if rates and sound.rate_hz not in rates:
        found.append(tr("{title} has the rates {rates} Hz, not {rate}.", title=sound.family.title,
                        rates=", ".join(map(str, rates)), rate=sound.rate_hz))
    if sound.channels not in (1, 2):
        found.append(tr("Sound must have 1 or 2 channels; {channels} were given.",
                        channels=sound.channels))
    if sheet.file.index is Index.FRONT and container not in INDEXED:
        found.append(tr("{container} cannot have its index in front; only {indexed} can.",
                        container=container, indexed=" and ".join(INDEXED)))
    return found


def _encoder(sheet: SpecSheet) -> list[str]:
    """What the video encoder does not take: pixel formats, profiles, canvases."""
    video, found = sheet.video, []
    if video.pixel_format not in video.family.pixel_formats:
        found.append(tr("{title} needs the pixel format {pixel_formats}, not {pixel_format}.",
                        title=video.family.title,
                        pixel_formats=", ".join(video.family.pixel_formats),
                        pixel_format=video.pixel_format))
    elif video.pixel_format not in video.family.formats_of(video.profile):
        found.append(tr("The profile {profile} needs the pixel format {pixel_formats}, not "
                        "{pixel_format}.",
                        profile=video.profile,
                        pixel_formats=", ".join(video.family.formats_of(video.profile)),
                        pixel_format=video.pixel_format))
    if video.gop_s * sheet.rates.least < video.family.least_gop:
        found.append(tr("{title} needs a GOP of {count} pictures or more.",
                        title=video.family.title, count=video.family.least_gop))
    least = video.family.least_canvas
    if sheet.canvas[0] < least[0] or sheet.canvas[1] < least[1]:
        found.append(tr("{title} takes canvases of {width} × {height} or more.",
                        title=video.family.title, width=least[0], height=least[1]))
    if video.profile not in video.family.profiles:
        found.append(tr("{title} has the profiles {profiles}, not {profile}.",
                        title=video.family.title, profiles=", ".join(video.family.profiles),
                        profile=video.profile))
    return found


def _quality(video: Video) -> str:
    """What is wrong with a quality that takes the place of the target; nothing if it can be."""
    if video.quality is not None:
        scale = video.family.quality
        if scale is None:
            return tr("{title} has no constant quality.", title=video.family.title)
        if not scale[0] <= video.quality <= scale[1]:
            return tr("Quality must be between {best:g} and {worst:g} for {title}; {quality:g} "
                       "was given.", best=scale[0], worst=scale[1], title=video.family.title,
                       quality=video.quality)
        if video.passes == 2:
            return tr("Two passes need a bitrate; constant quality uses one pass.")
    return ""


def _bits(sheet: SpecSheet) -> list[str]:
    video = sheet.video
    if video.passes not in (1, 2):
        return [tr("Passes must be 1 or 2; {passes} was given.", passes=video.passes)]
    if video.passes == 2 and video.codec not in TWO_PASSES:
        return [tr("{title} has one pass.", title=video.family.title)]
    quality = _quality(video)
    if quality:
        return [quality]
    rates = (video.bitrate_kbps, video.largest_kbps, video.buffer_kb)
    if video.family.intra:
        asked = any(number is not None for number in rates)
        return [tr("{title} has no bitrate to set: remove the bitrates.",
                   title=video.family.title)] if (
            asked) else []
    if None in rates or min(rate or 0 for rate in rates) <= 0:
        return [tr("{title} needs a bitrate, a maximum bitrate and a buffer.",
                   title=video.family.title)]
    return _rates(sheet, *(rate or 0 for rate in rates))


def _rates(sheet: SpecSheet, target: int, largest: int, buffer: int) -> list[str]:
    """What is wrong with bitrates (kb/s) and a buffer (kb) that are all given."""
    video, found = sheet.video, []
    if max(target, video.quick_kbps or 0) > largest:
        found.append(tr("The bitrate of {target} kb/s is above the maximum of {largest} kb/s.",
                        target=max(target, video.quick_kbps or 0), largest=largest))
    slowest = Fraction(sheet.rates.least)
    if (largest if video.quality is not None else target) < least_kbps(sheet, slowest):
        found.append(too_few_bits(sheet, slowest).what)
    if buffer < largest / 4:
        found.append(tr("A buffer of {buffer} kb holds less than a quarter of a second at "
                        "{largest} kb/s.", buffer=buffer, largest=largest))
    if video.codec == "h264":
        try:
            lowest_level(*sheet.canvas, Fraction(sheet.rates.most), largest, video.profile, buffer)
        except InputError as problem:
            found.append(problem.what)
    return found


def _times(sheet: SpecSheet) -> list[str]:
    found = []
    if not 0 <= sheet.duration.least_s <= sheet.duration.most_s:
        found.append(tr("The minimum duration is above the maximum duration."))
    if not 1 <= sheet.rates.least <= sheet.rates.most <= 120:
        found.append(tr("Frame rates must be between 1 and 120, the lowest first."))
    if not 0 < sheet.video.gop_s <= 60:
        found.append(tr("A GOP must be longer than 0 s and at most 60 s."))
    between = msgspec.structs.replace(sheet.rates, only=())
    if any(not between.take(standard_rate(value)) for value in sheet.rates.only):
        found.append(tr("The single rates must lie between the lowest and the highest rate."))
    return found
