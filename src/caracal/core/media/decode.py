"""Frames of a master in order: constant rate, upright, 4:2:0 8 bit BT.709, each decoded once."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

import av
import av.filter
from av.container import InputContainer
from av.video.reformatter import ColorRange, Colorspace

from caracal.core.errors import InputError
from caracal.core.media.gate import reading
from caracal.core.media.look import CUT_OFF_S, MATRIX_BT709, MATRIX_UNKNOWN, Master
from caracal.core.media.planes import Planes, planes_of, turned
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
    with reading(master.file), av.open(master.path) as container:
        for frame in _decoded(container, master, wanted.start):
            if cancel is not None:
                cancel.check()
            number = _number(frame, master)
            reached = max(reached, number)
            while held is not None and following < min(number, wanted.end_exclusive):
                yield following, _conformed(held, master)
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
            yield following, _conformed(held, master)
            following += 1


def _number(frame: av.VideoFrame, master: Master) -> int:
    time = Fraction(frame.pts or 0) * (frame.time_base or Fraction(1))
    return round((time - Fraction(master.start_s).limit_denominator(10**6)) * master.rate)


def _decoded(
    container: InputContainer, master: Master, first: int
) -> Iterator[av.VideoFrame]:
    stream = container.streams.video[0]
    stream.thread_type = "AUTO"
    if first > 0:
        time = master.start_s + first / float(master.rate)
        container.seek(int(time / (stream.time_base or Fraction(1))), stream=stream)
    decoded = (frame for frame in container.decode(stream) if frame.pts is not None)
    return _deinterlaced(decoded, stream) if master.interlaced else decoded


def _deinterlaced(
    source: Iterator[av.VideoFrame], stream: av.VideoStream
) -> Iterator[av.VideoFrame]:
    graph = av.filter.Graph()
    entry = graph.add_buffer(template=stream)
    weave = graph.add("bwdif", "mode=send_frame:deint=all")
    out = graph.add("buffersink")
    entry.link_to(weave)
    weave.link_to(out)
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


def _conformed(frame: av.VideoFrame, master: Master) -> Planes:
    """Planes of ``frame`` as limited-range BT.709 4:2:0, upright."""
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
    planes = planes_of(frame, float(Fraction(master.pixel_aspect)))
    return turned(planes, -master.rotation_degrees)
