"""Proof: a finished file against its spec sheet, line by line, from the file itself."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.time import rate_text
from caracal.core.base.translation import mark, tr
from caracal.core.encoding.evidence import Evidence, gather, quantiser
from caracal.core.encoding.reference_frames import Likeness
from caracal.core.media.audio_match import STEP_S, AudioMatch
from caracal.core.specs.bits import bits_for
from caracal.core.specs.settings import level_of
from caracal.core.specs.sheet import Index, SpecSheet

BITRATE_ALLOWANCE = 1.02  # rounding of averages over whole frames
FAR_BELOW = 0.5  # of the target bitrate: what is below must say why
FINE_QUANTISER = 18.0  # H.264: at 18 and finer the loss cannot be seen (common practice)
FINE_LIKENESS = 0.98  # the same by structural similarity, for other codecs
SYNC_FRAMES = 1.0
LOUDNESS_LU = 0.5  # EBU R 128
PEAK_ROUNDING_DB = 0.05


class Line(msgspec.Struct, frozen=True):
    """One checked property: what was asked, what the file has, whether that is right.

    Where another try may keep what was asked, ``value`` and ``most`` are found and asked as
    numbers.
    """

    what: str
    asked: str
    found: str
    right: bool
    value: float | None = None
    most: float | None = None


class Proof(msgspec.Struct, frozen=True):
    """All lines for one file."""

    file: str
    sheet: str
    lines: tuple[Line, ...]

    @property
    def right(self) -> bool:
        """Whether every line is right."""
        return all(line.right for line in self.lines)


class Expected(msgspec.Struct, frozen=True):
    """What the program meant to make, beyond what the sheet says, and how the file compares.

    ``nearest_lufs`` is the loudness that it gets where its sheet's cannot be reached.
    ``pictures`` are looked-at frames beside what was composed, ``loss`` their mean likeness at full
    size (1: none), ``heard`` the sound beside its master's.
    """

    frames: int
    frame_rate: str
    with_sound: bool
    silent: bool = False
    nearest_lufs: float | None = None
    pictures: tuple[Likeness, ...] = ()
    loss: float | None = None
    heard: AudioMatch | None = None


def prove(path: Path, sheet: SpecSheet, expected: Expected | None = None) -> Proof:
    """Open ``path`` again and compare it with ``sheet`` (and with what was meant, if known).

    Raises InputError when the file cannot be opened as a movie at all.
    """
    if not path.is_file():
        raise InputError(tr("There is no such file."), path, tr("Check the name and the folder."))
    seen = gather(path)
    lines = [*_picture(seen, sheet), *_time(seen, sheet, expected),
             *_shown(expected), *_bits(path, seen, sheet, expected),
             *_sound(seen, sheet, expected), *_file(seen, sheet)]
    return Proof(str(path), sheet.name, tuple(lines))


def _same(what: str, asked: object, found: object) -> Line:
    return Line(what, str(asked), str(found), asked == found)


def _picture(seen: Evidence, sheet: SpecSheet) -> list[Line]:
    video, (width, height) = sheet.video, sheet.canvas
    rate = Fraction(seen.frame_rate)
    lines = [
        _same(mark("canvas"), f"{width}x{height}", f"{seen.width}x{seen.height}"),
        _same(mark("pixel shape"), "1/1", seen.pixel_aspect),
        _same(mark("codec"), video.family.found, seen.codec),
        _same(mark("profile"), video.profile, seen.profile),
        _same(mark("pixel format"), video.pixel_format, seen.pixel_format),
        _same(mark("colour tags"), "BT.709 limited", seen.colour_name()),
        Line(mark("scan"), tr("progressive"),
             tr("interlaced") if seen.interlaced else tr("progressive"), not seen.interlaced),
    ]
    if video.codec == "h264":
        level = level_of(sheet, rate)
        lines.insert(4, Line(mark("level"), f"{level / 10:.1f}", f"{seen.level / 10:.1f}",
                             seen.level == level))
    return lines


def _time(seen: Evidence, sheet: SpecSheet, expected: Expected | None) -> list[Line]:
    rate = Fraction(seen.frame_rate)
    rates, duration = sheet.rates, sheet.duration
    seconds = float(seen.frames / rate)
    lines = [
        Line(mark("frame rate"), expected.frame_rate if expected else sheet.rates_text(),
             rate_text(rate), rates.take(rate)
             and (expected is None or Fraction(expected.frame_rate) == rate)),
        Line(mark("constant rate"), tr("yes"), tr("yes") if seen.steady else tr("no"), seen.steady),
        Line(mark("duration"),
             tr("{least_s:g} to {most_s:g} s", least_s=duration.least_s, most_s=duration.most_s),
             f"{seconds:.3f} s", duration.least_s <= seconds <= duration.most_s),
    ]
    if expected is not None:
        lines.append(_same(mark("frames"), expected.frames, seen.frames))
    return lines


def _shown(expected: Expected | None) -> list[Line]:
    """Whether the file shows what was composed."""
    if expected is None or not expected.pictures:
        return []
    worst = min(expected.pictures, key=lambda picture: (picture.right, picture.luma))
    found = (tr("{count} frames alike, {luma:.2f} at the least", count=len(expected.pictures),
                luma=worst.luma) if worst.right
             else tr("frame {frame} stands still", frame=worst.frame) if worst.frozen
             else tr("frame {frame} is another picture ({luma:.2f})", frame=worst.frame,
                     luma=worst.luma))
    return [Line(mark("pictures"), tr("as composed"), found, worst.right)]


def _far_below(
    path: Path, seen: Evidence, sheet: SpecSheet, expected: Expected | None
) -> tuple[str, bool]:
    """Words for a file of much fewer bits than its sheet targets, and whether that is right.

    It is when the picture is as good as it gets: the encoder had nothing more to spend bits on.
    """
    target = _target(seen, sheet)
    if (target is None or sheet.video.quality is not None
            or seen.video_kbps >= target * FAR_BELOW):
        return "", True
    coarse = quantiser(path)
    if coarse is not None:
        return tr(", quantiser {coarse:.0f}", coarse=coarse), coarse <= FINE_QUANTISER
    loss = None if expected is None else expected.loss
    if loss is None:
        return tr(", far below"), False
    return tr(", likeness {loss:.3f}", loss=loss), loss >= FINE_LIKENESS


def _target(seen: Evidence, sheet: SpecSheet) -> int | None:
    """What the pictures of a file so long are to have in kb/s, within its sheet's size."""
    rate = Fraction(seen.frame_rate)
    try:
        return bits_for(sheet, rate, float(seen.frames / rate), seen.sound is not None).target_kbps
    except InputError:  # nothing would fit: the size is told in its own line
        return sheet.video.target_kbps(rate)


def _bits(
    path: Path, seen: Evidence, sheet: SpecSheet, expected: Expected | None
) -> list[Line]:
    video, rate = sheet.video, Fraction(seen.frame_rate)
    most = 1 if video.family.intra else int(video.gop_s * rate)
    gop = [
        Line("GOP", tr("at most {most} frames", most=most),
             tr("{longest_gop} frames", longest_gop=seen.longest_gop), seen.longest_gop <= most),
        Line(mark("closed GOP"), tr("yes"), tr("yes") if seen.closed_gop else tr("no"),
             seen.closed_gop),
    ]
    if video.largest_kbps is None or video.buffer_kb is None:
        return gop
    peak = video.largest_kbps + video.buffer_kb
    why, fine = _far_below(path, seen, sheet, expected)
    return [
        *gop,
        Line(mark("video bitrate"),
             tr("about {target_kbps}, at most {largest_kbps} kb/s",
                target_kbps=_target(seen, sheet), largest_kbps=video.largest_kbps),
             f"{seen.video_kbps:.0f} kb/s{why}",
             fine and seen.video_kbps <= video.largest_kbps * BITRATE_ALLOWANCE,
             seen.video_kbps, video.largest_kbps if fine else _target(seen, sheet)),
        Line(mark("busiest second"), tr("at most {peak} kb", peak=peak),
             f"{seen.busiest_second_kb:.0f} kb",
             seen.busiest_second_kb <= peak * BITRATE_ALLOWANCE, seen.busiest_second_kb, peak),
    ]


def _sound(seen: Evidence, sheet: SpecSheet, expected: Expected | None) -> list[Line]:
    sound = sheet.sound
    if seen.sound is None:
        wanted = expected is None or expected.with_sound
        return [Line(mark("sound"), sound.codec if wanted else tr("none"), tr("none"), not wanted)]
    frame_s = 1 / float(Fraction(seen.frame_rate))
    loud = _loudness(seen, sheet, expected)
    early, late = seen.sound_start_gap_s, seen.sound_end_gap_s
    return [
        _same(mark("sound codec"), sound.family.found, seen.sound.codec),
        _same(mark("sound rate"), f"{sound.rate_hz} Hz", f"{seen.sound.rate_hz} Hz"),
        _same(mark("sound channels"), sound.channels, seen.sound.channels),
        Line(mark("sound bitrate"), tr("about {kbps} kb/s", kbps=sound.kbps),
             f"{seen.sound_kbps:.0f} kb/s", seen.sound_kbps <= sound.kbps * 1.15),
        Line(mark("sync at the start"), tr("within one frame"), f"{early * 1000:+.1f} ms",
             abs(early) <= SYNC_FRAMES * frame_s),
        Line(mark("sync at the end"),
             tr("within one frame") if sound.block_s <= frame_s
             else tr("within one block of sound"),
             f"{late * 1000:+.1f} ms",
             -SYNC_FRAMES * frame_s <= late <= max(SYNC_FRAMES * frame_s, sound.block_s)),
        *loud,
        *_heard(expected),
    ]


def _heard(expected: Expected | None) -> list[Line]:
    """Whether the file sounds wherever its master does, and at the same time."""
    if expected is None or expected.heard is None:
        return []
    found, late = expected.heard, expected.heard.late_s
    words = (tr("silent in {lost} of {sounding} half seconds", lost=found.lost,
                sounding=found.sounding) if not found.right
             else f"{late * 1000:+.0f} ms" if late else tr("yes"))
    on_time = abs(late) <= SYNC_FRAMES / float(Fraction(expected.frame_rate)) + STEP_S
    return [Line(mark("heard as the master"), tr("yes"), words, found.right and on_time)]


def _loudness(seen: Evidence, sheet: SpecSheet, expected: Expected | None) -> list[Line]:
    """Loudness and true peak as the sheet asks, where there is anything to hear."""
    found, sound = seen.loudness, sheet.sound
    if found is None:
        return []
    peak = Line(mark("true peak"),
                tr("at most {true_peak_dbtp:g} dBTP", true_peak_dbtp=sound.true_peak_dbtp),
                tr("silence") if found.silent else f"{found.true_peak_dbtp:.1f} dBTP",
                found.true_peak_dbtp <= sound.true_peak_dbtp + PEAK_ROUNDING_DB,
                found.true_peak_dbtp, sound.true_peak_dbtp)
    if sound.loudness_lufs is None:
        return [peak]
    silent = found.silent and (expected is None or expected.silent or not expected.with_sound)
    wanted, asked = sound.loudness_lufs, tr("{loudness_lufs:g} LUFS, within {loudness_lu:g} LU",
                                            loudness_lufs=sound.loudness_lufs,
                                            loudness_lu=LOUDNESS_LU)
    if expected is not None and expected.nearest_lufs is not None:
        wanted = expected.nearest_lufs
        asked = tr("{wanted:g} LUFS cannot be reached; {nearest:.1f}, within {loudness_lu:g} LU",
                   wanted=sound.loudness_lufs, nearest=wanted, loudness_lu=LOUDNESS_LU)
    return [
        Line(mark("loudness"), asked, tr("silence") if found.silent else f"{found.lufs:.1f} LUFS",
             silent or abs(found.lufs - wanted) <= LOUDNESS_LU,
             *(() if found.silent else (found.lufs, wanted))),
        peak,
    ]


def _file(seen: Evidence, sheet: SpecSheet) -> list[Line]:
    front = sheet.file.index is Index.FRONT
    return [
        Line(mark("container"), sheet.file.container, seen.container,
             seen.container == sheet.file.container),
        Line(mark("index"), sheet.file.index.value,
             tr("front") if seen.index_first else tr("not in front"),
             seen.index_first or not front),
        Line(mark("size"), tr("at most {most_mb:g} MB", most_mb=sheet.file.most_mb),
             f"{seen.size_mb:.2f} MB", seen.size_mb <= sheet.file.most_mb,
             seen.size_mb, sheet.file.most_mb),
    ]
