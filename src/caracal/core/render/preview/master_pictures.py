"""Single pictures of the master, for a screen that shows more of them than the proxy has."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress

from caracal.core.base.errors import Cancelled, CaracalError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import Planes


class MasterPictures:
    """Decodes one frame at a time, and gives up as soon as something else is ``asked`` for."""

    def __init__(self, master: Master, asked: Callable[[], bool]) -> None:
        self._master, self._asked = master, asked
        self._last: tuple[int, Planes] | None = None

    def planes(self, frame: int) -> Planes | None:
        """The picture of ``frame``; None when it cannot be had, or something else was asked for."""
        if self._last is not None and self._last[0] == frame:
            return self._last[1]
        with suppress(CaracalError):  # a film that is gone or damaged is told elsewhere
            for _, planes in frames(self._master, FrameRange(frame, frame + 1),
                                    _Until(self._asked)):
                self._last = frame, planes
                return planes
        return None


class _Until(CancelToken):
    """Set once something else was asked for."""

    def __init__(self, asked: Callable[[], bool]) -> None:
        super().__init__()
        self._asked = asked

    def check(self) -> None:
        if self._asked():
            raise Cancelled
