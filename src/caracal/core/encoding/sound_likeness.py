"""A file's sound beside the sounds that it was made of, each decoded by itself.

What is meant is put together from envelopes here, and not by the mixer: a mistake of that one is
none of this.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from caracal.core.base.time import FrameRange
from caracal.core.media.audio_match import STEP_S, AudioMatch, Envelope, envelope, match_audio
from caracal.core.media.master import Master
from caracal.core.media.probe import probe
from caracal.core.plan.file_plan import FilePlan
from caracal.core.sound.added import AddedAudio
from caracal.core.sound.loudness import amplitude
from caracal.core.sound.mix import ClipSound, SoundFade

Times = NDArray[np.float64]  # seconds of the film, of each step of an envelope


def heard_beside_sources(plan: FilePlan) -> AudioMatch | None:
    """How the sound of the file of ``plan`` fits what it was made of; None where there is none.

    Raises InputError when a file cannot be read.
    """
    made = probe(plan.part_file)
    if made.heard is None or not (plan.master.sound or plan.extra_audio.sounds):
        return None
    rate, line = float(plan.master.rate), plan.timeline
    whole = {clip: _whole(clip.source) for clip in plan.extra_audio.clips}
    before, after = (np.zeros(round(count / rate / STEP_S), np.float32)
                     for count in (line.opening, line.closing))
    meant = [before]
    for span in line.ranges:
        found = _of_master(plan.extra_audio.cleaned or plan.master, span, rate)
        times = np.asarray(span.start / rate + np.arange(len(found)) * STEP_S * span.percent / 100,
                           np.float64)
        for clip in plan.extra_audio.clips:
            found = np.maximum(found, _of_clip(clip, whole[clip], times, rate))
        for fade in plan.extra_audio.fades:
            np.multiply(found, _faded(fade, times, rate), out=found)
        meant.append(found)
    whole_file = np.concatenate([*meant, after])
    for added in plan.extra_audio.added:
        np.maximum(whole_file, _of_added(added, plan, len(whole_file)), out=whole_file)
    file = envelope(plan.part_file, made.heard.index, 0.0, line.seconds, made.start_s)
    gain = amplitude(plan.sound.gain_db) if plan.sound is not None else 1.0
    return match_audio(whole_file, file, gain)


def _of_added(added: AddedAudio, plan: FilePlan, steps: int) -> Envelope:
    """What is heard of ``added`` in the file, apart from where it is being faded."""
    times, silent = np.arange(steps) * STEP_S, np.zeros(steps, np.float32)
    begins = _added_begins_s(added, plan)
    if begins is None:
        return silent
    lasts = added.loop_s or added.end_s - added.start_s
    ends = plan.timeline.seconds if added.fills else begins + lasts
    whole = _whole(added.source)
    since = times - begins
    moments = added.start_s + (since % lasts if added.fills else since)
    heard = (since >= added.fade_in_s) & (times < ends - added.fade_out_s - STEP_S)
    found = whole[np.clip((moments / STEP_S).astype(np.int64), 0, len(whole) - 1)]
    lowered = amplitude(added.gain_db + added.duck_db)  # the least that it may have
    return np.where(heard, found * np.float32(lowered), silent).astype(np.float32)


def _added_begins_s(added: AddedAudio, plan: FilePlan) -> float | None:
    """When ``added`` begins in the file, in seconds; None: it is not in it."""
    line, rate = plan.timeline, float(plan.master.rate)
    if added.at_end:
        return line.seconds - added.delay_s - (added.end_s - added.start_s)
    if added.frame is None:
        return added.delay_s
    before_s = line.opening / rate
    for span in line.ranges:
        if span.start <= added.frame < span.end_exclusive:
            return before_s + added.delay_s + (added.frame - span.start) / rate * 100 / span.percent
        before_s += float(span.duration_frames) / rate
    return None


def _of_master(master: Master, span: FrameRange, rate: float) -> Envelope:
    """What is heard of ``master``, or of its cleaned sound, in ``span`` of a film of that rate."""
    source = master.heard
    if source is None:
        return np.zeros(max(1, round(float(span.duration_frames) / rate / STEP_S)), np.float32)
    own = envelope(master.file, source.index, span.start / rate, span.end_exclusive / rate,
                   master.start_s)
    if span.muted:
        own[:] = 0
    if span.percent == 100:
        return own
    count = max(1, round(float(span.duration_frames) / rate / STEP_S))
    steps = np.minimum(np.arange(count) * span.percent // 100, len(own) - 1)
    return own[steps]


def _whole(film: Master) -> Envelope:
    assert film.heard is not None
    return envelope(film.file, film.heard.index, 0.0, film.frames / float(film.rate), film.start_s)


def _of_clip(clip: ClipSound, whole: Envelope, times: Times, rate: float) -> Envelope:
    """What is heard of ``clip``, whose own envelope is ``whole``, at ``times``."""
    moments = times - clip.start / rate
    there = (moments >= -STEP_S / 2) & (times < clip.end_exclusive / rate)
    moments = moments + clip.start_s
    there &= moments >= 0
    steps = (moments / STEP_S).astype(np.int64)
    if not clip.loops:
        there &= steps < len(whole)
    found = whole[steps % len(whole)] * np.float32(amplitude(clip.gain_db))
    return np.where(there, found, 0).astype(np.float32)


def _faded(fade: SoundFade, times: Times, rate: float) -> Envelope:
    start, end = fade.start / rate, fade.end_exclusive / rate
    share = (times - start) / (end - start)
    inside = (share >= 0) & (share < 1)
    return np.where(inside, share if fade.lifts else 1 - share, 1).astype(np.float32)
