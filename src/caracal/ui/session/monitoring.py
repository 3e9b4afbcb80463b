"""What is heard while a film plays: the sound of the chosen version's file, or the master's own."""

from __future__ import annotations

from dataclasses import dataclass

import msgspec
from PySide6.QtCore import QObject, Signal

from caracal.core.base.errors import CaracalError
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken, Report
from caracal.core.layout.added_sound import AddedSound, CleanStrength
from caracal.core.layout.overlay import Overlay, is_veil
from caracal.core.media.master import Master
from caracal.core.plan.sound_plan import extra_audio
from caracal.core.processes.apart import Call, call_apart
from caracal.core.sound.ducking import Span
from caracal.core.sound.finished_sound import SoundPlan, planned
from caracal.core.sound.mix import ExtraAudio, SoundMix, mix_of_file, mix_of_film
from caracal.core.sound.profile import SoundProfile
from caracal.core.sound.speaker import CHANNELS, RATE_HZ, PlayedSound
from caracal.core.specs.sheet import Sound
from caracal.ui.services.worker import Worker

NICE = 15  # the pictures that play meanwhile go first
MOST_PROFILES = 4  # kept: each edit of a range makes another, of 6 MB for two hours
MOST_PLANS = 64


@dataclass(frozen=True)
class VersionSound:
    """What the sound of a version follows from: the film, its sheet's ``sound``, what it shows,
    its overlays, its added sounds, the frames of its ``cards``, and how its speech is
    cleaned."""

    master: Master
    sound: Sound
    ranges: tuple[FrameRange, ...]
    overlays: tuple[Overlay, ...] = ()
    added: tuple[AddedSound, ...] = ()
    cards: tuple[int, int] = (0, 0)
    clean: CleanStrength = CleanStrength.NONE


@dataclass(frozen=True)
class MeasuredSound:
    """What is done to the sound of a version, and what is heard beside the film's own."""

    plan: SoundPlan
    beside: ExtraAudio


def own_sound(master: Master) -> PlayedSound:
    """The master's own sound, all of it and as it is."""
    ranges = (FrameRange(0, master.frames),)
    return PlayedSound(mix_of_film(master, ranges, RATE_HZ, CHANNELS))


class Monitoring(QObject):
    """Measures what a version's file will sound like, in a process apart, once for each.

    ``measured`` tells that what was asked for last is known, or why it cannot be (see
    :attr:`problem`), ``placed`` that :meth:`beside` is, ``progressed`` how far it is. Until then
    the master's own sound is heard, within the version's ranges.
    """

    measured = Signal()
    placed = Signal()
    progressed = Signal(object)  # Progress

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._known: dict[VersionSound, MeasuredSound] = {}
        self._beside: tuple[VersionSound, ExtraAudio] | None = None  # of what was asked for last
        self._profiles: dict[SoundMix, SoundProfile] = {}  # of what was measured, for any sheet
        self._speech: dict[tuple[Master, tuple[FrameRange, ...]], tuple[Span, ...]] = {}
        self._worker: Worker | None = None
        self._token = CancelToken()
        self._asked: VersionSound | None = None
        self.problem = ""  # why what was asked for last cannot be heard

    def sound(self, wanted: VersionSound) -> PlayedSound:
        """The sound of the file that ``wanted`` describes, as far as it is known."""
        found = self.known(wanted)
        if found is None:
            return PlayedSound(mix_of_film(wanted.master, wanted.ranges, RATE_HZ, CHANNELS))
        return PlayedSound(mix_of_film(wanted.master, wanted.ranges, RATE_HZ, CHANNELS,
                                       found.beside, wanted.cards), found.plan)

    def peek(self, wanted: VersionSound) -> MeasuredSound | None:
        """What is known of ``wanted`` already; nothing is measured for it."""
        return self._known.get(wanted)

    def beside(self, wanted: VersionSound) -> ExtraAudio | None:
        """What is heard beside the film's own sound in ``wanted``, if that is known already."""
        if (found := self._known.get(wanted)) is not None:
            return found.beside
        last = self._beside
        return last[1] if last is not None and last[0] == wanted else None

    def known(self, wanted: VersionSound) -> MeasuredSound | None:
        """What is known of ``wanted``; None: it is being measured from now on."""
        found = self._known.get(wanted)
        if found is None and wanted != self._asked:
            self._measure(wanted)
        return found

    def _measure(self, wanted: VersionSound) -> None:
        self.close()
        self._token, self._asked, self.problem = CancelToken(), wanted, ""
        token = self._token

        def work() -> None:
            try:
                found = self._measured(wanted, token)
            except CaracalError as problem:
                token.check()
                self.problem = problem.sentence()
            else:
                if len(self._known) >= MOST_PLANS:
                    self._known.clear()
                self._known[wanted] = found
            self.measured.emit()

        self._worker = Worker(work)
        self._worker.start()

    def _measured(self, wanted: VersionSound, token: CancelToken) -> MeasuredSound:
        master, ranges = wanted.master, wanted.ranges
        line = timeline(ranges, master.rate)
        line = msgspec.structs.replace(line, opening=wanted.cards[0], closing=wanted.cards[1])
        spoken = self._speech.get((master, ranges))
        beside: ExtraAudio = call_apart(
            Call(beside_of, (master, ranges, wanted.overlays, wanted.added, spoken, wanted.clean),
                 stoppable=True, grace_s=0.0, nice=NICE), master.file, self.progressed.emit, token)
        self._beside = wanted, beside
        self.placed.emit()
        if beside.speech:
            self._speech = {(master, ranges): beside.speech}  # of the last one: others are rare
        mix = mix_of_file(master, wanted.sound, line, beside)
        found: tuple[SoundPlan, SoundProfile | None] = call_apart(
            Call(planned, (master, wanted.sound, line, beside, self._profiles.get(mix)),
                 stoppable=True, grace_s=0.0, nice=NICE), master.file, cancel=token)
        plan, profile = found
        if profile is not None:
            self._profiles = dict([*self._profiles.items(), (mix, profile)][-MOST_PROFILES:])
        return MeasuredSound(plan, beside)

    def close(self) -> None:
        """Stop measuring. This must be kept until the thread has ended."""
        self._token.cancel()
        if self._worker is not None:
            self._worker.part()
            self._worker, self._asked = None, None


def beside_of(
    master: Master, ranges: tuple[FrameRange, ...], overlays: tuple[Overlay, ...],
    added: tuple[AddedSound, ...], speech: tuple[Span, ...] | None,
    clean: CleanStrength, report: Report, cancel: CancelToken,
) -> ExtraAudio:
    """As :func:`extra_audio`, for a call in a process apart."""
    return extra_audio(master, ranges, overlays, added, report, cancel, speech, clean)


def heard_overlays(overlays: tuple[Overlay, ...]) -> tuple[Overlay, ...]:
    """Those of ``overlays`` that change the sound: clips that are heard, and fades."""
    return tuple(each for each in overlays if each.heard or is_veil(each))
