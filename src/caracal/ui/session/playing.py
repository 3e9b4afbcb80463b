"""Playing the film: the clock that frames follow, and the sound beside it."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Protocol

from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from caracal.core.base.timeline import Timeline
from caracal.core.base.translation import tr
from caracal.core.sound.speaker import Speaker
from caracal.ui.services.worker import part_with
from caracal.ui.session.monitoring import Monitoring, own_sound
from caracal.ui.session.played_version import Chosen, sound_of_file, time_of_file
from caracal.ui.session.preview import Preview
from caracal.ui.session.solutions import Solutions

AHEAD = 10  # pictures fetched before they are played
PREROLL = 6  # of them made before the clock starts: the first ones find nothing under way
PREROLL_S = 0.4  # a machine that does not make them in this time starts without


class Played(Chosen, Protocol):
    """What is played: a film that has a frame at which it stands."""

    preview: Preview
    solving: Solutions

    @property
    def frame(self) -> int:
        """The frame at which it stands."""

    @property
    def rate(self) -> float:
        """Frames a second."""

    def go(self, frame: int) -> None:
        """Stand at ``frame``."""


class Playing(QObject):
    """Moves a film's frame on as time passes; a slow machine drops frames and never drags.

    Time begins to pass when the first pictures are made (a pre-roll), or soon without them.
    At ordinary speed, forwards, stretches have the speed that they have in the chosen version's
    file. Sound is heard at ordinary speed, forwards: that of the chosen version's file, or with
    ``as_made`` off the master's own.
    """

    unheard = Signal()
    said = Signal(str)
    speed_changed = Signal(int)

    def __init__(self, film: Played, parent: QObject) -> None:
        super().__init__(parent)
        self._film = film
        self.speed = 0
        self.loud, self.as_made = True, True
        self.monitoring = Monitoring(self)
        self.monitoring.measured.connect(self.renew_sound)
        self.speaker = Speaker(own_sound(film.analysis.master), unheard=self.unheard.emit)
        self._told = False
        self.unheard.connect(self._tell)
        self._clock, self._since = QTimer(self), QElapsedTimer()
        self._preroll: QElapsedTimer | None = None  # while time does not pass yet
        self._began = self._played = 0
        self._line: Timeline | None = None  # known once it plays
        self._clock.timeout.connect(self._tick)

    def play(self, speed: int) -> None:
        """Play at ``speed`` times the film's rate, backwards if negative; 0 stops."""
        self.speed = speed
        self.speed_changed.emit(speed)
        if speed:
            self._roll()
            self._clock.start(round(500 / self._film.rate))
        else:
            self._clock.stop()
            self._preroll = None
            self.speaker.stop()
            self._film.preview.rest()

    def be_loud(self, loud: bool) -> None:
        """Sound on or off, at once."""
        self.loud = loud
        self._sound()

    def hear_file(self, as_made: bool) -> None:
        """Hear the file as it will be, or the master's own sound, at once."""
        self.as_made = as_made
        if self.speed:
            self._play_from()

    def renew_sound(self) -> None:
        """Hear what is to be heard by now: another version, other ranges, or newly measured."""
        if self.speed == 1 and self._line is not None and self._line != time_of_file(self._film):
            self._play_from()
        elif self.speed == 1 and self.loud:
            self.speaker.hear(sound_of_file(self._film, self.monitoring) if self.as_made
                              else own_sound(self._film.analysis.master))

    def _tell(self) -> None:
        if not self._told:
            self._told = True
            self.said.emit(tr("There is no loudspeaker here: the film plays without sound."))

    def _tick(self) -> None:
        film = self._film
        if film.frame != self._played:  # somebody went elsewhere meanwhile
            self._roll()
        if self._preroll is not None and not self._rolled(self._preroll):
            return
        following = self._frame_now()
        if not 0 <= following < film.analysis.known_to:
            self.play(0)
            return
        self._played = following
        film.go(following)
        film.preview.prepare(self._ahead(AHEAD))

    def _ahead(self, count: int) -> list[int]:
        """The next ``count`` frames that are to be played, whatever their pace."""
        known = range(self._film.analysis.known_to)
        return [frame for i in range(1, count + 1)
                if (frame := self._played + self.speed * i) in known]

    def _roll(self) -> None:
        """Have the next pictures made, and count the time from the frame that shows then."""
        self._played = self._film.frame
        self._preroll = QElapsedTimer()
        self._preroll.start()
        self.speaker.stop()

    def _play_from(self) -> None:
        """Count the time from the frame that shows."""
        self._preroll = None
        self._began = self._played = self._film.frame
        self._line = time_of_file(self._film)
        self._since.start()
        self._sound()

    def _rolled(self, preroll: QElapsedTimer) -> bool:
        """Whether time passes from now on."""
        made = self._film.preview.preroll(self._played, self._ahead(PREROLL))
        known = made and not self._film.solving.busy  # what is solved by and by is made anew
        if not known and preroll.elapsed() < PREROLL_S * 1000:
            return False
        self._play_from()
        return True

    def _frame_now(self) -> int:
        """The frame that is to show by now."""
        passed = self._since.elapsed() / 1000 * self._film.rate
        if self.speed != 1 or not self.as_made or self._line is None:
            return self._began + self.speed * int(passed)
        time = self._line.time_at(self._began) + Fraction(passed)
        if time >= self._line.duration_frames:
            return self._line.joined
        return math.floor(self._line.place_at(time))

    def _sound(self) -> None:
        if self._preroll is not None:
            return  # it begins with the pictures
        if self.speed == 1 and self.loud:
            # Read in the speaker's thread: both numbers stay as they are until it is asked anew.
            line = self._line if self.as_made else None
            began = self._began if line is None else line.time_at(self._began)
            began_s, since = float(began) / self._film.rate, self._since
            self.renew_sound()
            self.speaker.play(lambda: began_s + since.elapsed() / 1000)
        else:
            self.speaker.stop()

    def close(self) -> None:
        """This stops for good: nothing is played any more."""
        self._clock.stop()
        self.monitoring.close()
        self.speaker.close()
        part_with(self.speaker.wait)
