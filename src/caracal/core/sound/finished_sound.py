"""A file's sound as it will be encoded: ranges joined, mixed down, brought to its loudness."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import ExitStack

import msgspec
import numpy as np

from caracal.core.media.look import Master
from caracal.core.media.sound import Samples, SoundReader
from caracal.core.sound.limiter import Limiter
from caracal.core.sound.loudness import Loudness, Meter, amplitude
from caracal.core.specs.sheet import Sound
from caracal.core.timeline import Timeline
from caracal.core.work import CancelToken, Report, Stopwatch

CHUNK_S = 1.0
JOINT_S = 0.005  # fades where ranges meet: a jump in the wave is a click
LOSSY_SPARE_DB = 1.0  # lossy encoders go beyond the peaks they are given: by up to 0.9 dB here
TURNS = 6  # a limiter takes loudness away: the gain is corrected so often, at the most
LEAST_SLOPE = 0.1  # LU for a dB of gain: under it the limiter takes all
CLOSE_LU = 0.1


class SoundPlan(msgspec.Struct, frozen=True):
    """What is done to the sound: a gain in dB, and the peak it is held under (None: no need).

    ``before`` is the loudness it has without, ``after`` the one it will have.
    """

    gain_db: float = 0.0
    limit_dbtp: float | None = None
    before: Loudness | None = None
    after: Loudness | None = None


def finished(
    master: Master, sound: Sound, timeline: Timeline, plan: SoundPlan
) -> Iterator[Samples]:
    """All samples (n, channels) of a file, in chunks of about a second."""
    joined = _joined(master, sound, timeline)
    if plan.limit_dbtp is None:
        for chunk in joined:
            yield (chunk * amplitude(plan.gain_db)).astype(np.float32)
        return
    limiter = Limiter(plan.limit_dbtp, sound.rate_hz, sound.channels)
    for chunk in joined:
        yield limiter.push((chunk * amplitude(plan.gain_db)).astype(np.float32))
    yield limiter.finish()


def _joined(master: Master, sound: Sound, timeline: Timeline) -> Iterator[Samples]:
    pieces = timeline.sound(sound.rate_hz)
    size = round(CHUNK_S * sound.rate_hz)
    for number, (first, count) in enumerate(pieces):
        with ExitStack() as stack:
            reader = stack.enter_context(SoundReader(master, sound.rate_hz, sound.channels, first))
            for at in range(0, count, size):
                chunk = reader.take(min(size, count - at))
                yield _faded(chunk, at, count, sound.rate_hz, number > 0, number < len(pieces) - 1)


def _faded(
    chunk: Samples, at: int, count: int, rate_hz: int, begins: bool, ends: bool
) -> Samples:
    """``chunk`` (its first sample is number ``at`` of ``count``) with fades at joints."""
    if not (begins or ends):
        return chunk
    length = max(1, round(JOINT_S * rate_hz))
    place = np.arange(at, at + len(chunk))
    gain = np.ones(len(chunk), np.float32)
    if begins:
        gain *= np.clip((place + 0.5) / length, 0, 1).astype(np.float32)
    if ends:
        gain *= np.clip((count - place - 0.5) / length, 0, 1).astype(np.float32)
    return np.asarray(chunk * gain[:, None], np.float32)


def plan_sound(
    master: Master, sound: Sound, timeline: Timeline, report: Report, cancel: CancelToken
) -> SoundPlan:
    """Measure the sound, and find the gain and limit that bring it to what the sheet asks.

    Where the limiter takes loudness away the gain is raised again: a few passes at most.
    Raises InputError when the sound cannot be read, Cancelled when stopped.
    """
    if not master.sound:
        return SoundPlan()
    before = _measured(master, sound, timeline, SoundPlan(), report, cancel)
    limit = sound.true_peak_dbtp - (0.0 if sound.family.lossless else LOSSY_SPARE_DB)
    gain = 0.0
    if sound.loudness_lufs is not None and not before.silent:
        gain = sound.loudness_lufs - before.lufs
    if before.true_peak_dbtp + gain <= limit:
        after = Loudness(before.lufs + gain, before.true_peak_dbtp + gain)
        return SoundPlan(gain, None, before, before if before.silent else after)
    return _limited(master, sound, timeline, SoundPlan(gain, limit, before), report, cancel)


def _limited(
    master: Master, sound: Sound, timeline: Timeline, plan: SoundPlan, report: Report,
    cancel: CancelToken,
) -> SoundPlan:
    """``plan`` with a gain that reaches the loudness under the limiter: by the secant method."""
    slope, last = 1.0, None
    for turn in range(TURNS):
        after = _measured(master, sound, timeline, plan, report, cancel)
        plan = msgspec.structs.replace(plan, after=after)
        missing = 0.0 if sound.loudness_lufs is None else sound.loudness_lufs - after.lufs
        if abs(missing) < CLOSE_LU or turn == TURNS - 1:
            break
        if last is not None and plan.gain_db != last[0]:
            slope = (after.lufs - last[1]) / (plan.gain_db - last[0])
        last = (plan.gain_db, after.lufs)
        step = missing / min(max(slope, LEAST_SLOPE), 1.0)
        plan = msgspec.structs.replace(plan, gain_db=plan.gain_db + step)
    return plan


def _measured(
    master: Master, sound: Sound, timeline: Timeline, plan: SoundPlan, report: Report,
    cancel: CancelToken,
) -> Loudness:
    meter = Meter(sound.rate_hz, sound.channels)
    watch = Stopwatch("Measuring loudness", max(1, round(timeline.seconds)), report)
    for number, chunk in enumerate(finished(master, sound, timeline, plan)):
        cancel.check()
        meter.push(chunk)
        watch.at(min(number + 1, round(timeline.seconds)))
    return meter.result()
