"""The proxy: a small copy of the film in which every place is reached quickly, for scrubbing."""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.container import InputContainer
from numpy.typing import NDArray

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.media.av_errors import opened, reading
from caracal.core.media.encode import EncoderSettings
from caracal.core.media.planes import Planes, planes_of, to_rgb
from caracal.core.media.segments import segment_with

QUALITY = "28"  # x264 CRF: a canvas in Aim looks as the file does
# Each segment of 2 s begins with a full buffer: 0.75 Mb/s at most, 3 % of a master of 25 Mb/s.
MOST_KBPS, BUFFER_KBIT = 350, 900
GROUP = 24  # pictures from one that stands alone to the next: 20 ms to decode


def proxy_settings(size: tuple[int, int], frame_rate: str) -> EncoderSettings:
    """How proxies are encoded: H.264 with pictures of ``size`` (width, height), of which one
    in GROUP at least stands alone."""
    options = {"preset": "ultrafast", "crf": QUALITY, "tune": "fastdecode", "threads": "1",
               "maxrate": f"{MOST_KBPS}k", "bufsize": f"{BUFFER_KBIT}k"}
    return EncoderSettings(
        width=size[0], height=size[1], frame_rate=frame_rate, encoder="libx264",
        pixel_format="yuv420p", gop_frames=GROUP, options=options)


def growing_folder(proxy: Path) -> Path:
    """Where the segments of ``proxy`` lie while it is written."""
    return proxy.with_suffix("")


class ProxyReader:
    """Reads any picture of a proxy by its frame number. Not for several threads at once.

    While the proxy is being written its segments are read instead.
    """

    def __init__(self, path: Path, frame_rate: str) -> None:
        """Raises InputError when there is nothing that can be read."""
        self._path, self._rate = path, Fraction(frame_rate)
        self._container: InputContainer | None = None
        self._open(0)

    def _open(self, frame: int) -> None:
        """Open the proxy or, while there is none, the segment that holds ``frame``."""
        self._start, found, whole = 0, self._path, self._path.exists()
        if not whole:
            self._start, found = segment_with(growing_folder(self._path), frame) or (0, self._path)
        self.close()
        self._container = opened(found)
        self._stream = self._container.streams.video[0]
        self._stream.codec_context.thread_count = 1
        self._end = math.inf if whole else self._start + self._stream.frames
        self._decoded = self._container.decode(self._stream)
        self._following = self._start

    def planes(self, frame: int) -> Planes:
        """The picture ``frame``; the last one when it lies beyond the end."""
        return planes_of(self._frame(frame))

    def _frame(self, frame: int) -> av.VideoFrame:
        if not self._start <= frame < self._end:
            self._open(frame)
        with reading(self._path):
            assert self._container is not None
            if not 0 <= frame - self._following < GROUP:
                base = self._stream.time_base or Fraction(1, 90000)
                time = (frame - self._start + Fraction(1, 4)) / self._rate
                self._container.seek(int(time / base), stream=self._stream)
                self._decoded = self._container.decode(self._stream)
            latest: av.VideoFrame | None = None
            for found in self._decoded:
                latest = found
                time = Fraction(found.pts or 0) * (found.time_base or Fraction(1))
                if round(time * self._rate) + self._start >= frame:
                    break
            if latest is None:
                if frame <= self._start:
                    raise InputError(tr("This proxy has no pictures."), self._path,
                                     tr("Open the film again."))
                return self._frame(frame - 1)
            self._following = frame + 1
            return latest

    def rgb(self, frame: int) -> NDArray[np.uint8]:
        """The picture ``frame`` as RGB (h, w, 3)."""
        return to_rgb(self.planes(frame))

    def close(self) -> None:
        """Close the file."""
        if self._container is not None:
            self._container.close()
