"""Frames of a master in order: constant rate, upright, 4:2:0 8 bit BT.709, each decoded once."""

from __future__ import annotations

import tempfile
from collections.abc import Generator, Iterator
from contextlib import closing
from fractions import Fraction

import av
import av.filter
from av.container import InputContainer
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter

from caracal.core.base.errors import InputError
from caracal.core.base.limits import LONGEST_STILL_S
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.master import HDR_TRANSFERS, Master
from caracal.core.media.picture_clock import UNTIMED_CONTAINERS, TimestampUnwrapper
from caracal.core.media.planes import Planes, mirrored, planes_of, turned
from caracal.core.media.probe import CUT_OFF_S, MATRIX_BT709, MATRIX_UNKNOWN
from caracal.core.media.tonemap import table_text

HD_HEIGHT = 720  # untagged pictures this high are BT.709, lower ones BT.601: common practice
SEEK_BACK_S = (0.0, 3.0, 12.0)  # before what is wanted, tried in turn; then from the beginning
SAME_SHAPE = 0.02  # how much a picture's sides may change their ratio within a film


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
    clock, conform = _FrameClock(master), _Conformer(master)
    with reading(master.file), closing(_from(master, wanted.start)) as decoded:
        for frame in decoded:
            if cancel is not None:
                cancel.check()
            number = clock.number(frame)
            if held is not None and number - following > LONGEST_STILL_S * master.rate:
                raise InputError(tr("The timestamps of this film jump at frame {following}.",
                                    following=following), master.file,
                                 tr("Export it again, or cut it there."))
            reached = max(reached, number)
            while held is not None and following < min(number, wanted.end_exclusive):
                yield following, conform.planes(held)
                following += 1
            if following >= wanted.end_exclusive:
                return
            held = frame
        missing_s = (wanted.end_exclusive - 1 - reached) / float(master.rate)
        if held is None or missing_s > CUT_OFF_S:
            raise InputError(tr("The picture ends at frame {reached} of {frames}; the file is "
                                "damaged or cut off.", reached=reached, frames=master.frames),
                             master.file, tr("Copy or export it again."))
        while following < wanted.end_exclusive:
            yield following, conform.planes(held)
            following += 1


class _FrameClock:
    """The number of each decoded frame. Those without a time follow the one before."""

    def __init__(self, master: Master) -> None:
        self._rate = master.rate
        self._start = Fraction(master.start_s).limit_denominator(10**6)
        self._clock = TimestampUnwrapper(master.discontinuous, 1 / master.rate)
        self._last = -1

    def number(self, frame: av.VideoFrame) -> int:
        """The number of ``frame``; call it in the order of decoding."""
        if frame.pts is None:
            self._last += 1
        else:
            time = self._clock.at(frame.pts * (frame.time_base or Fraction(1)))
            self._last = round((time - self._start) * self._rate)
        return self._last


def _from(master: Master, first: int) -> Generator[av.VideoFrame, None, None]:
    """Decoded frames from frame ``first`` or an earlier one on."""
    time = master.start_s + first / float(master.rate)
    # Without an index a seek may land behind a picture that stands alone: then one from earlier on.
    seeks = [] if master.discontinuous or master.container in UNTIMED_CONTAINERS else [
        time - back for back in SEEK_BACK_S if time - back > 0 and first > 0]
    for seek_s in (*seeks, None):
        with opened(master.file) as container:
            decoded = _decoded(container, master, seek_s)
            frame = next(decoded, None)
            late = frame is None or (
                frame.pts is not None
                and float(frame.pts * (frame.time_base or 1)) > time + 0.5 / float(master.rate))
            if seek_s is not None and late:
                continue
            if frame is not None:
                yield frame
                yield from decoded
            return


def _decoded(
    container: InputContainer, master: Master, seek_s: float | None
) -> Iterator[av.VideoFrame]:
    stream = container.streams[master.picture_index]
    assert isinstance(stream, av.VideoStream)
    stream.thread_type = "AUTO"
    if seek_s is not None:
        container.seek(int(seek_s / (stream.time_base or Fraction(1))), stream=stream)
    decoded = _of_one_size(container.decode(stream), master)
    if master.container in UNTIMED_CONTAINERS:
        decoded = _timed_by_order(decoded, stream)
    if master.interlaced:
        decoded = _filtered(decoded, stream, [("bwdif", "mode=send_frame:deint=all")])
    if master.colour.transfer in HDR_TRANSFERS:
        return _tone_mapped(decoded, stream, master.colour.transfer)
    return decoded


def _timed_by_order(
    source: Iterator[av.VideoFrame], stream: av.VideoStream
) -> Iterator[av.VideoFrame]:
    """Frames of a container that says in which order they are decoded, and not when shown.

    Without pictures that wait for later ones the two are the same, empty packets included: those
    are how AVI lets a picture stand longer. Else the times say nothing, and are taken away.
    """
    for frame in source:
        if stream.codec_context.has_b_frames:
            frame.pts = None
        yield frame


def _of_one_size(source: Iterator[av.VideoFrame], master: Master) -> Iterator[av.VideoFrame]:
    """Frames as large as the first; those of another shape are refused."""
    size = (master.stored_width, master.stored_height)
    for frame in source:
        if (frame.width, frame.height) == size:
            yield frame
            continue
        if abs(frame.width * size[1] / (frame.height * size[0]) - 1) > SAME_SHAPE:
            raise InputError(tr("The picture changes its shape from {was_wide} x {was_high} to "
                                "{width} x {height} within the film.", was_wide=size[0],
                                was_high=size[1], width=frame.width, height=frame.height),
                             master.file, tr("Export it again in one shape."))
        yield frame.reformat(width=size[0], height=size[1])


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


class _Conformer:
    """Frames of one film as limited-range BT.709 4:2:0, upright.

    FFmpeg's converter is prepared once, not for every frame.
    """

    def __init__(self, master: Master) -> None:
        self._master = master
        self._aspect = float(Fraction(master.pixel_aspect))
        self._converter = VideoReformatter()

    def planes(self, frame: av.VideoFrame) -> Planes:
        """The planes of ``frame``, with pixels as wide as the master's."""
        colour = self._master.colour
        if colour.transfer in HDR_TRANSFERS:  # tone-mapped already
            return _upright(planes_of(frame, self._aspect), self._master)
        matrix = colour.matrix
        if matrix == MATRIX_UNKNOWN:
            matrix = MATRIX_BT709 if frame.height >= HD_HEIGHT else 6
        ready = frame.format.name == "yuv420p" and not colour.full_range
        if not ready or matrix != MATRIX_BT709:
            frame = self._converter.reformat(
                frame, format="yuv420p",
                src_colorspace=Colorspace.ITU709 if matrix == MATRIX_BT709 else Colorspace.ITU601,
                dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG if colour.full_range else ColorRange.MPEG,
                dst_color_range=ColorRange.MPEG,
            )
        return _upright(planes_of(frame, self._aspect), self._master)


def _upright(planes: Planes, master: Master) -> Planes:
    if master.mirrored:
        planes = mirrored(planes)
    return turned(planes, -master.rotation_degrees)
