"""Writing a file that holds sound alone."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np

from caracal.core.media.av_errors import address, writing
from caracal.core.media.channels import LAYOUTS
from caracal.core.media.sound import Samples


class FlacWriter:
    """Encodes samples into the FLAC file at ``path``, 16 bits each; call :meth:`finish`."""

    def __init__(self, path: Path, rate_hz: int, channels: int) -> None:
        self._path, self._rate, self._at = path, rate_hz, 0
        self._layout = LAYOUTS[channels]
        with writing(path):
            path.unlink(missing_ok=True)  # a link there would be written through
            self._container = av.open(address(path), "w", format="flac")
            self._stream = self._container.add_stream("flac", rate=rate_hz)
            self._stream.codec_context.layout = self._layout
            self._stream.codec_context.format = "s16"

    def write(self, samples: Samples) -> None:
        """Encode ``samples`` (n, channels) float32, -1..1. Raises StorageError."""
        whole = np.clip(np.round(samples * 32767), -32768, 32767).astype(np.int16)
        frame = av.AudioFrame.from_ndarray(
            np.ascontiguousarray(whole.reshape(1, -1)), format="s16", layout=self._layout)
        frame.sample_rate, frame.pts = self._rate, self._at
        self._at += len(samples)
        with writing(self._path):
            for packet in self._stream.encode(frame):
                self._container.mux(packet)

    def finish(self) -> None:
        """Flush the encoder and close the file."""
        with writing(self._path):
            for packet in self._stream.encode(None):
                self._container.mux(packet)
            self._container.close()

    def abandon(self) -> None:
        """Close without finishing; what was written is of no use."""
        with writing(self._path):
            self._container.close()
