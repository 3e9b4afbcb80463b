"""TransNet V2, a network for shot boundaries, asked about doubtful places only.

Soucek and Lokoc, "TransNet V2: An effective deep network architecture for fast shot transition
detection", 2020 (MIT; see data/models/README.md). A window of 100 frames costs it as much as a
decoder takes for about as many, so it is not run over the whole film.
"""

from __future__ import annotations

from collections import deque
from concurrent.futures import Future, ThreadPoolExecutor

import cv2
import numpy as np
import onnxruntime
from numpy.typing import NDArray

from caracal.core.analysis.detectors.network import open_model
from caracal.core.media.planes import Plane, Planes

WIDTH, HEIGHT = 48, 27  # of the pictures it sees, whatever their shape
WINDOW, MARGIN = 100, 25  # frames it sees at once; those it says nothing trustworthy of, each side
USUAL_RATE = 27.0  # frames a second it was trained on, about: quicker films are thinned out
KEPT_S = 8.0  # how far back may be asked about
IN_TRANSITION = 0.3  # probability down to which a frame beside a transition belongs to it
PATIENCE = 50  # pictures that pass before an answer is asked for
COLOURS = 512  # 8 x 8 x 8, of its histograms

Colours = NDArray[np.uint8]


class BoundaryNetwork:
    """Give it every frame in order, ask about spans not long ago, and take the answers later."""

    def __init__(self, rate: float) -> None:
        self._stride = max(1, round(rate / USUAL_RATE))
        self._kept: deque[Colours] = deque(maxlen=round(KEPT_S * rate / self._stride) + WINDOW)
        self._count = 0  # pictures kept so far, those forgotten included
        self._asked: list[tuple[int, int]] = []  # spans in pictures, not yet answered
        self._pool = ThreadPoolExecutor(1, thread_name_prefix="boundaries")
        self._session: onnxruntime.InferenceSession | None = None
        self._answers: list[tuple[int, Future[tuple[NDArray[np.float32], ...]]]] = []
        self._begun: list[tuple[int, int]] = []  # windows and the count of pictures at which
        self.windows = 0  # how often the network ran

    def add(self, frame: int, luma: Plane, small: Planes) -> None:
        """The next frame: its luma about 160 pixels wide, and its colours."""
        if frame % self._stride:
            return
        # Every second pixel of the colours: they are smooth, and this is done in every frame.
        planes = (luma, np.ascontiguousarray(small.u[::2, ::2]),
                  np.ascontiguousarray(small.v[::2, ::2]))
        self._kept.append(np.stack(
            [cv2.resize(plane, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA)
             for plane in planes], axis=-1))
        self._count += 1
        self._run(False)

    def ask(self, first: int, last: int) -> None:
        """Ask about the frames ``first`` to ``last``, not long ago."""
        span = (first // self._stride, max(first, last) // self._stride)
        if not any(start <= span[0] and span[1] < start + WINDOW - 2 * MARGIN
                   for start, _ in self._answers):
            self._asked.append(span)
            self._asked.sort()

    @property
    def open_from(self) -> int:
        """The frame from which on something is asked and not yet answered.

        An answer counts as there a while after it was begun: nobody is kept waiting for it, and
        how quick it is makes no difference.
        """
        asked = [start for start, _ in self._asked]
        begun = [start for start, at in self._begun if self._count < at + PATIENCE]
        return min([*asked, *begun, self._count]) * self._stride

    def forget(self, before: int) -> None:
        """Nothing before this frame will be asked for."""
        oldest = before // self._stride - WINDOW
        self._answers = [answer for answer in self._answers if answer[0] >= oldest]
        self._begun = [window for window in self._begun if window[0] >= oldest]

    def close(self) -> None:
        """Let nothing more be done."""
        self._pool.shutdown(cancel_futures=True)

    def finish(self) -> None:
        """No more frames will come: answer everything that was asked."""
        self._run(True)

    def said(self, first: int, last: int) -> tuple[float, float]:
        """(cut, transition) of the frames ``first`` to ``last``, which were asked about.

        Each is the largest probability in the span; 0 for frames it has no answer for.
        """
        low, high = first // self._stride, last // self._stride
        cut = mixed = 0.0
        for start, answer in self._answers:
            part = slice(max(low - start, 0), max(high + 1 - start, 0))
            if part.stop <= part.start or part.start >= WINDOW - 2 * MARGIN:
                continue
            cuts, mixes = answer.result()
            cut = max(cut, float(cuts[part].max(initial=0.0)))
            mixed = max(mixed, float(mixes[part].max(initial=0.0)))
        return cut, mixed

    def reach(self, first: int, last: int) -> tuple[int, int]:
        """The frames [start, end) in transition that hold or touch ``first`` to ``last``.

        Only as far as it has answers; never less than what was given.
        """
        low, high = first // self._stride, last // self._stride
        mixed = {start + i: float(value) for start, answer in self._answers
                 for i, value in enumerate(answer.result()[1])}
        while mixed.get(low - 1, 0.0) >= IN_TRANSITION:
            low -= 1
        while mixed.get(high + 1, 0.0) >= IN_TRANSITION:
            high += 1
        return min(first, low * self._stride), max(last, high * self._stride) + 1

    def _run(self, last: bool) -> None:
        """Run windows for what is asked, as soon as their frames are there."""
        while self._asked:
            start = self._asked[0][0]
            if not last and self._count < start + WINDOW - MARGIN:
                return
            end = start + WINDOW - 2 * MARGIN
            self._asked = [(max(a, end), b) for a, b in self._asked if b >= end]
            self._answers.append((start, self._pool.submit(self._look, self._window(start))))
            self._begun.append((start, self._count))
            self.windows += 1

    def _window(self, start: int) -> Colours:
        """The pictures from ``start`` - MARGIN on; the film's first and last stand beyond it."""
        oldest = self._count - len(self._kept)
        wanted = np.clip(np.arange(start - MARGIN, start - MARGIN + WINDOW), oldest,
                         self._count - 1) - oldest
        kept = list(self._kept)
        return np.stack([kept[at] for at in wanted])

    def _look(self, planes: Colours) -> tuple[NDArray[np.float32], ...]:
        if self._session is None:
            self._session = open_model("cuts.onnx", 1, lean=True)
        options = onnxruntime.RunOptions()
        # A window needs 270 MB while it runs; kept for the next one they would be held for ever.
        options.add_run_config_entry("memory.enable_memory_arena_shrinkage", "cpu:0")
        pictures = in_rgb(planes)
        cut, mixed = self._session.run(
            ["cut", "in_transition"],
            {"frames": pictures.astype(np.float32) / 255, "histograms": histograms(pictures)},
            options)
        inside = slice(MARGIN, WINDOW - MARGIN)
        return cut[inside], mixed[inside]


def in_rgb(planes: Colours) -> Colours:
    """Limited-range BT.709 pictures (..., 3: y, u, v) uint8 as RGB (..., 3) uint8."""
    y = (planes[..., 0].astype(np.float32) - 16) * (255 / 219)
    u, v = (planes[..., i].astype(np.float32) - 128 for i in (1, 2))
    rgb = np.stack([y + 1.7927 * v, y - 0.2132 * u - 0.5329 * v, y + 2.1124 * u], axis=-1)
    return np.clip(rgb + 0.5, 0, 255).astype(np.uint8)


def histograms(pictures: Colours) -> NDArray[np.float32]:
    """For each of ``pictures`` (n, h, w, 3) RGB the counts of its pixels over 8 x 8 x 8 colours."""
    parts = pictures.astype(np.int32) >> 5
    index = parts[..., 0] * 64 + parts[..., 1] * 8 + parts[..., 2]
    return np.stack([np.bincount(colours.ravel(), minlength=COLOURS) for colours in index]).astype(
        np.float32)
