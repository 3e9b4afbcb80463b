"""What is heard while a film plays: the sound of the chosen version's file, or the master's own."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken
from caracal.core.layout.overlay import Overlay, is_veil
from caracal.core.media.master import Master
from caracal.core.plan.sound_plan import accompaniment
from caracal.core.processes.apart import Call, call_apart
from caracal.core.sound.finished_sound import SoundPlan, planned
from caracal.core.sound.mix import ExtraAudio, SoundMix, mix_of_file, mix_of_film
from caracal.core.sound.profile import SoundProfile
from caracal.core.sound.speaker import CHANNELS, RATE_HZ, PlayedSound
from caracal.core.specs.sheet import Sound
from caracal.ui.services.worker import Worker

NICE = 15  # the pictures that play meanwhile go first
MOST_PROFILES = 4  # kept: each edit of a range makes another, of 6 MB for two hours
Wanted = tuple[Master, Sound, tuple[FrameRange, ...], tuple[Overlay, ...]]


def own_sound(master: Master) -> PlayedSound:
    """The master's own sound, all of it and as it is."""
    ranges = (FrameRange(0, master.frames),)
    return PlayedSound(mix_of_film(master, ranges, RATE_HZ, CHANNELS))


class Monitoring(QObject):
    """Measures what a version's file will sound like, in a process apart, once for each.

    ``measured`` tells that what was asked for last is known. Until then the master's own sound is
    heard, within the version's ranges.
    """

    measured = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._plans: dict[Wanted, tuple[SoundPlan, ExtraAudio]] = {}
        self._profiles: dict[SoundMix, SoundProfile] = {}  # of what was measured, for any sheet
        self._worker: Worker | None = None
        self._token = CancelToken()
        self._asked: Wanted | None = None

    def sound(self, master: Master, sound: Sound, ranges: tuple[FrameRange, ...],
              overlays: tuple[Overlay, ...] = ()) -> PlayedSound:
        """The sound of a file that shows ``ranges`` under ``overlays`` by a sheet's ``sound``."""
        heard = tuple(each for each in overlays if each.heard or is_veil(each))
        wanted = (master, sound, ranges, heard)
        if wanted not in self._plans:
            if wanted != self._asked:
                self._measure(wanted)
            return PlayedSound(mix_of_film(master, ranges, RATE_HZ, CHANNELS))
        plan, beside = self._plans[wanted]
        return PlayedSound(mix_of_film(master, ranges, RATE_HZ, CHANNELS, beside), plan)

    def _measure(self, wanted: Wanted) -> None:
        self.close()
        self._token, self._asked = CancelToken(), wanted
        token = self._token

        def work() -> None:
            master, sound, ranges, overlays = wanted
            line, beside = timeline(ranges, master.rate), accompaniment(overlays)
            mix = mix_of_file(master, sound, line, beside)
            found: tuple[SoundPlan, SoundProfile | None] = call_apart(
                Call(planned, (master, sound, line, beside, self._profiles.get(mix)),
                     stoppable=True, grace_s=0.0, nice=NICE), master.file, cancel=token)
            plan, profile = found
            if profile is not None:
                self._profiles = dict([*self._profiles.items(), (mix, profile)][-MOST_PROFILES:])
            self._plans[wanted] = plan, beside
            self.measured.emit()

        self._worker = Worker(work)
        self._worker.start()

    def close(self) -> None:
        """Stop measuring. This must be kept until the thread has ended."""
        self._token.cancel()
        if self._worker is not None:
            self._worker.part()
            self._worker, self._asked = None, None
