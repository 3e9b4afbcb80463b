"""Where shots begin: hard cuts by picture difference, dissolves and fades by a mixing test.

Hard cuts come from PySceneDetect's adaptive content detector, fed with our own small frames.
A dissolve from picture A to picture B is, in between, a mix (1 - a) A + a B with a rising from
0 to 1 (the linear model of video editing; common practice). We find a for every frame between two
candidates and accept spans where most of the picture follows it and a rises steadily.
"""

from __future__ import annotations

from collections import deque
from fractions import Fraction

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray
from scenedetect import FrameTimecode
from scenedetect.detectors import AdaptiveDetector, ContentDetector

from caracal.core.analysis.model import Transition
from caracal.core.media.planes import Plane

TINY = (32, 18)  # width, height of the picture that the tests compare
CUT_RATIO = 3.0  # a cut differs this many times more than its neighbours (library default)
CUT_LEAST = 1.4  # and at least this much (mean luma difference, 0..255): same room, other size
BY_LUMA = ContentDetector.Components(0.0, 0.0, 1.0, 0.0)  # hue is noise in the dark
SHORTEST_SHOT = 8  # frames; shorter flashes are not shots
LENGTHS_S = (0.32, 0.48, 0.64, 0.8, 0.96, 1.2, 1.6, 2.0)  # dissolves we look for
LEAST_CHANGE = 4.5  # mean luma difference of the two ends: less is no change of shot
CELL_CHANGE = 4.0  # luma difference of one cell that says something about the mix
LEAST_CELLS = 0.2  # of all cells must say something
FIT_SHARE, FIT_LEAST = 0.12, 1.5  # a cell follows the mix within this part of its change, and luma
MOST_MISFIT = 0.34  # of the cells may not follow; true mixes have up to 0.27, pans 0.41 and more
STEADY = 0.25  # each step of a mix is at least this part of an even step
BLACK = 24.0  # mean limited-range luma of an end below which a mix is a fade


class Boundary(msgspec.Struct, frozen=True):
    """The first frame of a new shot and how it comes in."""

    frame: int
    kind: Transition
    span: tuple[int, int] | None = None


class CutFinder:
    """Give it every frame in order; it keeps a few seconds of tiny pictures only."""

    def __init__(self, rate: Fraction) -> None:
        self._rate = rate
        self._detector = AdaptiveDetector(
            adaptive_threshold=CUT_RATIO, min_scene_len=SHORTEST_SHOT, min_content_val=CUT_LEAST,
            weights=BY_LUMA,
        )
        self._cuts: list[int] = []
        self._mixes: list[tuple[int, int, float, Transition]] = []
        self._lengths = sorted({max(6, round(s * float(rate))) for s in LENGTHS_S})
        self._tiny: deque[NDArray[np.float32]] = deque(maxlen=self._lengths[-1] + 3)

    def add(self, frame: int, luma: Plane) -> None:
        """Look at the next frame as its luma about 160 pixels wide, (h, w) uint8."""
        stamp = FrameTimecode(frame, fps=self._rate)
        found = self._detector.process_frame(stamp, np.asarray(cv2.merge([luma] * 3)))
        self._cuts += [int(cut.frame_num) for cut in found]
        tiny = cv2.resize(luma, TINY, interpolation=cv2.INTER_AREA)
        self._tiny.append(tiny.astype(np.float32).ravel())
        if frame % 2 == 0:
            self._test_mixes(frame)

    def _test_mixes(self, frame: int) -> None:
        if len(self._tiny) < self._lengths[0] + 2:
            return
        # Most frames stand still or follow a cut: one cheap look rules them out.
        shortest = self._lengths[0]
        if float(np.abs(self._tiny[-1] - self._tiny[-shortest]).mean()) < LEAST_CHANGE / 4:
            return
        pictures = np.asarray(self._tiny)
        for length in self._lengths:
            if len(pictures) < length + 2:
                break
            found = _mixing(pictures[-length - 1 :])
            if found is not None:
                residue, into_black = found
                kind = Transition.FADE if into_black else Transition.DISSOLVE
                self._mixes.append((frame - length, frame, residue, kind))

    def boundaries(self, frames: int) -> list[Boundary]:
        """All boundaries inside a film of ``frames`` frames, in order."""
        end = FrameTimecode(frames, fps=self._rate)
        self._cuts += [int(cut.frame_num) for cut in self._detector.post_process(end)]
        mixes = self._joined()
        found = [
            Boundary((start + end) // 2, kind, (start, end))
            for start, end, kind in mixes if kind is Transition.DISSOLVE
        ]  # a fade to or from black is part of its own shot
        for cut in sorted(set(self._cuts)):
            if not any(start - 2 <= cut <= end + 2 for start, end, _ in mixes):
                found.append(Boundary(cut, Transition.CUT))
        return sorted(found, key=lambda one: one.frame)

    def _joined(self) -> list[tuple[int, int, Transition]]:
        """Overlapping mixes as one: the longest of each group, the better-fitting if equal."""
        groups: list[list[tuple[int, int, float, Transition]]] = []
        for mix in sorted(self._mixes):
            if groups and mix[0] < max(one[1] for one in groups[-1]):
                groups[-1].append(mix)
            else:
                groups.append([mix])
        joined = []
        for group in groups:
            best = max(group, key=lambda one: (one[1] - one[0], -one[2]))
            fades = any(one[3] is Transition.FADE for one in group)
            kind = Transition.FADE if fades else Transition.DISSOLVE
            first = min(one[0] for one in group) if fades else best[0] + 1
            joined.append((first, best[1], kind))
        return joined


def _mixing(pictures: NDArray[np.float32]) -> tuple[float, bool] | None:
    """(misfit, whether one end is black) when ``pictures`` (n, cells) mix first into last.

    People walk and cameras move while shots are mixed, so not all cells need fit: the share of the
    mix is the median over the cells that change, and most of them must follow it.
    """
    first, last = pictures[0], pictures[-1]
    change = last - first
    if float(np.abs(change).mean()) < LEAST_CHANGE:
        return None
    whole = (pictures - first) @ change / float(change @ change)
    even = 1.0 / (len(pictures) - 1)
    if float(np.diff(whole).max()) > 3.2 * even:  # cheap, and true of most that is no mix
        return None
    changing = np.abs(change) > CELL_CHANGE
    if float(changing.mean()) < LEAST_CELLS:
        return None
    changed = change[changing]
    share = np.median((pictures[:, changing] - first[changing]) / changed, axis=1)
    steps = np.diff(share)
    if steps.max() > 2.6 * even or steps.min() < STEADY * even:
        return None
    mixed = first[changing] + share[1:-1, None] * changed
    fits = np.abs(pictures[1:-1, changing] - mixed) < FIT_SHARE * np.abs(changed) + FIT_LEAST
    misfit = 1 - float(np.percentile(fits.mean(axis=1), 20))
    if misfit > MOST_MISFIT:
        return None
    return misfit, min(float(first.mean()), float(last.mean())) < BLACK
