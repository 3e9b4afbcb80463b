"""The one generator of sound: what is measured, encoded, joined on a cluster and heard while
playing comes from here.

A mix says which stretches of which sources sound when. Today's only source is the master.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import ExitStack
from itertools import pairwise

import msgspec
import numpy as np

from caracal.core.media.master import Master
from caracal.core.media.sound import Samples, SoundReader
from caracal.core.sound.loudness import amplitude
from caracal.core.specs.sheet import Sound
from caracal.core.time import FrameRange, samples_at
from caracal.core.timeline import Timeline

CHUNK_S = 1.0
JOINT_S = 0.005  # fades where ranges meet: a jump in the wave is a click


class SoundClip(msgspec.Struct, frozen=True):
    """A stretch of the sound of ``source`` in a mix; all places and lengths in samples of the mix.

    It begins with sample ``first`` of the source, at place ``at`` of the mix, and lasts ``count``
    samples. ``gain_db`` makes it louder; it is faded over its first and last samples, so many.
    """

    source: Master
    first: int
    at: int
    count: int
    gain_db: float = 0.0
    fade_in: int = 0
    fade_out: int = 0

    @property
    def end(self) -> int:
        """The place after its last sample."""
        return self.at + self.count


class SoundMix(msgspec.Struct, frozen=True):
    """Clips that sound together, at ``rate_hz`` with so many ``channels``, ``length`` samples."""

    clips: tuple[SoundClip, ...]
    rate_hz: int
    channels: int
    length: int


def mix_of_file(master: Master, sound: Sound, timeline: Timeline) -> SoundMix:
    """The sound of a file: the ranges of ``timeline`` one after the other, between silent cards."""
    pieces, fade = timeline.sound(sound.rate_hz), _joint(sound.rate_hz)
    before, after = timeline.silence(sound.rate_hz)
    clips, at = [], before
    for number, (first, count) in enumerate(pieces):
        clips.append(SoundClip(
            master, first, at, count, fade_in=fade if number or before else 0,
            fade_out=fade if number < len(pieces) - 1 or after else 0))
        at += count
    return SoundMix(tuple(clips), sound.rate_hz, sound.channels, at + after)


def mix_of_film(
    master: Master, ranges: Iterable[FrameRange], rate_hz: int, channels: int
) -> SoundMix:
    """The sound of the film in its own time, silent outside ``ranges``."""
    clips, fade = [], _joint(rate_hz)
    for span in ranges:
        first, end = (samples_at(at, master.rate, rate_hz)
                      for at in (span.start, span.end_exclusive))
        clips.append(SoundClip(master, first, first, end - first,
                               fade_in=fade if span.start else 0,
                               fade_out=fade if span.end_exclusive < master.frames else 0))
    return SoundMix(tuple(clips), rate_hz, channels,
                    samples_at(master.frames, master.rate, rate_hz))


def _joint(rate_hz: int) -> int:
    return max(1, round(JOINT_S * rate_hz))


def mixed(mix: SoundMix, start: int = 0, chunk: int | None = None) -> Iterator[Samples]:
    """The samples (n, channels) of ``mix`` from ``start`` on, in pieces of up to ``chunk``.

    A piece lasts about a second if nothing else is asked for. Raises InputError when a source
    cannot be read.
    """
    if start >= mix.length:
        return
    size = chunk or round(CHUNK_S * mix.rate_hz)
    edges = sorted(
        {
            start,
            mix.length,
            *(
                place
                for clip in mix.clips
                for place in (clip.at, clip.end)
                if start < place < mix.length
            ),
        }
    )
    readers: dict[int, SoundReader] = {}  # by the numbers of their clips
    with ExitStack() as stack:
        for begin, end in pairwise(edges):
            sounding = [(i, clip) for i, clip in enumerate(mix.clips)
                        if clip.at <= begin and clip.end >= end]
            for i, clip in sounding:
                if i not in readers:
                    first = clip.first + begin - clip.at
                    readers[i] = stack.enter_context(
                        SoundReader(clip.source, mix.rate_hz, mix.channels, first))
            for at in range(begin, end, size):
                count = min(size, end - at)
                yield _sum([_at_level(readers[i].take(count), sound_clip, at - sound_clip.at)
                            for i, sound_clip in sounding], count, mix.channels)


def _sum(parts: list[Samples], count: int, channels: int) -> Samples:
    if len(parts) == 1:
        return parts[0]
    return np.asarray(sum(parts, np.zeros((count, channels), np.float32)), np.float32)


def _at_level(chunk: Samples, clip: SoundClip, at: int) -> Samples:
    """``chunk``, whose first sample is number ``at`` of ``clip``, with its gain and fades."""
    if not (clip.fade_in or clip.fade_out or clip.gain_db):
        return chunk
    place = np.arange(at, at + len(chunk))
    gain = np.full(len(chunk), amplitude(clip.gain_db), np.float32)
    if clip.fade_in:
        gain *= np.clip((place + 0.5) / clip.fade_in, 0, 1).astype(np.float32)
    if clip.fade_out:
        gain *= np.clip((clip.count - place - 0.5) / clip.fade_out, 0, 1).astype(np.float32)
    return np.asarray(chunk * gain[:, None], np.float32)
