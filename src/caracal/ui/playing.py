"""Playing the film: the clock that frames follow, and the sound beside it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QElapsedTimer, QObject, QTimer, Signal

from caracal.core.media.speaker import Speaker

if TYPE_CHECKING:
    from caracal.ui.session import Session

AHEAD = 10  # pictures fetched before they are played


class Playing(QObject):
    """Moves a session's frame on as time passes; a slow machine drops frames and never drags.

    Sound is heard at ordinary speed, forwards.
    """

    unheard = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self.speed = 0
        self.loud = True
        self.speaker = Speaker(session.analysis.master, unheard=self.unheard.emit)
        self._told = False
        self.unheard.connect(self._tell)
        self._clock, self._since = QTimer(self), QElapsedTimer()
        self._began = self._played = 0
        self._clock.timeout.connect(self._tick)

    def play(self, speed: int) -> None:
        """Play at ``speed`` times the film's rate, backwards if negative; 0 stops."""
        self.speed = speed
        if speed:
            self._play_from()
            self._clock.start(round(500 / self._session.rate))
        else:
            self._clock.stop()
            self.speaker.stop()

    def be_loud(self, loud: bool) -> None:
        """Sound on or off, at once."""
        self.loud = loud
        self._sound()

    def _tell(self) -> None:
        if not self._told:
            self._told = True
            self._session.said.emit("There is no loudspeaker here: the film plays without sound.")

    def _tick(self) -> None:
        session = self._session
        if session.frame != self._played:  # somebody went elsewhere meanwhile
            self._play_from()
        following = self._began + self.speed * int(self._since.elapsed() / 1000 * session.rate)
        if not 0 <= following < session.analysis.known_to:
            self.play(0)
            return
        self._played = following
        session.go(following)
        session.pictures.prepare(following + self.speed * i for i in range(1, AHEAD + 1))

    def _play_from(self) -> None:
        """Count the time from the frame that shows."""
        self._began = self._played = self._session.frame
        self._since.start()
        self._sound()

    def _sound(self) -> None:
        if self.speed == 1 and self.loud:
            # Read in the speaker's thread: both numbers stay as they are until it is asked anew.
            began_s, since = self._began / self._session.rate, self._since
            self.speaker.play(lambda: began_s + since.elapsed() / 1000)
        else:
            self.speaker.stop()

    def close(self) -> None:
        """Stop for good."""
        self._clock.stop()
        self.speaker.close()
