"""Where shots begin: hard cuts, dissolves, and fades through a plain picture.

Differences between pictures find hard cuts (:mod:`abrupt`) and propose dissolves (:mod:`gradual`).
A network (:mod:`boundary_network`) judges what is not clear by itself: a whole picture that changes
evenly and loses its detail half-way is a dissolve, whatever else says so.
"""

from __future__ import annotations

from fractions import Fraction

import msgspec

from caracal.core.analysis.abrupt import AbruptFinder, Step, Verdict
from caracal.core.analysis.boundary_network import BoundaryNetwork
from caracal.core.analysis.gradual import LONGEST_PLAIN_S, GradualFinder, Kind, Mix, grouped
from caracal.core.analysis.model import Transition
from caracal.core.media.planes import Plane, Planes

SHORTEST_SHOT = 8  # frames; shorter flashes are not shots
CUT_SAID = 0.35  # probability at which a doubtful cut is one
MIX_SAID = 0.5  # probability at which a proposed dissolve is one
LEAD = 12  # frames before a proposed dissolve in which it may have begun already
NEAR_MIX = 2  # frames round a dissolve in which a doubtful cut is part of it


class Boundary(msgspec.Struct, frozen=True):
    """The first frame of a new shot and how it comes in."""

    frame: int
    kind: Transition
    span: tuple[int, int] | None = None


class CutFinder:
    """Give it every frame in order; it keeps a few seconds of tiny pictures only."""

    def __init__(self, rate: Fraction) -> None:
        self._rate = float(rate)
        self._abrupt, self._gradual = AbruptFinder(), GradualFinder(float(rate))
        self._network = BoundaryNetwork(float(rate))
        self._cuts: list[int] = []  # that stand
        self._doubtful: list[int] = []
        self._mixes: list[Mix] = []
        self._waiting: list[Mix] = []  # of groups that may still grow

    def add(self, frame: int, luma: Plane, small: Planes) -> None:
        """Look at the next frame: its luma about 160 pixels wide, (h, w) uint8, and all of it."""
        self._network.add(frame, luma, small)
        found = self._abrupt.add(luma)
        if found is not None:
            self._take(*found)
        self._waiting += self._gradual.add(frame, luma)
        if self._waiting and frame - max(one.end for one in self._waiting) > self._gradual.longest:
            self._settle()

    def close(self) -> None:
        """Let nothing more be looked at, as when the film is stopped half-way."""
        self._network.close()

    @property
    def windows(self) -> int:
        """How often the network was run."""
        return self._network.windows

    def _take(self, frame: int, step: Step) -> None:
        verdict = step.verdict
        if verdict is Verdict.CUT:
            self._cuts.append(frame)
        elif verdict is Verdict.DOUBTFUL:
            self._doubtful.append(frame)
            self._network.ask(frame - 2, frame + 1)

    def _settle(self) -> None:
        """No more mixes join those that wait: ask about the dissolves that are not clear."""
        for one in grouped(self._waiting):
            if one.kind is Kind.DISSOLVE and not one.clear:
                self._network.ask(max(0, one.start - LEAD), one.end)
        self._mixes += self._waiting
        self._waiting = []

    def boundaries(self, frames: int) -> list[Boundary]:
        """All boundaries inside a film of ``frames`` frames, in order."""
        for frame, step in self._abrupt.rest():
            self._take(frame, step)
        self._settle()
        self._network.finish()
        mixes = grouped(self._mixes)
        fades = [one for one in mixes if one.kind is not Kind.DISSOLVE]
        dissolves = [one for one in mixes if one.kind is Kind.DISSOLVE and self._mixed(one)
                     and not any(_overlap(one, fade) for fade in fades)]
        plain = through_plain(fades, self._cuts, round(LONGEST_PLAIN_S * self._rate))
        doubtful = [one for one in self._doubtful if self._said_cut(one)
                    and not any(mix.start - NEAR_MIX <= one <= mix.end + NEAR_MIX
                                for mix in (*dissolves, *fades))]
        spans = [self._network.reach(one.start, one.end - 1) for one in dissolves]
        found = [Boundary((start + end) // 2, Transition.DISSOLVE, (start, end))
                 for start, end in spans]
        self.close()
        found += [Boundary(cut, Transition.CUT) for cut in apart([*self._cuts, *doubtful], frames)]
        return sorted([*found, *plain], key=lambda one: one.frame)

    def _mixed(self, mix: Mix) -> bool:
        """Whether it is clear, or the network calls it a transition."""
        if mix.clear:
            return True
        said = self._network.said(mix.start, mix.end)[1]
        return said >= MIX_SAID

    def _said_cut(self, frame: int) -> bool:
        return self._network.said(frame - 2, frame)[0] >= CUT_SAID


def _overlap(a: Mix, b: Mix) -> bool:
    return a.start < b.end and b.start < a.end


def apart(cuts: list[int], frames: int) -> list[int]:
    """``cuts`` of a film in order, without those that leave a shot shorter than SHORTEST_SHOT."""
    kept = [0]
    for cut in sorted(set(cuts)):
        if cut - kept[-1] >= SHORTEST_SHOT and cut <= frames - SHORTEST_SHOT:
            kept.append(cut)
    return kept[1:]


def through_plain(fades: list[Mix], cuts: list[int], longest: int) -> list[Boundary]:
    """Where a fade out is followed by a fade in: the new shot begins between them.

    A fade at a film's end, or beside one of the ``cuts``, is part of its own shot. ``longest`` are
    the frames that may lie between.
    """
    found = []
    for out in (one for one in fades if one.kind is Kind.OUT):
        into = next((one for one in fades if one.kind is Kind.IN and one.end > out.end), None)
        if into is None or into.start - out.end > longest:
            continue
        if not any(out.start < cut < into.end for cut in cuts):
            middle = (out.end + into.start) // 2
            found.append(Boundary(middle, Transition.FADE, (out.start, into.end)))
    return found
