"""How much louder sound is made to reach a loudness, and what cannot be reached.

A limiter takes away from the loud moments what the gain gives them. Where these alone decide how
loud the sound is, more gain brings up what is quiet between them and no loudness, until so much of
it is above the gate of the measurement that it decides instead. That is never done: the gain ends
before, and after MOST_GAIN_DB in any case.
"""

from __future__ import annotations

from typing import NamedTuple

from caracal.core.sound.profile import SoundProfile

MOST_GAIN_DB = 20.0  # more brings up the noise of the place and of the microphone
STEP_DB = 0.25
CLOSE_LU = 0.05
JUMP_LU = 0.3  # a fall of the loudness while the gain rises: what is quiet has passed the gate
NEAR_LU = 0.3  # what more gain must give, where the loudness is not reached anyway


class Gain(NamedTuple):
    """A gain in ``db``, the loudness it is expected to give, and whether that is the wanted one."""

    db: float
    lufs: float
    reaches: bool


def find_gain(
    profile: SoundProfile, lufs: float, limit_dbtp: float, correction_lu: float = 0.0
) -> Gain:
    """The least gain that brings sound to ``lufs`` under a limiter, or as near as it can be.

    ``correction_lu`` is by how much sound comes out louder than the profile tells.
    """
    simple = min(lufs - profile.loudness.lufs - correction_lu, MOST_GAIN_DB)
    if profile.loudness.true_peak_dbtp + simple <= limit_dbtp:
        reached = profile.loudness.lufs + simple + correction_lu
        return Gain(simple, reached, reached >= lufs - CLOSE_LU)
    tried = list[Gain]()
    gain = min(simple, limit_dbtp - profile.loudness.true_peak_dbtp)
    while True:
        found = profile.lufs_at(gain, limit_dbtp) + correction_lu
        if found >= lufs - CLOSE_LU:
            return _between(tried[-1] if tried else None, Gain(gain, found, True), lufs)
        if tried and found < max(each.lufs for each in tried) - JUMP_LU:
            break
        tried.append(Gain(gain, found, False))
        if gain >= MOST_GAIN_DB:
            break
        gain = min(gain + STEP_DB, MOST_GAIN_DB)
    best = max(each.lufs for each in tried)
    return next(each for each in tried if each.lufs >= best - NEAR_LU)


def _between(before: Gain | None, after: Gain, lufs: float) -> Gain:
    """The gain between two neighbours that gives ``lufs``."""
    if before is None or after.lufs - before.lufs < CLOSE_LU:
        return after
    share = (lufs - before.lufs) / (after.lufs - before.lufs)
    return Gain(before.db + min(1.0, share) * (after.db - before.db), lufs, True)
