"""Frames of a master in order: constant rate, upright, 4:2:0 8 bit BT.709, each decoded once."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from fractions import Fraction

import av
import av.filter
from av.container import InputContainer
from av.video.reformatter import ColorRange, Colorspace

from caracal.core.errors import InputError
from caracal.core.media.gate import opened, reading
from caracal.core.media.look import (
    CUT_OFF_S,
    HDR_TRANSFERS,
    MATRIX_BT709,
    MATRIX_UNKNOWN,
    Master,
)
from caracal.core.media.planes import Planes, planes_of, turned
from caracal.core.media.tonemap import table_text
from caracal.core.time import FrameRange
from caracal.core.work import CancelToken

HD_HEIGHT = 720  # untagged pictures this high are BT.709, lower ones BT.601: common practice
READY_FORMATS = ("yuv420p", "yuvj420p")


def frames(
    master: Master, span: FrameRange | None = None, cancel: CancelToken | None = None
) -> Iterator[tuple[int, Planes]]:
    """Every frame of ``span`` (or the whole film) as (number, planes), exactly once, in order.

    Frames of a variable-rate file are dropped or doubled so that frame n is the picture shown
    at n / rate. The planes are views that stay valid as long as they are referenced.
    Raises InputError when the file ends early, Cancelled when ``cancel`` is set.
    """
    wanted = span or FrameRange(0, master.frames)
    following = wanted.start
    held: av.VideoFrame | None = None
    reached = wanted.start
    rate, aspect = master.rate, float(Fraction(master.pixel_aspect))
    start = Fraction(master.start_s).limit_denominator(10**6)
    with reading(master.file), opened(master.file) as container:
        for frame in _decoded(container, master, wanted.start):
            if cancel is not None:
                cancel.check()
            number = round((_time(frame) - start) * rate)
            reached = max(reached, number)
            while held is not None and following < min(number, wanted.end_exclusive):
                yield following, _conformed(held, master, aspect)
                following += 1
            if following >= wanted.end_exclusive:
                return
            held = frame
        missing_s = (wanted.end_exclusive - 1 - reached) / float(master.rate)
        if held is None or missing_s > CUT_OFF_S:
            raise InputError(
                f"The picture ends at frame {reached} of {master.frames}; the file is damaged or "
                "cut off.", master.file, "Copy or export it again.",
            )
        while following < wanted.end_exclusive:
            yield following, _conformed(held, master, aspect)
            following += 1


def _time(frame: av.VideoFrame) -> Fraction:
    return (frame.pts or 0) * (frame.time_base or Fraction(1))


def _decoded(
    container: InputContainer, master: Master, first: int
) -> Iterator[av.VideoFrame]:
    stream = container.streams.video[0]
    stream.thread_type = "AUTO"
    if first > 0:
        time = master.start_s + first / float(master.rate)
        container.seek(int(time / (stream.time_base or Fraction(1))), stream=stream)
    decoded: Iterator[av.VideoFrame] = (
        frame for frame in container.decode(stream) if frame.pts is not None)
    if master.interlaced:
        decoded = _filtered(decoded, stream, [("bwdif", "mode=send_frame:deint=all")])
    if master.colour.transfer in HDR_TRANSFERS:
        return _tone_mapped(decoded, stream, master.colour.transfer)
    return decoded


def _tone_mapped(
    source: Iterator[av.VideoFrame], stream: av.VideoStream, transfer: int
) -> Iterator[av.VideoFrame]:
    """PQ or HLG pictures as limited-range BT.709 4:2:0, 8 bit."""
    with tempfile.NamedTemporaryFile("w", suffix=".cube", prefix="caracal-") as table:
        table.write(table_text(transfer))
        table.flush()
        yield from _filtered(source, stream, [
            ("scale", "in_color_matrix=bt2020:out_range=full"), ("format", "gbrp12le"),
            ("lut3d", f"file={table.name}:interp=tetrahedral"),
            ("scale", "out_color_matrix=bt709:out_range=limited"), ("format", "yuv420p")])


def _filtered(
    source: Iterator[av.VideoFrame], stream: av.VideoStream, steps: list[tuple[str, str]]
) -> Iterator[av.VideoFrame]:
    """``source`` through FFmpeg's filters ``steps``, each a name and its arguments."""
    graph = av.filter.Graph()
    last = graph.add_buffer(template=stream)
    for name, arguments in [*steps, ("buffersink", "")]:
        following = graph.add(name, arguments)
        last.link_to(following)
        last = following
    graph.configure()
    for frame in source:
        graph.push(frame)
        yield from _pulled(graph)
    graph.push(None)
    yield from _pulled(graph)


def _pulled(graph: av.filter.Graph) -> Iterator[av.VideoFrame]:
    while True:
        try:
            yield graph.vpull()
        except (av.error.BlockingIOError, av.error.EOFError):
            return


def _conformed(frame: av.VideoFrame, master: Master, aspect: float) -> Planes:
    """Planes of ``frame``: limited-range BT.709 4:2:0, upright, pixels ``aspect`` wide."""
    if master.colour.transfer in HDR_TRANSFERS:  # tone-mapped already
        planes = planes_of(frame, aspect)
        return turned(planes, -master.rotation_degrees)
    matrix = master.colour.matrix
    if matrix == MATRIX_UNKNOWN:
        matrix = MATRIX_BT709 if frame.height >= HD_HEIGHT else 6
    ready = frame.format.name == "yuv420p" and not master.colour.full_range
    if not ready or matrix != MATRIX_BT709:
        frame = frame.reformat(
            format="yuv420p",
            src_colorspace=Colorspace.ITU709 if matrix == MATRIX_BT709 else Colorspace.ITU601,
            dst_colorspace=Colorspace.ITU709,
            src_color_range=ColorRange.JPEG if master.colour.full_range else ColorRange.MPEG,
            dst_color_range=ColorRange.MPEG,
        )
    planes = planes_of(frame, aspect)
    return turned(planes, -master.rotation_degrees)
