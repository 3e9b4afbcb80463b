"""Dissolves and fades: spans in which one picture is mixed into another.

A dissolve from picture A to picture B is, in between, a mix (1 - a) A + a B with a rising from 0 to
1 (the linear model of video editing; common practice). Movement can look like that from afar, but
keeps its detail; two pictures in one have less than either: mixed half and half, a quarter of the
squared gradients of each (arithmetic; the contrast of a dissolve: Lienhart, "Comparison of
Automatic Shot Boundary Detection Algorithms", SPIE 1999).
"""

from __future__ import annotations

from collections import deque
from enum import Enum

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.cuts.wipes import wiped
from caracal.core.media.planes import Plane

TINY = (32, 18)  # width, height of the picture that the mixing test compares
LENGTHS_S = (0.32, 0.48, 0.64, 0.8, 0.96, 1.2, 1.6, 2.0)  # mixes we look for
SHORTEST = 6  # frames
LEAST_WIPE_S = 0.45  # something that passes close by is as quick as shorter ones
LEAST_CHANGE = 4.5  # mean luma difference of the two ends: less is no change of shot
CELL_CHANGE = 4.0  # luma difference of one cell that says something about the mix
LEAST_CELLS = 0.2  # of all cells must say something
FIT_SHARE, FIT_LEAST = 0.12, 1.5  # a cell follows the mix within this part of its change, and luma
MOST_MISFIT = 0.34  # of the cells may not follow; true mixes have up to 0.27, pans 0.41 and more
STEADY = 0.25  # each step of a mix is at least this part of an even step
LESS_DETAIL = 0.90  # of the ends' squared gradients in a mix; filmed movement keeps 0.97 and more
PLAIN = 5.0  # standard deviation of luma below which a picture is of one colour: black, white
PLAINER = 0.15  # of the other end's: a fade has hardly begun, or is nearly done
LIT = 200.0  # luma of the highlights above black of a well-lit picture; changes are as small as it
LEAST_LIGHT = 0.3  # of that: darker pictures are all noise
CLEAR_CELLS = 0.55  # of the cells that are not black change in a dissolve that is clear
CLEAR_DETAIL = 0.7  # of the ends' squared gradients is left in those cells half-way
EVEN = 0.06  # by which the share of such a mix leaves the straight line at most
BLACK = 22.0  # luma of a bar's cells
LONGEST_PLAIN_S = 6.0  # between a fade out and the next fade in

Cells = NDArray[np.float32]


class Kind(Enum):
    """What becomes what: a picture another, at once or from one side on; a plain one; or back."""

    DISSOLVE = "dissolve"
    WIPE = "wipe"
    OUT = "fade out"
    IN = "fade in"


class Mix(msgspec.Struct, frozen=True):
    """Frames ``start`` to ``end`` mix the picture at one into that at the other.

    ``misfit`` is the share of cells that do not follow. ``clear`` says that it can be nothing but
    a dissolve: all of the picture changes evenly and loses its detail on the way.
    """

    start: int
    end: int
    misfit: float
    kind: Kind
    clear: bool = False


class GradualFinder:
    """Give it every frame in order; it keeps a few seconds of tiny pictures only."""

    def __init__(self, rate: float) -> None:
        lengths = sorted({max(SHORTEST, round(s * rate)) for s in LENGTHS_S})
        self._lengths, self._wipes = lengths, round(LEAST_WIPE_S * rate)
        self._tiny: deque[Cells] = deque(maxlen=lengths[-1] + 3)
        self._detail: deque[float] = deque(maxlen=lengths[-1] + 3)
        self._contrast: deque[float] = deque(maxlen=lengths[-1] + 3)
        self._luma: deque[Plane] = deque(maxlen=lengths[-1] + 3)

    @property
    def longest(self) -> int:
        """Frames of the longest mix that is looked for."""
        return self._lengths[-1]

    def add(self, frame: int, luma: Plane) -> list[Mix]:
        """The mixes that end at this frame; ``luma`` is (h, w), about 160 pixels wide."""
        # Not rounded: in the dark a mix goes from level to level in many frames.
        tiny = cv2.resize(luma.astype(np.float32), TINY, interpolation=cv2.INTER_AREA)
        self._tiny.append(np.asarray(tiny, np.float32).ravel())
        self._detail.append(detail(luma))
        self._luma.append(luma)
        self._contrast.append(float(cv2.meanStdDev(tiny)[1][0, 0]))
        return self._ending(frame) if frame % 2 == 0 else []

    def _ending(self, frame: int) -> list[Mix]:
        if len(self._tiny) < self._lengths[0] + 2:
            return []
        # Most frames stand still or follow a cut: one cheap look rules them out.
        shortest = self._lengths[0]
        light = min(1.0, max(LEAST_LIGHT, (float(self._tiny[-1].max()) - 16.0) / LIT))
        moved = float(np.abs(self._tiny[-1] - self._tiny[-shortest]).mean())
        if moved < light * LEAST_CHANGE / 4:
            return []
        found, pictures = [], None
        for length in self._lengths:
            if len(self._tiny) < length + 2:
                break
            kind = self._kind(length)
            pictures = np.asarray(self._tiny) if pictures is None else pictures
            if kind is Kind.DISSOLVE and length >= self._wipes and wiped(
                    pictures[-length - 1 :], TINY):
                found.append(Mix(frame - length, frame, 0.0, Kind.WIPE, True))
                continue
            if kind is Kind.DISSOLVE and not self._less_detail(length):
                continue
            fit = mixing(pictures[-length - 1 :], light)
            if fit is not None:
                clear = kind is Kind.DISSOLVE and fit.even <= EVEN and self._clear(length, light)
                found.append(Mix(frame - length, frame, fit.misfit, kind, clear))
        return found

    def _clear(self, length: int, light: float) -> bool:
        """Whether most of the picture changes over the last frames and has less detail half-way."""
        first, last = self._tiny[-length - 1], self._tiny[-1]
        shown = np.maximum(first, last) > BLACK
        changing = shown & (np.abs(last - first) > light * CELL_CHANGE)
        if changing.sum() < CLEAR_CELLS * shown.sum():
            return False
        before, half, after = (float(_detail_map(self._luma[at])[changing].sum())
                               for at in (-length - 1, -1 - length // 2, -1))
        return half <= CLEAR_DETAIL * (before + after) / 2

    def _kind(self, length: int) -> Kind:
        start, end = self._contrast[-length - 1], self._contrast[-1]
        if min(start, end) > max(PLAIN, PLAINER * max(start, end)):
            return Kind.DISSOLVE
        return Kind.IN if start < end else Kind.OUT

    def _less_detail(self, length: int) -> bool:
        ends = (self._detail[-1] + self._detail[-length - 1]) / 2
        return self._detail[-1 - length // 2] < LESS_DETAIL * ends


def detail(luma: Plane) -> float:
    """The mean squared gradient of ``luma`` (h, w)."""
    across = cv2.norm(luma[:, 1:], luma[:, :-1], cv2.NORM_L2SQR)
    down = cv2.norm(luma[1:], luma[:-1], cv2.NORM_L2SQR)
    return float(across + down) / luma.size


def _detail_map(luma: Plane) -> Cells:
    """The mean squared gradient of ``luma`` (h, w) in each of the tiny picture's cells."""
    picture = luma.astype(np.float32)
    squares = np.zeros_like(picture)
    squares[:, 1:] += np.diff(picture, axis=1) ** 2
    squares[1:] += np.diff(picture, axis=0) ** 2
    return np.asarray(cv2.resize(squares, TINY, interpolation=cv2.INTER_AREA), np.float32).ravel()


class Fit(msgspec.Struct, frozen=True):
    """How well pictures are a mix: ``misfit``, the share of cells, 0..1, that do not follow, and
    how far the share of the last picture leaves an ``even`` rise."""

    misfit: float
    even: float


def mixing(pictures: Cells, light: float = 1.0) -> Fit | None:
    """How well ``pictures`` (n, cells) mix the first into the last; None when they do not.

    People walk and cameras move while shots are mixed, so not all cells need fit: the share of the
    mix is the median over the cells that change, and most of them must follow it. ``light``, 0..1,
    is how bright they are: dark pictures change by less.
    """
    first, last = pictures[0], pictures[-1]
    change = last - first
    if float(np.abs(change).mean()) < light * LEAST_CHANGE:
        return None
    whole = (pictures - first) @ change / float(change @ change)
    even = 1.0 / (len(pictures) - 1)
    if float(np.diff(whole).max()) > 3.2 * even:  # cheap, and true of most that is no mix
        return None
    changing = np.abs(change) > light * CELL_CHANGE
    if float(changing.mean()) < LEAST_CELLS:
        return None
    changed = change[changing]
    share = np.median((pictures[:, changing] - first[changing]) / changed, axis=1)
    steps = np.diff(share)
    if steps.max() > 2.6 * even or steps.min() < STEADY * even:
        return None
    mixed = first[changing] + share[1:-1, None] * changed
    near = FIT_SHARE * np.abs(changed) + light * FIT_LEAST
    misfit = 1 - float(np.percentile((np.abs(pictures[1:-1, changing] - mixed) < near).mean(axis=1),
                                     20))
    if misfit > MOST_MISFIT:
        return None
    return Fit(misfit, float(np.abs(share - np.linspace(0, 1, len(share))).max()))


def grouped(mixes: list[Mix]) -> list[Mix]:
    """Overlapping mixes of one kind as one, in order.

    A dissolve is the longest of its group, the better-fitting if equal; a fade is all of it.
    """
    made = [_joined(group, kind) for kind in Kind
            for group in overlapping([mix for mix in mixes if mix.kind is kind])]
    return sorted(made, key=lambda mix: (mix.start, mix.end))


def overlapping(mixes: list[Mix]) -> list[list[Mix]]:
    """``mixes`` in groups of which none overlaps another, in order."""
    groups: list[list[Mix]] = []
    for mix in sorted(mixes, key=lambda mix: (mix.start, mix.end)):
        if groups and mix.start < max(group.end for group in groups[-1]):
            groups[-1].append(mix)
        else:
            groups.append([mix])
    return groups


def _joined(group: list[Mix], kind: Kind) -> Mix:
    misfit = min(mix.misfit for mix in group)
    if kind is not Kind.DISSOLVE:
        return Mix(min(mix.start for mix in group), max(mix.end for mix in group), misfit, kind)
    best = max(group, key=lambda mix: (mix.clear, mix.end - mix.start, -mix.misfit))
    return Mix(best.start + 1, best.end, misfit, kind, best.clear)
