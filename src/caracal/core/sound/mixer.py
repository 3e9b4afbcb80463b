"""Adds up the samples of a mix: the one generator of sound, for files and for the loudspeaker."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack
from itertools import pairwise

import numpy as np

from caracal.core.media.sound import Samples
from caracal.core.sound.added import equal_power
from caracal.core.sound.filters import Reader
from caracal.core.sound.loudness import amplitude
from caracal.core.sound.mix import Ramp, SoundClip, SoundMix

CHUNK_S = 1.0


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
                for place in clip.heard
                if start < place < mix.length
            ),
        }
    )
    readers: dict[int, Reader] = {}  # by the numbers of their clips
    with ExitStack() as stack:
        for begin, end in pairwise(edges):
            sounding = [(i, clip) for i, clip in enumerate(mix.clips)
                        if clip.heard[0] <= begin and clip.heard[1] >= end]
            for i, clip in sounding:
                if i not in readers:
                    readers[i] = clip.reader(begin, mix.rate_hz, mix.channels)
                    stack.callback(readers[i].close)
            for i in [i for i in readers if mix.clips[i].heard[1] <= begin]:
                readers.pop(i).close()  # a short clip that loops for long leaves none open
            for at in range(begin, end, size):
                count = min(size, end - at)
                parts = [(clip, _at_level(readers[i].take(count), clip, at - clip.at))
                         for i, clip in sounding]
                own = [part for clip, part in parts if clip.shape is None]
                added = [part for clip, part in parts if clip.shape is not None]
                made = _faded(mix.ramps, at, _sum(own, count, mix.channels))
                if added:
                    outer = tuple(ramp for ramp in mix.ramps if ramp.outer)
                    made = made + _faded(outer, at, _sum(added, count, mix.channels))
                yield made


def _faded(ramps: tuple[Ramp, ...], at: int, chunk: Samples) -> Samples:
    """``chunk``, whose first sample lies at place ``at`` of a mix, as its ``ramps`` fade it."""
    near = [ramp for ramp in ramps if ramp.at < at + len(chunk) and at < ramp.end]
    if not near:
        return chunk
    places, faded = np.arange(at, at + len(chunk)), chunk
    for ramp in near:
        faded = faded * ramp.gain(places)[:, None]
    return faded


def _sum(parts: list[Samples], count: int, channels: int) -> Samples:
    if len(parts) == 1:
        return parts[0]
    return np.asarray(sum(parts, np.zeros((count, channels), np.float32)), np.float32)


def _at_level(chunk: Samples, clip: SoundClip, at: int) -> Samples:
    """``chunk``, whose first sample is number ``at`` of ``clip``, with its gain and fades."""
    if not (clip.fade_in or clip.fade_out or clip.gain_db or clip.shape):
        return chunk
    place = np.arange(at, at + len(chunk))
    gain = np.full(len(chunk), amplitude(clip.gain_db), np.float32)
    for fade, inside in ((clip.fade_in, place + 0.5), (clip.fade_out, clip.count - place - 0.5)):
        if fade:
            gain *= (equal_power(inside / fade) if clip.equal_power
                     else np.clip(inside / fade, 0, 1)).astype(np.float32)
    if clip.shape is not None:
        gain *= clip.shape.gain(place + clip.at)
    return np.asarray(chunk * gain[:, None], np.float32)
