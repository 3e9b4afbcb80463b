"""Pictures of a preview that are wished for, in the order in which they are made."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Iterable

from caracal.core.render.preview.process import MOST_BYTES, bytes_of
from caracal.ui.session.picture_cache import Wish

CALM_S = 0.12  # nothing is wanted at once for so long before pictures are made exactly
FRAME_S = 0.04  # of a film that plays: where it takes longer frames are left out
MOST_WISHES = 48  # older ones were overtaken by the pointer


class WishQueue:
    """What comes next while a film plays, then what is wanted at once (newest first), then what can
    wait until nothing else is wanted.

    It has no lock of its own: callers in several threads share one.
    """

    def __init__(self) -> None:
        self._now: OrderedDict[Wish, None] = OrderedDict()
        self._next: list[Wish] = []
        self._later: OrderedDict[Wish, None] = OrderedDict()
        self._all_next = False  # no frame of the next ones is left out
        self._asked = 0.0  # when something was wanted at once, last

    @property
    def plays(self) -> bool:
        """Whether pictures of a film that plays are to come."""
        return bool(self._next)

    def at_once(self, wish: Wish) -> None:
        """Make ``wish`` before those that were wanted earlier."""
        self._later.pop(wish, None)
        self._asked = time.monotonic()
        self._now[wish] = None
        self._now.move_to_end(wish)
        while len(self._now) > MOST_WISHES:
            self._now.popitem(last=False)

    def when_calm(self, wish: Wish, first: bool = False) -> None:
        """Make ``wish`` exactly when nothing else is wanted, unless it is wanted at once anyhow;
        ``first``: before the others that wait for that."""
        if first:
            self._later[wish] = None
            self._later.move_to_end(wish, last=False)
        elif wish not in self._now:
            self._later[wish] = None

    def play(self, wishes: list[Wish], all_of_them: bool) -> None:
        """Make ``wishes`` before all else, in their order. Unless it is ``all_of_them``, frames
        that would come too late are left out, and what was wanted at once was overtaken."""
        if not all_of_them:
            self._now.clear()
        self._next, self._all_next = wishes, all_of_them

    def stop_playing(self) -> None:
        """Nothing plays any more."""
        self._next = []

    def wait_s(self) -> float | None:
        """Seconds until there is something to make: 0 at once, None: nothing is wished for."""
        if self._now or self._next:
            return 0.0
        return max(0.0, self._asked + CALM_S - time.monotonic()) if self._later else None

    def take(self, took_s: float) -> tuple[list[Wish], bool]:
        """What is made next, all of one frame, and whether there is time to make it exactly.

        ``took_s`` is how long the frame before took, in seconds.
        """
        calm = not self._next and not self._now
        if self._next:  # while it plays the frame that shows is overtaken before it is made
            frames = list(dict.fromkeys(wish.frame for wish in self._next))
            late = 0 if self._all_next else int(took_s / FRAME_S)
            frame = frames[min(late, len(frames) - 1)]
        elif self._now:
            frame = next(reversed(self._now)).frame
        else:
            frame = next(iter(self._later)).frame
        sources = (self._later,) if calm else (self._now, self._next)
        found = _fitting(wish for many in sources for wish in many if wish.frame == frame)
        self._next = [wish for wish in self._next if wish.frame != frame]
        for wish in found:
            self._now.pop(wish, None)
            self._later.pop(wish, None)
        return list(found), calm


def _fitting(wishes: Iterable[Wish]) -> dict[Wish, None]:
    """Those ``wishes`` that one request takes."""
    found: dict[Wish, None] = {}
    room = MOST_BYTES
    for wish in wishes:
        room -= 0 if wish in found else bytes_of(wish.canvas)
        if room < 0 and found:
            break
        found[wish] = None
    return found
