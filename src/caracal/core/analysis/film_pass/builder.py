"""A film while it is being looked at: shots that ended, and the one that goes on.

Shots are handed on as they end. A shot that ended is final; who people are in the whole film and
where its bars lie is known only at the end, and may be told otherwise until then.
"""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from caracal.core.analysis.detectors.appearance import name_people
from caracal.core.analysis.film_pass.setups import with_known_movers
from caracal.core.analysis.labels import MOVING_THING
from caracal.core.analysis.model import (
    ATTENTION_SHAPE,
    VERSION,
    Analysis,
    Boundary,
    FoundShot,
    SoundOutline,
    Track,
)
from caracal.core.base.geometry import Box
from caracal.core.media.master import Master

MOVERS_FROM = 1_000_000  # their numbers: beyond those of all that detectors find in a film
SEEN_S = 0.5  # from the beginning of a shot that goes on to the picture that stands for it


class EndedShot(msgspec.Struct, frozen=True):
    """A shot with all that was found in it; its tracks count from 0.

    ``camera`` is of its frames, ``peaks`` go on where those of the shot before it end.
    """

    shot: FoundShot
    tracks: tuple[Track, ...]
    words: tuple[Track, ...]
    camera: bytes
    peaks: tuple[float, ...]


class AnalysisUpdate(msgspec.Struct, frozen=True):
    """What became known of a film since the last time: ``ended`` are the next shots.

    ``edge`` is how the shot begins that goes on, ``known_to`` the frame after the last that can be
    seen of it, ``peaks`` its sound. ``active`` is the picture inside the bars, so far.
    """

    key: str
    master: Master
    active: Box
    ended: tuple[EndedShot, ...]
    edge: Boundary
    known_to: int
    peaks: tuple[float, ...] = ()


Grow = Callable[[AnalysisUpdate], None]


def ignore(_: AnalysisUpdate) -> None:
    """Takes what is found without telling anybody."""


class AnalysisBuilder:
    """Puts a film together from its shots, in order."""

    def __init__(self) -> None:
        self._shots: list[FoundShot] = []
        self._tracks: list[Track] = []
        self._numbered = 0  # tracks that are counted
        self._words: list[Track] = []
        self._camera = bytearray()
        self._peaks: list[float] = []

    def add(self, ended_shot: EndedShot) -> None:
        """This adds the next shot, which ends here."""
        index, base = len(self._shots), self._numbered
        self._shots.append(ended_shot.shot)
        for track in ended_shot.tracks:
            # What moves by itself is one in a shot, and is not counted among the others: projects
            # name who leads by these numbers.
            mover = MOVERS_FROM + index if track.kind == MOVING_THING else None
            self._tracks.append(msgspec.structs.replace(
                track, id=track.id + base if mover is None else mover,
                subject=track.subject + base if mover is None else mover, shot=index))
            self._numbered += mover is None
        self._words += [msgspec.structs.replace(track, shot=index) for track in ended_shot.words]
        self._camera += ended_shot.camera
        self._peaks += ended_shot.peaks

    def whole(self, key: str, master: Master, active: Box) -> Analysis:
        """The film, of which every shot was added."""
        return with_known_movers(self._joined(key, master, active))

    def _joined(self, key: str, master: Master, active: Box) -> Analysis:
        return Analysis(VERSION, key, master, active, tuple(self._shots),
                        tuple(name_people(self._tracks)), SoundOutline(tuple(self._peaks)),
                        tuple(self._words), bytes(self._camera))

    def so_far(self, grown: AnalysisUpdate) -> Analysis:
        """The film as far as it is known after ``grown``, whose shots were added.

        Its last shot goes on (see :attr:`Analysis.whole`), and nobody was followed in it yet. What
        moves by itself has no name from other shots: those still to come may give it another.
        """
        found = self._joined(grown.key, grown.master, grown.active)
        edge, end = grown.edge, grown.known_to
        if end <= edge.frame:
            return found
        telling = min(end - 1, edge.frame + round(SEEN_S * float(grown.master.rate)))
        nothing = (0.0,) * (ATTENTION_SHAPE[0] * ATTENTION_SHAPE[1])
        going_on = FoundShot(edge.frame, end, edge.kind, edge.span, nothing, telling)
        return msgspec.structs.replace(
            found, shots=(*found.shots, going_on),
            sound=SoundOutline((*found.sound.peaks, *grown.peaks)))
