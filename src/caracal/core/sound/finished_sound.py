"""A file's sound as it will be encoded: ranges joined, mixed down, brought to its loudness."""

from __future__ import annotations

from collections.abc import Generator

import msgspec
import numpy as np

from caracal.core.media.master import Master
from caracal.core.media.sound import Samples
from caracal.core.paths import changed_ns
from caracal.core.sound.limiter import Limiter
from caracal.core.sound.loudness import Loudness, Meter, amplitude
from caracal.core.sound.mix import (
    NOTHING_BESIDE,
    Accompaniment,
    SoundMix,
    mix_of_file,
    mixed,
)
from caracal.core.specs.sheet import Sound
from caracal.core.timeline import Timeline
from caracal.core.translation import tr
from caracal.core.work import CancelToken, Report, Stopwatch

LOSSY_SPARE_DB = 1.0  # lossy encoders go beyond the peaks they are given: by up to 0.9 dB here
TURNS = 6  # a limiter takes loudness away: the gain is corrected so often, at the most
LEAST_SLOPE = 0.1  # LU for a dB of gain: under it the limiter takes all
CLOSE_LU = 0.1
MOST_KNOWN = 32  # mixes whose loudness is known

_known: dict[tuple[SoundMix, tuple[int, ...]], Loudness] = {}  # by when their files were changed


class SoundPlan(msgspec.Struct, frozen=True):
    """What is done to the sound: a gain in dB, and the peak it is held under (None: no need).

    ``before`` is the loudness it has without, ``after`` the one it will have.
    """

    gain_db: float = 0.0
    limit_dbtp: float | None = None
    before: Loudness | None = None
    after: Loudness | None = None


def finished(
    mix: SoundMix, plan: SoundPlan, start: int = 0, chunk: int | None = None
) -> Generator[Samples, None, None]:
    """The samples (n, channels) of ``mix`` from ``start`` on as ``plan`` finishes them; see mixed.
    """
    gain = amplitude(plan.gain_db)
    louder = ((samples * gain).astype(np.float32) for samples in mixed(mix, start, chunk))
    if plan.limit_dbtp is None:
        yield from louder
        return
    limiter = Limiter(plan.limit_dbtp, mix.rate_hz, mix.channels)
    for samples in louder:
        yield limiter.push(samples)
    yield limiter.finish()


def plan_sound(
    master: Master, sound: Sound, timeline: Timeline, report: Report, cancel: CancelToken,
    beside: Accompaniment = NOTHING_BESIDE, before: Loudness | None = None,
) -> SoundPlan:
    """Measure the sound, and find the gain and limit that bring it to what the sheet asks.

    ``before`` is how loud it is as it is, if that was measured already. Where the limiter takes
    loudness away the gain is raised again: a few passes at most.
    Raises InputError when the sound cannot be read, Cancelled when stopped.
    """
    if not master.sound and not beside.clips:
        return SoundPlan()
    mix = mix_of_file(master, sound, timeline, beside)
    before = before or _as_it_is(mix, report, cancel)
    limit = sound.true_peak_dbtp - (0.0 if sound.family.lossless else LOSSY_SPARE_DB)
    gain = 0.0
    if sound.loudness_lufs is not None and not before.silent:
        gain = sound.loudness_lufs - before.lufs
    if before.true_peak_dbtp + gain <= limit:
        after = Loudness(before.lufs + gain, before.true_peak_dbtp + gain)
        return SoundPlan(gain, None, before, before if before.silent else after)
    return _limited(mix, sound.loudness_lufs, SoundPlan(gain, limit, before), report, cancel)


def planned(
    master: Master, sound: Sound, timeline: Timeline, beside: Accompaniment,
    before: Loudness | None, report: Report, cancel: CancelToken,
) -> SoundPlan:
    """As :func:`plan_sound`, with its arguments in the order of a call in a process apart."""
    return plan_sound(master, sound, timeline, report, cancel, beside, before)


def _limited(
    mix: SoundMix, lufs: float | None, plan: SoundPlan, report: Report, cancel: CancelToken
) -> SoundPlan:
    """``plan`` with a gain that reaches ``lufs`` under the limiter: by the secant method."""
    slope, last = 1.0, None
    for turn in range(TURNS):
        after = _measured(mix, plan, report, cancel)
        plan = msgspec.structs.replace(plan, after=after)
        missing = 0.0 if lufs is None else lufs - after.lufs
        if abs(missing) < CLOSE_LU or turn == TURNS - 1:
            break
        if last is not None and plan.gain_db != last[0]:
            slope = (after.lufs - last[1]) / (plan.gain_db - last[0])
        last = (plan.gain_db, after.lufs)
        step = missing / min(max(slope, LEAST_SLOPE), 1.0)
        plan = msgspec.structs.replace(plan, gain_db=plan.gain_db + step)
    return plan


def _as_it_is(mix: SoundMix, report: Report, cancel: CancelToken) -> Loudness:
    """How loud ``mix`` is before anything is done to it: measured once for all sheets."""
    key = mix, tuple(changed_ns(clip.source.file) for clip in mix.clips)
    found = _known.get(key)
    if found is None:
        found = _measured(mix, SoundPlan(), report, cancel)
        if len(_known) >= MOST_KNOWN:
            _known.clear()
        _known[key] = found
    return found


def _measured(
    mix: SoundMix, plan: SoundPlan, report: Report, cancel: CancelToken
) -> Loudness:
    meter, seconds = Meter(mix.rate_hz, mix.channels), round(mix.length / mix.rate_hz)
    watch = Stopwatch(tr("Measuring loudness"), max(1, seconds), report)
    for number, chunk in enumerate(finished(mix, plan)):
        cancel.check()
        meter.push(chunk)
        watch.at(min(number + 1, seconds))
    return meter.result()
