"""When the pictures of a file are shown: which count, where they begin, and where they end.

Containers hold pictures that are decoded and never shown (before an edit list's start), pictures
without a time, and clocks that jump where streams were joined. What is counted here is what a
decoder gives out.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from contextlib import suppress
from fractions import Fraction
from typing import Any, TypeAlias

import av
import msgspec
import numpy as np
from av.container import InputContainer
from av.video.stream import VideoStream

from caracal.core.base.limits import CLOCK_JUMP_S

SAMPLED_PACKETS = 1500  # enough to notice a variable rate, quick to read
WHOLE_BYTES = 2 << 30  # files of up to this size are read to the end where no index says more
JOINED_CONTAINERS = ("mpegts", "mpeg")  # those whose clock may begin anew within the file
UNTIMED_CONTAINERS = ("avi",)  # those that keep the order of decoding only
INDEXED_CONTAINERS = ("mov,mp4,m4a,3gp,3g2,mj2",)
TAIL_S = 2.0

Packet: TypeAlias = "av.Packet[Any]"


class PictureTimes(msgspec.Struct, frozen=True):
    """What the packets of a picture stream say, in seconds.

    ``times`` are those of the first pictures (or of all, when ``whole``), in order, on a clock
    whose ``joints`` are closed. ``untimed`` pictures have no time: they come before the others.
    ``last_s`` is when the last picture begins, ``end_s`` when it ends; ``reached_s`` is where the
    last packet of any stream ends, on the file's own clock.
    """

    times: tuple[Fraction, ...]
    whole: bool
    untimed: int
    joints: int
    end_s: float
    last_s: float
    reached_s: float


class TimestampUnwrapper:
    """Closes the joints of a clock: what jumps far forward, or backward, follows on instead."""

    def __init__(self, joined: bool, step: Fraction) -> None:
        self._joined, self._step = joined, step
        self._shift = Fraction(0)
        self._last: Fraction | None = None
        self.joints = 0

    def at(self, time: Fraction) -> Fraction:
        """The time on the closed clock; call it in the order in which pictures are shown."""
        if self._joined and self._last is not None:
            jump = time + self._shift - self._last
            if jump > CLOCK_JUMP_S or jump < -1:
                self._shift -= jump - self._step
                self.joints += 1
        self._last = time + self._shift
        return self._last


def picture_stream(container: InputContainer) -> VideoStream | None:
    """The stream that holds the film: neither cover art nor a thumbnail; None when there is none.
    """
    films = [video_stream for video_stream in container.streams.video
             if not video_stream.disposition & av.stream.Disposition.attached_pic]
    best = container.streams.best("video")
    return next((film for film in films if best is not None and film.index == best.index),
                films[0] if films else None)


def read_times(container: InputContainer, stream: VideoStream, size_bytes: int) -> PictureTimes:
    """Read the times of ``stream``; the container is at an unknown place afterwards."""
    name = container.format.name
    whole = name in JOINED_CONTAINERS or (
        name not in INDEXED_CONTAINERS and size_bytes <= WHOLE_BYTES)
    reader = _Reader(stream, name)
    if not reader.take(container.demux(), None if whole else SAMPLED_PACKETS):
        first = reader.count
        reader.take_tail(container)
        return reader.result(first)
    return reader.result(reader.count)


class _Reader:
    def __init__(self, stream: VideoStream, container: str) -> None:
        self._stream, self._container = stream, container
        self._base = stream.time_base or Fraction(1, 90000)
        self._step = 1 / Fraction(stream.guessed_rate or stream.average_rate or 25)
        self._found: list[tuple[Fraction, Fraction, Fraction]] = []  # decoded, shown, lasts
        self._untimed = 0
        self._reached = Fraction(0)

    def take(self, packets: Iterable[Packet], most: int | None = None) -> bool:
        """Read up to ``most`` pictures; whether the file ended before."""
        for packet in _shown(packets):
            base = packet.time_base or Fraction(1, 1000)
            lasts = (packet.duration or 0) * base
            if packet.pts is not None:
                self._reached = max(self._reached, packet.pts * base + lasts)
            if packet.stream.index == self._stream.index:
                self._take_picture(packet, base, lasts)
                if most is not None and len(self._found) >= most:
                    return False
        return True

    def _take_picture(self, packet: Packet, base: Fraction, lasts: Fraction) -> None:
        shown = packet.dts if self._container in UNTIMED_CONTAINERS else packet.pts
        if shown is None:
            self._untimed += 1
            return
        decoded = shown if packet.dts is None else packet.dts
        self._found.append((decoded * base, shown * base, lasts))

    @property
    def count(self) -> int:
        """How many pictures with a time were read."""
        return len(self._found)

    def take_tail(self, container: InputContainer) -> None:
        """Read on near the promised end."""
        stream = self._stream
        start = (stream.start_time or 0) * self._base
        promised = (stream.duration * self._base if stream.duration
                    else Fraction(container.duration or 0, av.time_base))
        with suppress(av.error.FFmpegError):  # what was read before stands
            near = max(Fraction(0), start + promised - Fraction(TAIL_S))
            container.seek(int(near / self._base), stream=stream)
            self.take(container.demux())

    def result(self, first: int) -> PictureTimes:
        """All that was read; ``first`` pictures of it in a row from the beginning."""
        clock = TimestampUnwrapper(self._container in JOINED_CONTAINERS, self._step)
        times = [clock.at(time) for time in self._in_order(self._found[:first])]
        last = max(times, default=Fraction(0))
        last = max([last, *(shown for _, shown, _ in self._found[first:])])
        lasts = max(self._found, key=lambda picture: picture[1])[2] if self._found else Fraction(0)
        return PictureTimes(
            tuple(times), first == len(self._found), self._untimed, clock.joints,
            float(last + (lasts or self._step)), float(last), float(self._reached))

    def _in_order(self, found: list[tuple[Fraction, Fraction, Fraction]]) -> list[Fraction]:
        """The times at which pictures are shown, in the order in which a decoder gives them."""
        if self._container not in JOINED_CONTAINERS:
            return sorted(shown for _, shown, _ in found)
        made: list[Fraction] = []
        piece: list[Fraction] = []
        before: Fraction | None = None
        for decoded, shown, _ in found:
            if before is not None and not -1 <= decoded - before <= CLOCK_JUMP_S:
                made, piece = made + sorted(piece), []
            piece.append(shown)
            before = decoded
        return made + sorted(piece)


def _shown(packets: Iterable[Packet]) -> Iterator[Packet]:
    """Packets that hold something and are not decoded in vain."""
    return (packet for packet in packets if packet.size and not packet.is_discard)


def steady_step(times: tuple[Fraction, ...]) -> tuple[float, np.ndarray]:
    """The usual seconds between neighbouring ``times``, and all of them (n - 1,)."""
    steps = np.diff(np.array([float(time) for time in times]))
    return float(np.median(steps)), steps
