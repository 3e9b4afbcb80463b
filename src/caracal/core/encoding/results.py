"""How far a file is, and how it ended: as data."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from caracal.core.base.errors import Problem
from caracal.core.base.translation import tr
from caracal.core.encoding.proof import Proof
from caracal.core.sound.finished_sound import SoundPlan


class EncodeResult(msgspec.Struct, frozen=True):
    """One finished file and its proof; ``wanted`` is the number of the version it belongs to.

    ``sound`` is what was done to its sound, with its loudness before and after.
    """

    file: str
    proof: Proof
    wanted: int = 0
    sound: SoundPlan | None = None

    def sound_words(self) -> str:
        """What was done to the sound, in words; empty where there is none to hear."""
        plan = self.sound
        if plan is None or plan.before is None or plan.after is None or plan.before.silent:
            return ""
        limited = tr(", limited") if plan.limit_dbtp is not None else ""
        peaks = (loudness.true_peak_dbtp for loudness in (plan.before, plan.after))
        made = tr("Sound {before:.1f} to {after:.1f} LUFS, peak {peaks} dBTP{limited}",
                  before=plan.before.lufs, after=plan.after.lufs,
                  peaks=" to ".join(f'{peak:.1f}' for peak in peaks), limited=limited)
        return f"{made}. {plan.shortfall}" if plan.shortfall else made


class FileState(msgspec.Struct, frozen=True):
    """How far one file is. ``frames_s`` is its speed, None before there is something to judge."""

    doing: str
    done: int
    total: int
    written_bytes: int = 0
    frames_s: float | None = None

    @property
    def left_s(self) -> float | None:
        """Seconds left at this speed."""
        return (self.total - self.done) / self.frames_s if self.frames_s else None


class Outcome(msgspec.Struct, frozen=True):
    """How a file ended: made, refused with a problem, stopped, or its encoder crashed (neither)."""

    made: EncodeResult | None = None
    problem: Problem | None = None
    stopped: bool = False
    first_pass_done: bool = False

    @property
    def crashed(self) -> bool:
        """Whether the encoder ended by itself."""
        return self == Outcome()


Watch = Callable[[int, FileState], None]
