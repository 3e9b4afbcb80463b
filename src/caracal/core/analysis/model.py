"""The result of analysis: one frozen, versioned artefact that everything else reads."""

from __future__ import annotations

from collections.abc import Iterable
from enum import StrEnum

import msgspec

from caracal.core.base.geometry import Box
from caracal.core.base.identity import kept_for
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import mark
from caracal.core.media.master import Master

VERSION = 14  # of the artefact; raise it when the meaning of a field changes


class Transition(StrEnum):
    """How a shot follows the one before it."""

    START = mark("start")
    CUT = mark("cut")
    DISSOLVE = mark("dissolve")
    WIPE = mark("wipe")
    FADE = mark("fade")


class Boundary(msgspec.Struct, frozen=True):
    """The first frame of a new shot and how it comes in."""

    frame: int
    kind: Transition
    span: tuple[int, int] | None = None


class FoundShot(msgspec.Struct, frozen=True):
    """A shot from ``start`` to ``end`` (exclusive), in frames.

    A dissolve is shared half and half; ``transition_span`` is its [start, end) and otherwise
    empty. ``attention`` is a map (rows x columns of :data:`ATTENTION_SHAPE`, row-major, summing
    to 1 or all 0) of where contrast and motion lie. ``thumbnail`` is the luma of the poster frame,
    :data:`THUMBNAIL` (width, height), row by row.
    """

    start: int
    end: int
    transition_in: Transition
    transition_span: tuple[int, int] | None
    attention: tuple[float, ...]
    poster_frame: int = msgspec.field(name="telling_frame")
    thumbnail: bytes = b""

    @property
    def frames(self) -> int:
        """How many frames the shot has."""
        return self.end - self.start


ATTENTION_SHAPE = (18, 32)  # rows, columns
THUMBNAIL = (32, 18)  # width, height


class Track(msgspec.Struct, frozen=True):
    """One person, face or thing followed through a shot; a box for every frame it is there.

    ``subject`` joins the tracks of one being: a face carries the number of its body.
    ``first_frame`` is the frame of ``boxes[0]``; ``score`` is the mean detector score, 0..1.
    ``appearance`` describes a face's colours; ``person`` is the same for one person in all shots.
    ``gaze`` are pairs (frame, -1 left to 1 right) of where a face is turned; ``speech`` is the
    share of its frames, 0..1, in which a face moves its mouth. ``sharpness`` is 1 for what is in
    focus, 0.25 and less for what is not; None where nothing could be told.
    """

    id: int
    kind: str
    shot: int
    subject: int
    score: float
    first_frame: int
    boxes: tuple[Box, ...]
    appearance: tuple[float, ...] = ()
    person: int | None = None
    gaze: tuple[tuple[int, float], ...] = ()
    speech: float = 0.0
    sharpness: float | None = None

    @property
    def end_frame(self) -> int:
        """The frame after the last box."""
        return self.first_frame + len(self.boxes)

    def box_at(self, frame: int) -> Box | None:
        """The box at ``frame``, or None when the track is not there."""
        at = frame - self.first_frame
        return self.boxes[at] if 0 <= at < len(self.boxes) else None


PEAKS_A_SECOND = 10


class SoundOutline(msgspec.Struct, frozen=True):
    """The sound's loudest sample (0..1) in each tenth of a second."""

    peaks: tuple[float, ...]


class Analysis(msgspec.Struct, frozen=True):
    """Everything found in one master. ``active`` is the picture inside baked-in bars.

    While the film is being looked at its last shot goes on, and little is known of that one.
    ``words`` are lines of words burnt into the picture, each a track of kind ``words``. ``camera``
    says how far the background moves from each frame to the next: float32 pairs, master pixels.
    """

    version: int
    content_key: str
    master: Master
    active: Box
    shots: tuple[FoundShot, ...]
    tracks: tuple[Track, ...]
    sound: SoundOutline
    words: tuple[Track, ...] = ()
    camera: bytes = b""

    @property
    def known_to(self) -> int:
        """The frame after the last that is in a shot."""
        return min(self.shots[-1].end, self.master.frames) if self.shots else 0

    @property
    def whole(self) -> bool:
        """Whether all of the film was looked at."""
        return self.known_to >= self.master.frames

    def goes_on(self, shot: int) -> bool:
        """Whether ``shot`` is the last of a film that is still being looked at."""
        return not self.whole and shot == len(self.shots) - 1

    def shots_in(self, ranges: Iterable[FrameRange]) -> list[int]:
        """The numbers of the shots of which ``ranges`` show anything, in order."""
        spans = list(ranges)
        return [number for number, shot in enumerate(self.shots)
                if any(span.start < shot.end and shot.start < span.end_exclusive
                       for span in spans)]

    def shot_at(self, frame: int) -> int:
        """Index of the shot that holds ``frame``; the first or last one beyond the film's ends."""
        low, high = 0, len(self.shots) - 1
        while low < high:
            middle = (low + high + 1) // 2
            if self.shots[middle].start <= frame:
                low = middle
            else:
                high = middle - 1
        return low

    def tracks_in(self, shot: int) -> tuple[Track, ...]:
        """The tracks of shot number ``shot``."""
        return _by_shot(self.tracks).get(shot, ())

    def words_in(self, shot: int) -> tuple[Track, ...]:
        """The burnt-in words of shot number ``shot``."""
        return _by_shot(self.words).get(shot, ())


@kept_for(most=8)  # tracks and words of the found and the corrected shots of two films
def _by_shot(tracks: tuple[Track, ...]) -> dict[int, tuple[Track, ...]]:
    """``tracks`` by their shots: a long film has 10,000, and every shot asks for its own."""
    found: dict[int, list[Track]] = {}
    for track in tracks:
        found.setdefault(track.shot, []).append(track)
    return {shot: tuple(inside) for shot, inside in found.items()}
