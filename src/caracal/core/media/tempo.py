"""Sound at another speed and at its own pitch: FFmpeg's atempo, fed as much as is needed."""

from __future__ import annotations

import av
import av.filter
import numpy as np

from caracal.core.media.sound import Samples, SoundReader

BLOCK = 4096  # samples that are fed at once
STEPS = (0.5, 2.0)  # what one atempo filter can do without leaving samples out
LAYOUTS = {1: "mono", 2: "stereo"}


class TempoReader:
    """Reads what ``reader`` gives, ``speed`` times as fast; takes samples in their order.

    It closes ``reader`` with itself.
    """

    def __init__(self, reader: SoundReader, rate_hz: int, channels: int, speed: float) -> None:
        self._reader, self._rate, self._channels = reader, rate_hz, channels
        self._layout = LAYOUTS[channels]
        self._graph = av.filter.Graph()
        form = f"sample_fmts=flt:sample_rates={rate_hz}:channel_layouts={self._layout}"
        self._graph.link_nodes(
            self._graph.add_abuffer(format="flt", sample_rate=rate_hz, layout=self._layout),
            *(self._graph.add("atempo", f"{part:.6f}") for part in _steps(speed)),
            self._graph.add("aformat", form), self._graph.add("abuffersink")).configure()
        self._fed = 0
        self._held: Samples = np.zeros((0, channels), np.float32)

    def take(self, count: int) -> Samples:
        """The next ``count`` samples, (count, channels) float32. Raises InputError as its reader.
        """
        parts, have = [self._held], len(self._held)
        while have < count:
            for block in self._stretched():
                parts.append(block)
                have += len(block)
        everything = np.concatenate(parts)
        self._held = everything[count:]
        return everything[:count]

    def _stretched(self) -> list[Samples]:
        block = np.ascontiguousarray(self._reader.take(BLOCK), np.float32)
        frame = av.AudioFrame.from_ndarray(block.reshape(1, -1), "flt", self._layout)
        frame.sample_rate, frame.pts = self._rate, self._fed
        self._fed += BLOCK
        self._graph.push(frame)
        made = list[Samples]()
        while True:
            try:
                found = self._graph.pull()
            except (av.error.BlockingIOError, av.error.EOFError):
                return made
            made.append(np.asarray(found.to_ndarray(), np.float32).reshape(-1, self._channels))

    def close(self) -> None:
        """Close the reader."""
        self._reader.close()


def _steps(speed: float) -> list[float]:
    """Speeds, each within what one filter can do, that together are ``speed``."""
    made, (slowest, fastest) = [], STEPS
    while not slowest <= speed <= fastest:
        step = slowest if speed < slowest else fastest
        made.append(step)
        speed /= step
    return [*made, speed]
