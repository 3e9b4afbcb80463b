"""The proxy: a small copy of the film in which every picture stands alone, for scrubbing."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace, Interpolation
from numpy.typing import NDArray

from caracal.core.media.encode import EncoderSettings, MovieWriter
from caracal.core.media.gate import opened, reading
from caracal.core.media.planes import Planes, planes_of, to_rgb

QUALITY = "27"  # x264 CRF; a proxy is judged for framing, not for grain, and grain costs time


def proxy_writer(path: Path, size: tuple[int, int], frame_rate: str) -> MovieWriter:
    """A writer of all-intra H.264 with pictures of ``size`` (width, height)."""
    options = {"preset": "ultrafast", "crf": QUALITY, "tune": "fastdecode", "threads": "1"}
    return MovieWriter(path, EncoderSettings(
        width=size[0], height=size[1], frame_rate=frame_rate, encoder="libx264",
        pixel_format="yuv420p", gop_frames=1, options=options,
    ))


class ProxyReader:
    """Reads any picture of a proxy by its frame number. Not for several threads at once."""

    def __init__(self, path: Path, frame_rate: str) -> None:
        self._path, self._rate = path, Fraction(frame_rate)
        self._container = opened(path)
        self._stream = self._container.streams.video[0]
        self._stream.codec_context.thread_count = 1
        self._decoded = self._container.decode(self._stream)
        self._following = 0

    def planes(self, frame: int) -> Planes:
        """The picture ``frame``; the last one when it lies beyond the end."""
        return planes_of(self._frame(frame))

    def _frame(self, frame: int) -> av.VideoFrame:
        with reading(self._path):
            if not 0 <= frame - self._following <= 2:
                base = self._stream.time_base or Fraction(1, 90000)
                self._container.seek(int((frame + Fraction(1, 4)) / self._rate / base),
                                     stream=self._stream)
                self._decoded = self._container.decode(self._stream)
            latest: av.VideoFrame | None = None
            for found in self._decoded:
                latest = found
                time = Fraction(found.pts or 0) * (found.time_base or Fraction(1))
                if round(time * self._rate) >= frame:
                    break
            if latest is None:
                return self._frame(max(0, frame - 1))
            self._following = frame + 1
            return latest

    def rgb(self, frame: int) -> NDArray[np.uint8]:
        """The picture ``frame`` as RGB (h, w, 3)."""
        return to_rgb(self.planes(frame))

    def screen(self, frame: int, width: int | None = None) -> NDArray[np.uint8]:
        """The picture ``frame`` as (h, w, 4) in the byte order of screens: blue, green, red, 255.

        ``width`` pixels across, or as many as the proxy has if that is less or None. All of it
        is done in FFmpeg, so that the interface's thread is not held up meanwhile.
        """
        found = self._frame(frame)
        wide = min(width or found.width, found.width)
        made = found.reformat(
            width=wide, height=round(found.height * wide / found.width), format="bgra",
            src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
            src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG,
            interpolation=Interpolation.AREA if wide < found.width else None)
        return np.ascontiguousarray(made.to_ndarray(), np.uint8)

    def close(self) -> None:
        """Close the file."""
        self._container.close()
