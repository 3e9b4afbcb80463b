"""Pictures of a finished file against what was composed: some of each shot, by another way.

While a file is written some of its canvases are kept small. The proof decodes the same frames from
the file, scales them by another library, and compares both by their structural similarity (Wang et
al. 2004, FFmpeg's ssim filter). Frozen, black, green or misplaced pictures are far apart there.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import av.filter
import cv2
import msgspec
import numpy as np
from av.container import InputContainer
from av.video.reformatter import Interpolation

from caracal.core.media.av_errors import opened, reading
from caracal.core.media.picture_clock import picture_stream
from caracal.core.media.planes import Picture, Plane, fill_frame, new_frame, view
from caracal.core.plan.file_plan import FilePlan

SMALL_SIDE = 64  # pixels: grain and the encoder's fine loss are gone, what is shown is not
MOST_BEGINNINGS = 80  # shots whose first pictures are looked at
MOST_MIDDLES = 6  # shots looked at in their middle too, the longest: each costs a group of pictures
SOON = 9  # frames after a shot's first: a frozen picture is seen, and little must be decoded
MOST_WHOLE = 3  # canvases kept at their full size, to judge the encoder's loss by
SEEK_FRAMES = 40  # a gap between looked-at frames that is worth a seek
LUMA_FLOOR = 0.80
CHROMA_FLOOR = 0.60
FAR = 10.0  # levels of mean difference: however like in structure, it is another picture
CLOSE = 6.0  # levels of mean difference: grain that is lost has no structure left to be like
CLOSE_LUMA = 0.3  # what is left of the likeness of grain
BLOCK = 4  # pixels of a small picture: movement is where it is largest, grain is everywhere
MOVES = 10.0  # levels that a block differs by between two looked-at frames: something moved
STANDS = 0.25  # of that: the file shows the same picture again


class ReferenceFrame(msgspec.Struct, frozen=True):
    """A canvas that was composed: frame of the file, (width, height), planes as bytes."""

    frame: int
    size: tuple[int, int]
    y: bytes
    u: bytes
    v: bytes


class Likeness(msgspec.Struct, frozen=True):
    """How like one frame is to what was composed.

    Structural similarity, 1 at the most, for luma and for the worse chroma; the mean difference of
    luma in levels; and by how many levels the composed picture (``moved``) and the file's
    (``moves``) differ from the looked-at one before, where they do most.
    """

    frame: int
    luma: float
    chroma: float
    off: float = 255.0
    moved: float = 0.0
    moves: float = 0.0

    @property
    def frozen(self) -> bool:
        """Whether the file shows the picture before again, although something moved."""
        return self.moved > MOVES and self.moves < self.moved * STANDS

    @property
    def right(self) -> bool:
        """Whether the frame shows what was composed."""
        close = self.off <= CLOSE and self.luma >= CLOSE_LUMA
        like = self.luma >= LUMA_FLOOR and self.off <= FAR
        return (like or close) and self.chroma >= CHROMA_FLOOR and (
            not self.frozen)


def sample_frames(plan: FilePlan) -> tuple[set[int], set[int]]:
    """(frames of the file to keep small, those to keep whole)."""
    count = len(plan.sources()[0])
    starts = sorted({0, *plan.idr_frames})
    shots = list(zip(starts, [*starts[1:], count], strict=True))
    every = max(1, -(-len(shots) // MOST_BEGINNINGS))
    small = {count - 1}
    for first, end in shots[::every]:
        small |= {first, min(first + SOON, end - 1)}
    longest = sorted(shots, key=lambda shot: shot[0] - shot[1])[:MOST_MIDDLES]
    small |= {(first + end) // 2 for first, end in longest}
    whole = {first for first, _ in shots[:: max(1, len(shots) // MOST_WHOLE)][:MOST_WHOLE]}
    return small, whole


class ReferenceSampler:
    """Keeps the looked-at canvases while a file is written."""

    def __init__(self, plan: FilePlan) -> None:
        self._small, self._whole = sample_frames(plan)
        self.small: list[ReferenceFrame] = []
        self.whole: list[ReferenceFrame] = []

    def see(self, frame: int, canvas: Picture) -> None:
        """Take canvas number ``frame``, as it goes to the encoder."""
        if frame in self._small:
            self.small.append(_kept(frame, canvas, SMALL_SIDE))
        if frame in self._whole:
            self.whole.append(_kept(frame, canvas, max(canvas[0].shape)))


def _kept(frame: int, canvas: Picture, side: int) -> ReferenceFrame:
    height, width = canvas[0].shape
    share = min(1.0, side / max(width, height))
    size = (max(16, round(width * share / 2) * 2), max(16, round(height * share / 2) * 2))
    half = (size[0] // 2, size[1] // 2)
    y, u, v = (
        np.ascontiguousarray(plane if plane.shape == to[::-1] else
                             cv2.resize(plane, to, interpolation=cv2.INTER_AREA)).tobytes()
        for plane, to in zip(canvas, (size, half, half), strict=True))
    return ReferenceFrame(frame, size, y, u, v)


def likenesses(path: Path, kept: Iterable[ReferenceFrame], rate: Fraction) -> list[Likeness]:
    """How like each of ``kept`` the same frame of the file at ``path`` is, in order.

    A frame that the file does not have is not like at all. Raises InputError when the file cannot
    be read.
    """
    wanted = sorted(kept, key=lambda sample: sample.frame)
    found = {sample.frame: Likeness(sample.frame, 0.0, 0.0) for sample in wanted}
    meant_before: Plane | None = None
    seen_before: Plane | None = None
    with reading(path):
        for composed, frame in _decoded(path, wanted, rate):
            meant = _frame_of(composed)
            scaled = frame.reformat(
                *composed.size, format="yuv420p", interpolation=Interpolation.AREA)
            told = _similarity(meant, scaled)
            was, seen = (view(each.planes[0]).copy() for each in (meant, scaled))
            found[composed.frame] = Likeness(
                composed.frame, told["Y"], min(told["U"], told["V"]),
                float(np.abs(was.astype(np.int16) - seen).mean()),
                _movement(was, meant_before), _movement(seen, seen_before))
            meant_before, seen_before = was, seen
    return [found[sample.frame] for sample in wanted]


def _decoded(
    path: Path, wanted: list[ReferenceFrame], rate: Fraction
) -> Iterator[tuple[ReferenceFrame, av.VideoFrame]]:
    """Each of ``wanted`` with the frame that a player would show then."""
    with opened(path) as container:
        stream = picture_stream(container)
        if stream is None or not wanted:
            return
        frames = _Numbered(container, stream, rate)
        for sample in wanted:
            frame = frames.at(sample.frame)
            if frame is not None:
                yield sample, frame


class _Numbered:
    """Frames of a file by their number, asked for in order."""

    def __init__(self, container: InputContainer, stream: av.VideoStream, rate: Fraction) -> None:
        self._container, self._stream, self._rate = container, stream, rate
        self._base = stream.time_base or Fraction(1, 90000)
        self._source = container.decode(stream)
        self._start: Fraction | None = None
        self._number = -1
        self._frame: av.VideoFrame | None = None

    def at(self, number: int) -> av.VideoFrame | None:
        """The frame ``number``; None when the file has none of that number."""
        if self._start is not None and number - self._number > SEEK_FRAMES:
            time = self._start + number / self._rate
            self._container.seek(int(time / self._base), stream=self._stream)
            self._source = self._container.decode(self._stream)
            self._number = -1
        while self._number < number:
            self._frame = next(self._source, None)
            if self._frame is None:
                return None
            time = (self._frame.pts or 0) * self._base
            self._start = time if self._start is None else self._start
            self._number = round((time - self._start) * self._rate)
        return self._frame if self._number == number else None


def _movement(plane: Plane, other: Plane | None) -> float:
    """By how many levels the block of two planes differs that differs most; 0 without another."""
    if other is None or plane.shape != other.shape:
        return 0.0
    size = (max(1, plane.shape[1] // BLOCK), max(1, plane.shape[0] // BLOCK))
    blocks = [cv2.resize(each, size, interpolation=cv2.INTER_AREA).astype(np.int16)
              for each in (plane, other)]
    return float(np.abs(blocks[0] - blocks[1]).max())


def _frame_of(sample: ReferenceFrame) -> av.VideoFrame:
    width, height = sample.size
    meant = new_frame(width, height)
    shapes = ((height, width), (height // 2, width // 2), (height // 2, width // 2))
    y, u, v = (np.frombuffer(data, np.uint8).reshape(shape)
               for data, shape in zip((sample.y, sample.u, sample.v), shapes, strict=True))
    fill_frame(meant, (y, u, v))
    return meant


def _similarity(meant: av.VideoFrame, found: av.VideoFrame) -> dict[str, float]:
    """FFmpeg's structural similarity of two frames of one size, for each plane."""
    graph = av.filter.Graph()
    size: Any = {"width": meant.width, "height": meant.height, "format": "yuv420p",
                 "time_base": Fraction(1, 25)}
    first, other = graph.add_buffer(**size), graph.add_buffer(**size)
    judge, sink = graph.add("ssim"), graph.add("buffersink")
    first.link_to(judge, 0, 0)
    other.link_to(judge, 0, 1)
    judge.link_to(sink)
    graph.configure()
    plain = new_frame(found.width, found.height)  # without tags that differ
    fill_frame(plain, tuple(view(plane) for plane in found.planes))  # type: ignore[arg-type]
    for source, frame in ((first, meant), (other, plain)):
        frame.pts, frame.time_base = 0, Fraction(1, 25)
        source.push(frame)
        source.push(None)
    told = graph.vpull().metadata
    return {plane: float(told[f"lavfi.ssim.{plane}"]) for plane in "YUV"}
