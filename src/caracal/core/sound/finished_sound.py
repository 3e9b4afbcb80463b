"""A file's sound as it will be encoded: ranges joined, mixed down, brought to its loudness."""

from __future__ import annotations

from collections.abc import Generator
from contextlib import closing

import msgspec
import numpy as np

from caracal.core.base.paths import changed_ns
from caracal.core.base.timeline import Timeline
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, ProgressReporter, Report
from caracal.core.media.master import Master
from caracal.core.media.sound import Samples
from caracal.core.sound.coder_trial import LASTS_S, LEAD_S, coded, moments
from caracal.core.sound.gain import MOST_GAIN_DB, find_gain
from caracal.core.sound.limiter import Limiter
from caracal.core.sound.loudness import Loudness, Meter, amplitude
from caracal.core.sound.mix import NOTHING_BESIDE, ExtraAudio, SoundMix, mix_of_file
from caracal.core.sound.mixer import mixed
from caracal.core.sound.profile import Profiler, SoundProfile
from caracal.core.specs.settings import sound_settings
from caracal.core.specs.sheet import Sound

LOSSY_SPARE_DB = 1.0  # lossy encoders go beyond the peaks they are given: by up to 0.9 dB here
MOST_BEYOND_DB = 4.0  # with sharp transients they go farther; quieter sound need not be tried
TRIES = 5  # of a limit with the encoder
SPARE_DB = 0.2  # below what the encoder makes of the moments that were tried
TURNS = 3  # the gain is corrected by what was measured so often, at the most
CLOSE_LU = 0.1
REACHED_LU = 0.3  # what is so near is right; a proof allows a little more
MOST_KNOWN = 8  # mixes whose profiles are kept: 6 MB each for two hours

# By their mixes, and when their files were changed.
_known: dict[tuple[SoundMix, tuple[int, ...]], SoundProfile] = {}


class SoundPlan(msgspec.Struct, frozen=True):
    """What is done to the sound: a gain in dB, and the peak it is held under (None: no need).

    ``before`` is the loudness it has without, ``after`` the one it will have. Where a sheet's
    loudness ``lufs`` cannot be reached, ``after`` is the nearest that can.
    """

    gain_db: float = 0.0
    limit_dbtp: float | None = None
    before: Loudness | None = None
    after: Loudness | None = None
    lufs: float | None = None

    @property
    def nearest_lufs(self) -> float | None:
        """The loudness that it gets in place of the one that was asked for; None: it gets that."""
        if self.lufs is None or self.after is None or self.after.silent:
            return None
        return self.after.lufs if abs(self.after.lufs - self.lufs) > REACHED_LU else None

    @property
    def shortfall(self) -> str:
        """A sentence about a loudness that cannot be reached; empty where it is."""
        if self.nearest_lufs is None:
            return ""
        why = (tr("it needs more than {most:g} dB of gain, which would raise the noise",
                  most=MOST_GAIN_DB) if self.gain_db >= MOST_GAIN_DB else
               tr("the peaks are at the limit already, and more gain would only raise the quiet "
                  "parts"))
        return tr("{lufs:g} LUFS cannot be reached: {why}. The file will have {nearest:.1f} LUFS.",
                  lufs=self.lufs, why=why, nearest=self.nearest_lufs)


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
    beside: ExtraAudio = NOTHING_BESIDE, profile: SoundProfile | None = None,
) -> SoundPlan:
    """Find the gain and limit that bring the sound to what the sheet asks, or near it.

    ``profile`` is that of the sound as it is, if it is known already. Where the encoder loses
    something, the limit leaves it the room that it takes on the loudest moments.
    Raises InputError when the sound cannot be read, Cancelled when stopped.
    """
    if not master.sound and not beside.sounds:
        return SoundPlan()
    mix = mix_of_file(master, sound, timeline, beside)
    known = profile or profile_of(mix, report, cancel)
    return _Planning(mix, sound, known, report, cancel).plan()


def planned(
    master: Master, sound: Sound, timeline: Timeline, beside: ExtraAudio,
    profile: SoundProfile | None, report: Report, cancel: CancelToken,
) -> tuple[SoundPlan, SoundProfile | None]:
    """As :func:`plan_sound`, for a call in a process apart; the profile is returned, too."""
    if profile is None and (master.sound or beside.sounds):
        profile = profile_of(mix_of_file(master, sound, timeline, beside), report, cancel)
    return plan_sound(master, sound, timeline, report, cancel, beside, profile), profile


class _Planning:
    """Finds what is done to one mix for one sheet's sound."""

    def __init__(self, mix: SoundMix, sound: Sound, profile: SoundProfile, report: Report,
                 cancel: CancelToken) -> None:
        self._mix, self._sound, self._profile = mix, sound, profile
        self._report, self._cancel = report, cancel
        spare = 0.0 if sound.family.lossless else LOSSY_SPARE_DB
        self._limit = sound.true_peak_dbtp - spare
        self._correction_lu = 0.0  # by how much what was made is louder than expected
        self._coder_lu = 0.0  # by how much the encoder makes it louder

    def plan(self) -> SoundPlan:
        """The plan; it measures what comes out where a limiter works."""
        before, wanted = self._profile.loudness, self._sound.loudness_lufs
        if before.silent:
            return SoundPlan(before=before, after=before)
        best = SoundPlan()
        for _ in range(TURNS):
            plan = self._with_room(self._plan())
            if plan.limit_dbtp is None:
                return plan
            expected = plan.after
            measured = self._measured(plan)
            plan = msgspec.structs.replace(plan, after=Loudness(
                measured.lufs + self._coder_lu, measured.true_peak_dbtp))
            assert plan.after is not None and expected is not None
            if best.after is None or _missing(plan) < _missing(best):
                best = plan
            off = plan.after.lufs - expected.lufs
            if wanted is None or _missing(plan) < CLOSE_LU or abs(off) < CLOSE_LU:
                break
            self._correction_lu += off
        return best

    def _plan(self) -> SoundPlan:
        """A plan under the limit as it stands; ``after`` is what is expected of it."""
        before, wanted = self._profile.loudness, self._sound.loudness_lufs
        gain, reached = 0.0, before.lufs
        if wanted is not None:
            gain, reached, _ = find_gain(self._profile, wanted, self._limit,
                                         self._correction_lu + self._coder_lu)
        peak = before.true_peak_dbtp + gain
        held = peak > self._limit
        return SoundPlan(gain, self._limit if held else None, before,
                         Loudness(reached, min(peak, self._limit)), wanted)

    def _with_room(self, plan: SoundPlan) -> SoundPlan:
        """``plan``, with a lower limit where the encoder goes beyond what is asked for."""
        asked = self._sound.true_peak_dbtp
        for _ in range(TRIES):
            assert plan.after is not None
            if self._sound.family.lossless or (
                    plan.after.true_peak_dbtp < asked - MOST_BEYOND_DB):
                return plan
            given, made = self._tried(plan)
            changed_lu, self._coder_lu = self._coder_lu, made.lufs - given.lufs
            beyond = made.true_peak_dbtp - asked
            if beyond > 0:
                self._limit = min(self._limit, plan.after.true_peak_dbtp) - beyond - SPARE_DB
            elif abs(changed_lu - self._coder_lu) < CLOSE_LU:
                return plan
            plan = self._plan()
        return plan

    def _tried(self, plan: SoundPlan) -> tuple[Loudness, Loudness]:
        """How loud the moments are that ask most, as the encoder gets them, and as it makes them.
        """
        rate, settings = self._mix.rate_hz, sound_settings(self._sound)
        given, made = (Meter(rate, self._mix.channels) for _ in range(2))
        for at_s in moments(self._profile, plan.gain_db, self._limit):
            self._cancel.check()
            part = self._part(plan, max(0, round((at_s - LEAD_S) * rate)), round(LASTS_S * rate))
            if len(part):
                given.push(part)
                made.push(coded(part, settings))
        return given.result(), made.result()

    def _part(self, plan: SoundPlan, first: int, count: int) -> Samples:
        """Up to ``count`` samples of what is finished by ``plan``, from sample ``first`` on."""
        parts, have = list[Samples](), 0
        with closing(finished(self._mix, plan, first)) as made:
            for samples in made:
                parts.append(samples)
                have += len(samples)
                if have >= count:
                    break
        return np.concatenate(parts)[:count] if parts else np.zeros((0, 1), np.float32)

    def _measured(self, plan: SoundPlan) -> Loudness:
        meter = Meter(self._mix.rate_hz, self._mix.channels)
        for chunk in _heard(self._mix, plan, self._report, self._cancel):
            meter.push(chunk)
        return meter.result()


def _missing(plan: SoundPlan) -> float:
    """How far what was measured is from what is wanted, in LU."""
    return 0.0 if plan.lufs is None or plan.after is None else abs(plan.lufs - plan.after.lufs)


def profile_of(mix: SoundMix, report: Report, cancel: CancelToken) -> SoundProfile:
    """How loud ``mix`` is before anything is done to it: measured once for all sheets."""
    key = mix, tuple(changed_ns(clip.source.file) for clip in mix.clips)
    found = _known.get(key)
    if found is None:
        profiler = Profiler(mix.rate_hz, mix.channels)
        for chunk in _heard(mix, SoundPlan(), report, cancel):
            profiler.push(chunk)
        found = profiler.result()
        if len(_known) >= MOST_KNOWN:
            _known.clear()
        _known[key] = found
    return found


def _heard(
    mix: SoundMix, plan: SoundPlan, report: Report, cancel: CancelToken
) -> Generator[Samples, None, None]:
    """The samples of ``mix`` as ``plan`` finishes them; it tells how far they are measured."""
    seconds = round(mix.length / mix.rate_hz)
    watch = ProgressReporter(tr("Measuring loudness"), max(1, seconds), report)
    for number, chunk in enumerate(finished(mix, plan)):
        cancel.check()
        yield chunk
        watch.at(min(number + 1, seconds))
