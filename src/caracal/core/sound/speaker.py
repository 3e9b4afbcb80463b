"""Plays a film's sound, as its file will have it, in step with a clock of pictures.

A feeding thread makes samples ahead; the sound system's own thread takes from it. Pictures are
never held up for sound: where the two part by more than people notice, sound is left out or held.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Generator, Sequence
from contextlib import closing, suppress
from pathlib import Path
from typing import NamedTuple

import miniaudio
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.errors import CaracalError
from caracal.core.media.sound import Samples
from caracal.core.sound.finished_sound import SoundPlan
from caracal.core.sound.mix import SoundMix
from caracal.core.sound.playback_process import PlaybackProcess, Played

RATE_HZ, CHANNELS = 48000, 2
PERIOD_S, PERIODS = 0.03, 3  # the sound system's own buffer
BUFFER_S = 2 * PERIOD_S  # between taking samples and hearing them, once that buffer is full
APART_S = 0.04  # sound early by this is noticed (EBU R 37: +40 ms, -60 ms; from memory)
CALM = 0.1  # weight of the newest measure: one late call is nothing, a lasting difference is
BLOCK = 2400  # samples made at a time
AHEAD = RATE_HZ // 2  # samples kept ready
SOUND_CARDS = Path("/dev/snd")

Clock = Callable[[], float]


def sound_systems() -> list[miniaudio.Backend]:
    """The systems worth asking: without a card one of them fills the terminal with complaints."""
    cards = [miniaudio.Backend.ALSA] if SOUND_CARDS.exists() else []
    return [miniaudio.Backend.PULSEAUDIO, *cards]


class PlayedSound(NamedTuple):
    """What is played: a mix in the film's own time, at RATE_HZ and CHANNELS, and its finish."""

    mix: SoundMix
    plan: SoundPlan = SoundPlan()


class Speaker:
    """The sound of one film. All methods return at once.

    The caller and the thread of the sound device share its state, so it has more attributes than
    a class should have.
    """

    def __init__(
        self, sound: PlayedSound, systems: Sequence[miniaudio.Backend] | None = None,
        unheard: Callable[[], None] = lambda: None,
    ) -> None:
        """``systems`` are those to try, in order; None: whatever this machine has.

        ``unheard`` is called, from another thread, when there is nothing to play on.
        """
        self._sound, self._unheard = sound, unheard
        self._systems = sound_systems() if systems is None else list(systems)
        self._process = PlaybackProcess()
        self._changed = threading.Condition()
        self._clock: Clock | None = None  # the second of the film that should be heard now
        self._asked = 0  # how often something else was asked for
        self._ready: NDArray[np.float32] = np.zeros((0, CHANNELS), np.float32)
        self._at_s = 0.0  # second of the film of the first ready sample
        self._taken = 0  # calls since the sound system began to take
        self._early_s: float | None = None  # how early sound is, on average; None: not begun
        self._closed = False
        self._device: miniaudio.PlaybackDevice | None = None
        self._worker: threading.Thread | None = None
        self.heard = 0  # samples of the film given to the sound system so far

    @property
    def playing(self) -> bool:
        """Whether a sound is to be heard now, even if the device has not begun."""
        return self._clock is not None

    def play(self, clock: Clock) -> None:
        """Play what ``clock`` says is due: seconds of the film, counted from its first picture."""
        if not self._closed:
            self._ask(clock)

    def hear(self, sound: PlayedSound) -> None:
        """Play ``sound`` from now on."""
        if sound != self._sound:
            self._sound = sound
            self._ask(self._clock)

    def stop(self) -> None:
        """Stops the sound; :meth:`hear` starts another."""
        self._ask(None)

    def close(self) -> None:
        """Stops the sound; the thread lets the device go, which :meth:`wait` waits for."""
        self._closed = True
        self._process.give_up()
        self._ask(None)

    def wait(self, within_s: float) -> bool:
        """Wait so many seconds for the thread of a speaker that was closed; whether it has ended.
        """
        if self._worker is None:
            return True
        self._worker.join(within_s)
        return not self._worker.is_alive()

    def _ask(self, clock: Clock | None) -> None:
        with self._changed:
            self._clock = clock
            self._asked += 1
            self._ready, self._early_s = self._ready[:0], None
            self._changed.notify_all()
        if clock is not None and self._sound.mix.clips and self._worker is None:
            self._worker = threading.Thread(target=self._work, name="speaker", daemon=True)
            self._worker.start()

    def _work(self) -> None:
        """Serve the latest wish until closed."""
        served = 0
        while True:
            with self._changed:
                while self._asked == served and not self._closed:
                    self._changed.wait()
                served, clock = self._asked, self._clock
            if self._closed:
                break
            if clock is None or not self._sound.mix.clips:
                self._rest()
            elif self._open():
                self._feed(served, clock)
        self._process.close()
        if self._device is not None:
            self._device.close()

    def _rest(self) -> None:
        if self._device is not None:
            with suppress(miniaudio.MiniaudioError):  # unplugged meanwhile
                self._device.stop()

    def _open(self) -> bool:
        """Whether there is something to play on."""
        try:
            if self._device is None:
                self._device = miniaudio.PlaybackDevice(
                    miniaudio.SampleFormat.FLOAT32, CHANNELS, RATE_HZ, round(PERIOD_S * 1000),
                    callback_periods=PERIODS, backends=self._systems, app_name="Caracal")
            if not self._device.running:
                blocks, self._taken = self._blocks(), 0
                next(blocks)
                self._device.start(blocks)
        except miniaudio.MiniaudioError:
            self._unheard()  # pictures play all the same
            return False
        return True

    def _feed(self, wish: int, clock: Clock) -> None:
        """Keep samples ready until something else is wished for."""
        first = max(0, round(clock() * RATE_HZ))
        with self._changed:
            if self._asked != wish:
                return
            self._at_s, sound = first / RATE_HZ, self._sound
        with suppress(CaracalError), closing(  # the film is gone or ends early: its pictures say so
                self._process.blocks(Played(sound.mix, sound.plan, first, BLOCK))) as blocks:
            for block in blocks:
                with self._changed:
                    if self._asked != wish:
                        return
                    self._ready = np.concatenate([self._ready, block])
                    self._changed.wait_for(
                        lambda: len(self._ready) < AHEAD or self._asked != wish)

    def _blocks(self) -> Generator[bytes, int, None]:
        wanted = yield b""
        while True:
            wanted = yield self.take(wanted).tobytes()

    def take(self, count: int) -> Samples:
        """The next ``count`` samples (count, 2) for the sound system, silence where none is due."""
        made = np.zeros((count, CHANNELS), np.float32)
        with self._changed:
            self._taken += 1
            if self._clock is None or not len(self._ready) or self._taken <= PERIODS:
                return made
            start = self._fall_in(count, self._at_s - self._clock() - BUFFER_S)
            part = self._ready[: count - start]
            made[start : start + len(part)] = part
            self.heard += len(part)
            self._leave_out(len(part))
            self._changed.notify_all()
        return made

    def _fall_in(self, count: int, early_s: float) -> int:
        """Bring the sound to its time if it is off; returns how many samples it is to wait."""
        if self._early_s is not None:
            self._early_s = (1 - CALM) * self._early_s + CALM * early_s
            if abs(self._early_s) <= APART_S:
                return 0
        off = round(early_s * RATE_HZ)
        self._early_s = None if off > count else 0.0  # None: too early after this block, too
        self._leave_out(max(0, -off))
        return min(count, max(0, off))

    def _leave_out(self, count: int) -> None:
        count = min(count, len(self._ready))
        self._ready = self._ready[count:]
        self._at_s += count / RATE_HZ
