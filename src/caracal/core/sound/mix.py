"""The one generator of sound: what is measured, encoded, joined on a cluster and heard while
playing comes from here.

A mix says which stretches of which sources sound when: the master's, and those of clips that lie
over the picture and are heard.
"""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from itertools import pairwise

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.time import FrameRange, samples_at
from caracal.core.base.timeline import Timeline
from caracal.core.media.master import Master
from caracal.core.media.sound import Samples, SoundReader
from caracal.core.media.tempo import TempoReader, lead
from caracal.core.sound.added import (
    AddedAudio,
    GainShape,
    Laid,
    ShownRange,
    laid_in_file,
)
from caracal.core.sound.ducking import Span
from caracal.core.sound.filters import SETTLE_S, FilterReader, Reader
from caracal.core.specs.sheet import Sound

JOINT_S = 0.005  # fades where ranges meet: a jump in the wave is a click


class SoundClip(msgspec.Struct, frozen=True):
    """A stretch of the sound of ``source`` in a mix; all places and lengths in samples of the mix.

    It begins with sample ``first`` of the source, at place ``at`` of the mix, and lasts ``count``
    samples, at ``percent`` of its speed. ``gain_db`` makes it louder; it is faded over its first
    and last samples, so many, with ``equal_power`` or on a straight line. It is heard in its
    ``window`` of places only. ``shape`` is the gain of the sound that it is a piece of, and filters
    take out what is above ``low_pass_hz`` and below ``high_pass_hz``.
    """

    source: Master
    first: int
    at: int
    count: int
    gain_db: float = 0.0
    fade_in: int = 0
    fade_out: int = 0
    percent: int = 100
    equal_power: bool = False
    window: Span | None = None
    shape: GainShape | None = None
    low_pass_hz: float = 0.0
    high_pass_hz: float = 0.0

    def reader(self, place: int, rate_hz: int, channels: int) -> Reader:
        """Reads what is heard of it from ``place`` of the mix on. Raises InputError."""
        first = self.first + (place - self.at) * self.percent // 100
        if self.low_pass_hz or self.high_pass_hz:
            settle = min(first, round(SETTLE_S * rate_hz))
            return FilterReader(SoundReader(self.source, rate_hz, channels, first - settle),
                                rate_hz, channels, self.low_pass_hz, self.high_pass_hz, settle)
        if self.percent == 100:
            return SoundReader(self.source, rate_hz, channels, first)
        return TempoReader(SoundReader(self.source, rate_hz, channels, first - lead(rate_hz)),
                           rate_hz, channels, self.percent / 100)

    @property
    def end(self) -> int:
        """The place after its last sample."""
        return self.at + self.count

    @property
    def heard(self) -> Span:
        """From which place to which it is heard."""
        first, end = self.window or (self.at, self.end)
        return max(first, self.at), min(end, self.end)


class ClipSound(msgspec.Struct, frozen=True):
    """The sound of a clip that lies over frames ``start`` to ``end_exclusive`` of the film.

    ``start_s`` is the moment of the clip that is heard first; below 0 it begins later. After its
    end it ``loops`` or is silent. ``gain_db`` makes it louder.
    """

    source: Master
    start: int
    end_exclusive: int
    start_s: float = 0.0
    loops: bool = True
    gain_db: float = 0.0


class SoundFade(msgspec.Struct, frozen=True):
    """All sound comes (``lifts``) or goes over frames ``start`` to ``end_exclusive`` of the film.
    """

    start: int
    end_exclusive: int
    lifts: bool


class ExtraAudio(msgspec.Struct, frozen=True):
    """What is heard beside the film's own sound in a version, and how all of it fades.

    ``added`` sounds lie in the version's own time, whatever it shows of the film. ``speech`` are
    the frames of the film [first, end) in which somebody speaks, if any of them is ducked.
    ``cleaned`` is heard in the place of the film's own sound, from its first picture on.
    """

    clips: tuple[ClipSound, ...] = ()
    fades: tuple[SoundFade, ...] = ()
    added: tuple[AddedAudio, ...] = ()
    speech: tuple[Span, ...] = ()
    cleaned: Master | None = None

    @property
    def sounds(self) -> bool:
        """Whether it holds anything to hear."""
        return bool(self.clips or self.added)


NOTHING_BESIDE = ExtraAudio()


class Ramp(msgspec.Struct, frozen=True):
    """All of a mix comes (``lifts``) or goes over ``count`` samples from place ``at`` on.

    It does so only in one ``part`` of the mix, from a place to another. An ``outer`` one is at the
    beginning or the end of a version: others, where ranges meet, leave added sounds as they are.
    """

    at: int
    count: int
    lifts: bool
    part: tuple[int, int]
    outer: bool = True

    @property
    def end(self) -> int:
        """The place after its last sample."""
        return self.at + self.count

    def gain(self, places: NDArray[np.int64]) -> Samples:
        """What samples at ``places`` (n,) of the mix are multiplied with, (n,): 1 beside it."""
        inside = (places >= max(self.at, self.part[0])) & (places < min(self.end, self.part[1]))
        share = (places - self.at + 0.5) / self.count
        return np.where(inside, share if self.lifts else 1 - share, 1.0).astype(np.float32)


class SoundMix(msgspec.Struct, frozen=True):
    """Clips that sound together, at ``rate_hz`` with so many ``channels``, ``length`` samples.

    All of them fade by ``ramps``.
    """

    clips: tuple[SoundClip, ...]
    rate_hz: int
    channels: int
    length: int
    ramps: tuple[Ramp, ...] = ()


class _Stretch(msgspec.Struct, frozen=True):
    """A range of the film in a mix: from sample ``first`` of the master, ``count`` samples from
    place ``at`` on. ``part`` is where the film's fades hold for it. ``before`` is the range before
    it; ``joins`` and ``joined`` say whether anything sounds next to its beginning and its end.
    """

    span: FrameRange
    first: int
    count: int
    at: int
    part: tuple[int, int]
    before: FrameRange | None
    joins: bool
    joined: bool


def mix_of_file(
    master: Master, sound: Sound, timeline: Timeline, beside: ExtraAudio = NOTHING_BESIDE
) -> SoundMix:
    """The sound of a file: the ranges of ``timeline`` one after the other, between silent cards,
    with what is heard ``beside`` them.
    """
    pieces = timeline.sound(sound.rate_hz)
    before, after = timeline.silence(sound.rate_hz)
    at, stretches, last = before, list[_Stretch](), len(pieces) - 1
    for number, (first, count) in enumerate(pieces):
        part = (0 if number == 0 else at, at + count + (after if number == last else 0))
        stretches.append(_Stretch(
            timeline.ranges[number], first, count, at, part,
            timeline.ranges[number - 1] if number else None,
            joins=bool(number or before), joined=bool(number < last or after)))
        at += count
    made = _mix(master, stretches, beside, sound.rate_hz, sound.channels, at + after)
    shown = tuple(ShownRange(each.span, each.at, each.count) for each in stretches)
    laid = laid_in_file(beside.added, beside.speech, shown, master.rate, sound.rate_hz, at + after)
    return msgspec.structs.replace(
        made, clips=(*made.clips, *(clip for each in laid for clip in _pieces(each))))


def mix_of_film(
    master: Master, ranges: Iterable[FrameRange], rate_hz: int, channels: int,
    beside: ExtraAudio = NOTHING_BESIDE, cards: tuple[int, int] = (0, 0),
) -> SoundMix:
    """The sound of all of the film, silent outside ``ranges``, which have their paces, with what is
    heard ``beside`` it.

    ``cards`` are the frames of a version's cards, with which added sounds begin and end; the cards
    are no part of the film.
    """
    at, stretches, ordered = 0, list[_Stretch](), list(ranges)
    shown = {span.start: span for span in ordered}
    preceding = {span.start: before for before, span in pairwise(ordered)}
    edges = sorted({0, master.frames, *shown, *(each.end_exclusive for each in shown.values())})
    for start, end in pairwise(edges):
        span = shown.get(start, FrameRange(start, end))
        first, after = (samples_at(frame, master.rate, rate_hz) for frame in (start, end))
        count = (after - first) * 100 // span.percent
        if start in shown:
            stretches.append(_Stretch(
                span, first, count, at, (at, at + count), preceding.get(start),
                joins=bool(start), joined=end < master.frames))
        at += count
    made = _mix(master, stretches, beside, rate_hz, channels, at)
    return msgspec.structs.replace(made, clips=(*made.clips, *_added_over_film(
        stretches, beside, master.rate, rate_hz, cards)))


def _added_over_film(
    stretches: list[_Stretch], beside: ExtraAudio, rate: Fraction, rate_hz: int,
    cards: tuple[int, int],
) -> list[SoundClip]:
    """Added sounds as they lie in the version's file, moved to where the film is that it shows."""
    if not beside.added:
        return []
    before, after = (samples_at(frames, rate, rate_hz) for frames in cards)
    shown, place = list[ShownRange](), before
    for each in stretches:
        shown.append(ShownRange(each.span, place, each.count))
        place += each.count
    laid = laid_in_file(beside.added, beside.speech, tuple(shown), rate, rate_hz, place + after)
    clips = list[SoundClip]()
    for each, here in zip(stretches, shown, strict=True):
        window = each.at, each.at + each.count
        moved = (_pieces(sound, each.at - here.at, window) for sound in laid)
        clips += [clip for pieces in moved for clip in pieces if clip.heard[0] < clip.heard[1]]
    return clips


def _pieces(laid: Laid, by: int = 0, window: Span | None = None) -> list[SoundClip]:
    """``laid``, ``by`` samples later, heard in ``window`` only."""
    audio, last = laid.audio, len(laid.pieces) - 1
    shape = laid.shape.moved(by) if by else laid.shape
    return [SoundClip(
        audio.source, first, place + by, count, audio.gain_db,
        fade_in=laid.crossfade if number else 0,
        fade_out=laid.crossfade if number < last else 0, equal_power=not audio.loop_fits,
        window=window, shape=shape, low_pass_hz=audio.low_pass_hz, high_pass_hz=audio.high_pass_hz)
        for number, (first, place, count) in enumerate(laid.pieces)]


def _mix(
    master: Master, stretches: Iterable[_Stretch], beside: ExtraAudio, rate_hz: int,
    channels: int, length: int,
) -> SoundMix:
    """The mix of ``length`` samples in which ``stretches`` of ``master`` sound."""
    clips, ramps, joint = list[SoundClip](), list[Ramp](), _joint(rate_hz)
    own, stretches = beside.cleaned or master, list(stretches)
    for number, each in enumerate(stretches):
        span, at, end = each.span, each.at, each.at + each.count
        ends = number == 0, number == len(stretches) - 1
        over = _dissolved(span, each.count, master.rate, rate_hz)
        if over and each.before is not None and master.sound:
            clips += _going_on(master, own, each.before, at, over, rate_hz)
        if master.sound and not span.muted:
            clips.append(SoundClip(
                own, each.first, at, each.count,
                fade_in=over or (joint if each.joins else 0),
                fade_out=joint if each.joined else 0, percent=span.percent))
        for clip in beside.clips:
            clips += clip_sounds(clip, span, master.rate, at, end, rate_hz)
        ramps += [_ramp(fade, span, at, master.rate, rate_hz, each.part, ends)
                  for fade in beside.fades]
    near = tuple(ramp for ramp in ramps if ramp.at < ramp.part[1] and ramp.part[0] < ramp.end)
    return SoundMix(tuple(clips), rate_hz, channels, length, near)


def _dissolved(span: FrameRange, count: int, rate: Fraction, rate_hz: int) -> int:
    """Over how many of its ``count`` samples ``span`` comes in while the one before it goes on."""
    return min(count, samples_at(span.dissolve, rate, rate_hz) * 100 // span.percent)


def _going_on(
    master: Master, own: Master, before: FrameRange, at: int, count: int, rate_hz: int
) -> list[SoundClip]:
    """What comes after ``before`` in the film, of its sound ``own``: gone after ``count`` samples
    from place ``at`` on."""
    first = samples_at(before.end_exclusive, master.rate, rate_hz)
    left = samples_at(master.frames, master.rate, rate_hz) - first
    count = min(count, left * 100 // before.percent)
    return [] if before.muted or count <= 0 else [SoundClip(
        own, first, at, count, fade_in=_joint(rate_hz), fade_out=count, percent=before.percent)]


def _ramp(
    fade: SoundFade, span: FrameRange, at: int, rate: Fraction, rate_hz: int,
    part: tuple[int, int], ends: tuple[bool, bool],
) -> Ramp:
    """``fade`` in that ``part`` of a mix where ``span`` of the film begins at place ``at``.

    ``ends`` says whether that is the first part, and whether it is the last.
    """
    first, end = (at + samples_at(frame - span.start, rate, rate_hz) * 100 // span.percent
                  for frame in (fade.start, fade.end_exclusive))
    begins, closes = fade.start <= span.start, fade.end_exclusive >= span.end_exclusive
    outer = (ends[0] and begins) if fade.lifts else (ends[1] and closes)
    return Ramp(first, max(1, end - first), fade.lifts, part, outer)


def clip_sounds(
    clip: ClipSound, span: FrameRange, rate: Fraction, at: int, end: int, rate_hz: int
) -> list[SoundClip]:
    """What is heard of ``clip`` where ``span`` of a film of that ``rate`` lies at places ``at`` to
    ``end`` of a mix.
    """
    percent, begins = span.percent, max(span.start, clip.start)
    if span.muted:
        return []
    place = at + samples_at(begins - span.start, rate, rate_hz) * 100 // percent
    end = min(end, at + samples_at(
        max(0, clip.end_exclusive - span.start), rate, rate_hz) * 100 // percent)
    first = round(clip.start_s * rate_hz) + samples_at(begins - clip.start, rate, rate_hz)
    whole = max(1, samples_at(clip.source.frames, clip.source.rate, rate_hz))
    if first < 0:
        place, first = place - first * 100 // percent, 0
    made, fade = [], _joint(rate_hz)
    while place < end and (clip.loops or first < whole):
        first %= whole
        count = min(end - place, max(1, (whole - first) * 100 // percent))
        made.append(SoundClip(clip.source, first, place, count, clip.gain_db, fade, fade, percent))
        place, first = place + count, whole
    return made


def _joint(rate_hz: int) -> int:
    return max(1, round(JOINT_S * rate_hz))
