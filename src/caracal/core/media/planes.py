"""A picture as it comes from the decoder: three planes, 4:2:0, 8 bit, limited range BT.709."""

from __future__ import annotations

import threading
from dataclasses import dataclass

import av
import numpy as np
from av.video.plane import VideoPlane
from av.video.reformatter import ColorRange, Colorspace, VideoReformatter
from numpy.typing import NDArray

Plane = NDArray[np.uint8]
Picture = tuple[Plane, Plane, Plane]  # luma, and chroma of half its width and height

LEFT = (0.0, 0.5)  # H.264's usual chroma siting: on the even columns, between the rows


@dataclass(frozen=True, slots=True)
class Planes:
    """Luma (h, w) and two chroma planes (ceil(h/2), ceil(w/2)), uint8.

    ``siting`` is where chroma sample (0, 0) lies, in luma pixels from the middle of luma pixel
    (0, 0): (0, 0.5) is the usual left siting (ITU-T H.264 figure E-1, type 0).
    ``pixel_aspect`` is the width of a pixel over its height.
    """

    y: Plane
    u: Plane
    v: Plane
    siting: tuple[float, float] = LEFT
    pixel_aspect: float = 1.0

    @property
    def width(self) -> int:
        """Returns the stored width in pixels."""
        return int(self.y.shape[1])

    @property
    def height(self) -> int:
        """Returns the stored height in pixels."""
        return int(self.y.shape[0])


def view(plane: VideoPlane) -> Plane:
    """The library's own memory as an array (h, w) without a copy; it keeps the frame alive."""
    rows: Plane = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
    return rows[: plane.height, : plane.width]


def planes_of(frame: av.VideoFrame, pixel_aspect: float = 1.0) -> Planes:
    """The planes of a yuv420p frame, as views."""
    y, u, v = (view(plane) for plane in frame.planes)
    return Planes(y, u, v, LEFT, pixel_aspect)


def turned(planes: Planes, clockwise_degrees: int) -> Planes:
    """``planes`` turned by a multiple of 90 degrees, with the chroma siting turned along."""
    quarter = (clockwise_degrees // 90) % 4
    if quarter == 0:
        return planes
    (x, y), aspect = planes.siting, planes.pixel_aspect
    for _ in range(quarter):
        x, y = 1.0 - y, x
    y_plane, u, v = (np.rot90(plane, -quarter) for plane in (planes.y, planes.u, planes.v))
    return Planes(y_plane, u, v, (x, y), 1 / aspect if quarter % 2 else aspect)


def mirrored(planes: Planes) -> Planes:
    """``planes`` with left and right changed, and the chroma siting with them."""
    y_plane, u, v = (np.fliplr(plane) for plane in (planes.y, planes.u, planes.v))
    return Planes(y_plane, u, v, (1.0 - planes.siting[0], planes.siting[1]), planes.pixel_aspect)


def fill_frame(frame: av.VideoFrame, planes: tuple[Plane, Plane, Plane]) -> None:
    """Copy three planes into the memory of a yuv420p ``frame`` of the same size."""
    for target, source in zip(frame.planes, planes, strict=True):
        view_for_writing(target)[:] = source


def view_for_writing(plane: VideoPlane) -> Plane:
    """Returns the plane as an array, as :func:`view` does, that may be written to."""
    rows = np.frombuffer(memoryview(plane).cast("B"), np.uint8).reshape(-1, plane.line_size)
    return rows[: plane.height, : plane.width]


def new_frame(width: int, height: int) -> av.VideoFrame:
    """An empty yuv420p frame tagged as limited-range BT.709."""
    frame = av.VideoFrame(width, height, "yuv420p")
    tag_bt709(frame)
    return frame


def tag_bt709(frame: av.VideoFrame) -> None:
    """Mark ``frame`` as limited-range BT.709 (ITU-T H.273 value 1 throughout)."""
    frame.colorspace = 1
    frame.color_range = 1
    frame.color_primaries = 1
    frame.color_trc = 1


class _Converters(threading.local):
    """FFmpeg's converters of one thread: preparing one takes as long as a small picture."""

    def __init__(self) -> None:
        self.rgb = VideoReformatter()


_converters = _Converters()


def to_rgb(planes: Planes) -> NDArray[np.uint8]:
    """An RGB picture (h, w, 3) of ``planes``, for detectors and screens."""
    width, height = planes.width, planes.height
    frame = new_frame(width - width % 2, height - height % 2)
    for target, source in zip(frame.planes, (planes.y, planes.u, planes.v), strict=True):
        view_for_writing(target)[:] = source[: target.height, : target.width]
    turned_frame = _converters.rgb.reformat(
        frame, format="rgb24", src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG,
    )
    return np.asarray(turned_frame.to_ndarray(), np.uint8)
