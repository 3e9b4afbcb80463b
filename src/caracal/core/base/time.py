"""Time as whole frames over a rational rate; timecode after SMPTE ST 12-1."""

from __future__ import annotations

import re
from collections.abc import Iterable
from fractions import Fraction

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr

STANDARD_RATES = tuple(
    Fraction(n, d)
    for n, d in ((24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1), (48000, 1001), (48, 1),
                 (50, 1), (60000, 1001), (60, 1), (100, 1), (120000, 1001), (120, 1), (15, 1),
                 (12, 1))
)  # common practice; slower ones occur in screen recordings


ROUNDED = 0.006  # of a rate written in two or three decimals, such as 29.97
SLOWEST, FASTEST = 25, 400  # percent of a range's own speed


class FrameRange(msgspec.Struct, frozen=True, omit_defaults=True):
    """Frames from ``start`` up to but without ``end_exclusive``.

    They are shown at ``percent`` of their speed, 25 to 400. At another speed than their own their
    sound is stretched at its pitch, or silent (``muted``); neighbouring pictures are mixed, or
    ``repeated`` and left out. Over its first ``dissolve`` frames what comes after the range before
    it in the film goes on, and is gone with the last of them.
    """

    start: int
    end_exclusive: int
    percent: int = 100
    muted: bool = False
    repeated: bool = False
    dissolve: int = 0

    def __post_init__(self) -> None:
        if not SLOWEST <= self.percent <= FASTEST:
            raise InputError(tr("Speed must be between {slowest} and {fastest} %; {percent} was "
                                "given.", slowest=SLOWEST, fastest=FASTEST, percent=self.percent))
        if not 0 <= self.start < self.end_exclusive:
            raise InputError(tr("The range from frame {start} to {end_exclusive} holds no frames.",
                                start=self.start, end_exclusive=self.end_exclusive),
                             remedy=tr("Put the end after the beginning."))

    def __len__(self) -> int:
        return self.end_exclusive - self.start

    @property
    def duration_frames(self) -> Fraction:
        """How long it is shown, in frames at the film's rate."""
        return Fraction(len(self) * 100, self.percent)

    @property
    def speed(self) -> tuple[int, bool, bool]:
        """All of how it is shown: two ranges of one pace that touch are one."""
        return (self.percent, self.muted, self.repeated)

    def within(self, start: int, end_exclusive: int) -> FrameRange | None:
        """What of it lies between two frames, at its own pace; None: nothing."""
        start, end_exclusive = max(self.start, start), min(self.end_exclusive, end_exclusive)
        return None if start >= end_exclusive else msgspec.structs.replace(
            self, start=start, end_exclusive=end_exclusive,
            dissolve=self.dissolve if start == self.start else 0)


def spans_of(ranges: Iterable[FrameRange]) -> tuple[FrameRange, ...]:
    """``ranges``, which are in order, at their own speed; those that touch become one."""
    made: list[FrameRange] = []
    for each in ranges:
        if made and each.start <= made[-1].end_exclusive:
            made[-1] = FrameRange(made[-1].start, max(each.end_exclusive, made[-1].end_exclusive))
        else:
            made.append(FrameRange(each.start, each.end_exclusive))
    return tuple(made)


def share_shown(ranges: tuple[FrameRange, ...], frame: int) -> float:
    """How much of ``ranges``, which are in order, has been shown at the end of ``frame``: 0..1."""
    whole = sum(each.duration_frames for each in ranges)
    parts = (each.within(0, frame + 1) for each in ranges)
    shown = sum(part.duration_frames for part in parts if part is not None)
    return float(shown / whole) if whole else 0.0


def with_dissolves(ranges: tuple[FrameRange, ...], frames: int) -> tuple[FrameRange, ...]:
    """``ranges``, which are in order, dissolving over the time of so many ``frames`` of the film
    wherever two of them that do not touch meet.
    """
    return tuple(
        _dissolving(each, frames)
        if before is not None and each.start > before.end_exclusive else each
        for before, each in zip((None, *ranges), ranges, strict=False))


def _dissolving(span: FrameRange, frames: int) -> FrameRange:
    """``span``, dissolving for as long as so many frames last at their own speed."""
    own = max(1, round(frames * span.percent / 100)) if frames else 0
    return msgspec.structs.replace(span, dissolve=min(own, len(span)))


def with_speeds(
    ranges: Iterable[FrameRange], speeds: Iterable[FrameRange]
) -> tuple[FrameRange, ...]:
    """``ranges`` parted where one of ``speeds`` begins or ends, each part at the pace it has there.

    ``speeds`` are apart from each other; where there is none, ranges keep their own.
    """
    ordered, made = sorted(speeds, key=lambda speed: speed.start), []
    for each in ranges:
        at = each.start
        for speed in ordered:
            inside = speed.within(at, each.end_exclusive)
            if inside is None:
                continue
            if inside.start == each.start:
                inside = _dissolving(inside, round(each.dissolve * 100 / each.percent))
            before = each.within(at, inside.start)
            made += [part for part in (before, inside) if part is not None]
            at = inside.end_exclusive
        rest = each.within(at, each.end_exclusive)
        if rest is not None:
            made.append(rest)
    return tuple(made)


def rate_text(rate: Fraction) -> str:
    """``25/1``: the form rates have in files."""
    return f"{rate.numerator}/{rate.denominator}"


def nearest_standard_rate(rate: Fraction) -> Fraction:
    """The standard rate closest to a measured one, by ratio."""
    return min(STANDARD_RATES, key=lambda standard: abs(float(standard / rate) - 1.0))


def standard_rate(decimal: float) -> Fraction:
    """The exact rate that a decimal stands for: 24000/1001 for 23.976, 27 for 27."""
    rate = Fraction(decimal).limit_denominator(1001)
    near = nearest_standard_rate(rate)
    return near if abs(float(near) - decimal) < ROUNDED else rate


def nominal(rate: Fraction) -> int:
    """Frame numbers in one counted second: 30 for 30000/1001."""
    return round(rate)


def is_drop_frame(rate: Fraction) -> bool:
    """Whether timecode at ``rate`` is counted with drop frame (29.97 and 59.94)."""
    return rate in (Fraction(30000, 1001), Fraction(60000, 1001))


def timecode(frame: int, rate: Fraction) -> str:
    """``HH:MM:SS:FF``, or ``HH:MM:SS;FF`` with drop frame (SMPTE ST 12-1).

    Drop frame skips the numbers 0 and 1 (0 to 3 at 59.94) of each minute but every tenth.
    """
    base, drop = nominal(rate), is_drop_frame(rate)
    if drop:
        skipped = base // 15
        per_minute = base * 60 - skipped
        per_ten = per_minute * 10 + skipped
        tens, rest = divmod(frame, per_ten)
        frame += skipped * 9 * tens
        if rest >= skipped:
            frame += skipped * ((rest - skipped) // per_minute)
    seconds, ff = divmod(frame, base)
    minutes, ss = divmod(seconds, 60)
    hours, mm = divmod(minutes, 60)
    return f"{hours:02}:{mm:02}:{ss:02}{';' if drop else ':'}{ff:02}"


def frame_of_timecode(text: str, rate: Fraction) -> int:
    """The frame that ``text`` names: ``HH:MM:SS:FF``, or seconds such as ``12.5``.

    Raises InputError for anything else, and for numbers that drop frame leaves out.
    """
    found = re.fullmatch(r"(\d{1,2}):(\d{2}):(\d{2})[:;](\d{2,3})", text.strip())
    if not found:
        if re.fullmatch(r"\d+(\.\d+)?", text.strip()):
            return round(Fraction(text.strip()) * rate)
        raise _bad_timecode(text, tr("Write it as HH:MM:SS:FF or as seconds, such as 12.5."))
    hh, mm, ss, ff = (int(group) for group in found.groups())
    base = nominal(rate)
    if mm > 59 or ss > 59 or ff >= base:
        raise _bad_timecode(text,
                            tr("Minutes and seconds must be at most 59, frames at most {base}.",
                               base=base - 1))
    frame = ((hh * 60 + mm) * 60 + ss) * base + ff
    if is_drop_frame(rate):
        skipped = base // 15
        if ss == 0 and ff < skipped and mm % 10:
            raise _bad_timecode(text, tr("Drop-frame timecode skips this number; give the next "
                                         "one."))
        minutes = hh * 60 + mm
        frame -= skipped * (minutes - minutes // 10)
    return frame


def _bad_timecode(text: str, remedy: str) -> InputError:
    return InputError(tr("“{text}” is not a timecode.", text=text), remedy=remedy)


def samples_at(frame: int, rate: Fraction, sample_rate: int) -> int:
    """How many sound samples lie before ``frame``: rounded once, so parts add up exactly."""
    return round(frame * sample_rate / rate)


def short_time(seconds: float) -> str:
    """``1:05`` or ``0:07.3``-free time left for people: minutes and seconds."""
    whole = max(0, round(seconds))
    hours, rest = divmod(whole, 3600)
    return f"{hours}:{rest // 60:02}:{rest % 60:02}" if hours else f"{rest // 60}:{rest % 60:02}"
