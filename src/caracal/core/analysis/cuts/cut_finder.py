"""Where shots begin: hard cuts, dissolves, and fades through a plain picture.

Differences between pictures find hard cuts (:mod:`hard_cuts`) and propose dissolves
(:mod:`gradual`). A network (:mod:`boundary_network`) judges what is not clear by itself: a whole
picture that changes evenly and loses its detail half-way is a dissolve, whatever else says so.
"""

from __future__ import annotations

from fractions import Fraction

import msgspec

from caracal.core.analysis.cuts.boundary_network import BoundaryNetwork
from caracal.core.analysis.cuts.gradual import (
    LONGEST_PLAIN_S,
    GradualFinder,
    Kind,
    Mix,
    grouped,
    overlapping,
)
from caracal.core.analysis.cuts.hard_cuts import ROUND, HardCutFinder, Step, Verdict
from caracal.core.analysis.model import Boundary, Transition
from caracal.core.media.planes import Plane, Planes

SHORTEST_SHOT = 8  # frames; shorter flashes are not shots
CUT_SAID = 0.35  # probability at which a doubtful cut is one
MIX_SAID = 0.5  # probability at which a proposed dissolve is one
LEAD = 12  # frames before a proposed dissolve in which it may have begun already
NEAR_MIX = 2  # frames round a dissolve in which a doubtful cut is part of it


class CutFinder:
    """Give it every frame in order; it keeps a few seconds of tiny pictures only.

    A boundary is final a few seconds behind the frames: :meth:`settled` hands on what nothing
    that is still to come can change. Its answer depends on the frames alone, never on how quick
    the network is. It has an attribute for each measure and each rule.
    """

    def __init__(self, rate: Fraction, known: Boundary | None = None) -> None:
        """``known`` is a boundary found before: nothing is found up to it, and nothing in it."""
        self._rate = float(rate)
        self._longest_plain = round(LONGEST_PLAIN_S * self._rate)
        self._hard_cuts, self._gradual = HardCutFinder(), GradualFinder(float(rate))
        self._network = BoundaryNetwork(float(rate))
        self._cuts: list[int] = []  # that stand
        self._doubtful: list[int] = []
        self._mixes: list[Mix] = []
        self._waiting: list[Mix] = []  # of groups that may still grow
        self._seen = self._first = 0
        self._known = known
        self._settled = 0 if known is None else known.frame  # all before this frame is decided
        self._last_cut = self._settled

    def add(self, frame: int, luma: Plane, small: Planes) -> None:
        """Look at the next frame: its luma about 160 pixels wide, (h, w) uint8, and all of it."""
        if not self._seen:
            self._first = frame  # a film that is gone on with begins later: all count from there
        self._seen = frame + 1
        self._network.add(frame - self._first, luma, small)
        found = self._hard_cuts.add(luma)
        if found is not None:
            self._take(*found)
        self._waiting += self._gradual.add(frame, luma)
        self._settle(frame - self._gradual.longest)

    def close(self) -> None:
        """Let nothing more be looked at, as when the film is stopped half-way."""
        self._network.close()

    @property
    def windows(self) -> int:
        """How often the network was run."""
        return self._network.windows

    def _take(self, place: int, step: Step) -> None:
        verdict, frame = step.verdict, place + self._first
        if verdict is Verdict.CUT:
            self._cuts.append(frame)
        elif verdict is Verdict.DOUBTFUL:
            self._doubtful.append(frame)
            self._ask(frame - 2, frame + 1)

    def _ask(self, first: int, last: int) -> None:
        self._network.ask(max(0, first - self._first), last - self._first)

    def _settle(self, before: int) -> None:
        """No mix that is still to come begins before ``before``: groups that end there are whole.

        The network is asked about the dissolves among them that are not clear.
        """
        groups, self._waiting = overlapping(self._waiting), []
        for group in groups:
            if max(mix.end for mix in group) >= before:
                self._waiting += group
                continue
            for candidate in grouped(group):
                if candidate.kind is Kind.DISSOLVE and not candidate.clear:
                    self._ask(candidate.start - LEAD, candidate.end)
            self._mixes += group

    def settled(self) -> list[Boundary]:
        """The boundaries that became final since this was asked last, in order."""
        horizon = self._horizon()
        if horizon <= self._settled:
            return []
        found = self._decided(horizon, None)
        self._settled = horizon
        return found

    @property
    def horizon(self) -> int:
        """The frame before which every boundary was handed on."""
        return self._settled

    def finish(self, frames: int) -> list[Boundary]:
        """The boundaries that are left of a film of ``frames`` frames, in order."""
        for place, step in self._hard_cuts.rest():
            self._take(place, step)
        self._settle(frames + 1)
        self._network.finish()
        found = self._decided(frames + 1, frames)
        self._settled = frames
        self.close()
        return found

    def _horizon(self) -> int:
        """The frame before which nothing more can begin, end, or be judged otherwise."""
        certain = min([self._seen - ROUND, self._seen - self._gradual.longest - 1,
                       self._first + self._network.open_from,
                       *(mix.start for mix in self._waiting)])
        certain -= LEAD  # the network may see a dissolve begin a little earlier
        spans = [(mix.start - NEAR_MIX, mix.end + NEAR_MIX) for mix in self._judged_together()]
        while (held := min((start for start, end in spans if start < certain <= end),
                           default=certain)) < certain:
            certain = held
        return certain

    def _judged_together(self) -> list[Mix]:
        """The groups of mixes; a fade out lasts until the fade in that belongs to it."""
        mixes = grouped(self._mixes)
        made = []
        for mix in mixes:
            if mix.kind is Kind.OUT:
                into = next((other for other in mixes if _comes_after(mix, other)), None)
                latest = mix.end + self._longest_plain + self._gradual.longest
                end = latest if into is None else max(mix.end, into.end)
                made.append(msgspec.structs.replace(mix, end=end))
            else:
                made.append(mix)
        return made

    def _decided(self, horizon: int, frames: int | None) -> list[Boundary]:
        """The boundaries before ``horizon``, of a film of ``frames`` frames if all were seen."""
        mixes = grouped([mix for mix in self._mixes if mix.end < horizon])
        fades = [mix for mix in mixes if mix.kind in (Kind.OUT, Kind.IN)]
        wipes = [mix for mix in mixes if mix.kind is Kind.WIPE and self._joins_shots(mix)]
        dissolves = [mix for mix in mixes if mix.kind is Kind.DISSOLVE and self._mixed(mix)
                     and not any(_overlap(mix, other) for other in (*fades, *wipes))]
        plain = through_plain(fades, self._cuts, self._longest_plain)
        doubtful = [
            number
            for number in self._doubtful
            if number < horizon
            and self._said_cut(number)
            and not any(
                mix.start - NEAR_MIX <= number <= mix.end + NEAR_MIX
                for mix in (*dissolves, *wipes, *fades)
            )
        ]
        sure = [number for number in self._cuts if number < horizon]
        cuts = apart([*sure, *doubtful], self._last_cut, frames)
        self._last_cut = max([self._last_cut, *cuts])
        found = [Boundary(cut, Transition.CUT) for cut in cuts]
        for dissolve in dissolves:
            start, end = self._reach(dissolve)
            found.append(Boundary((start + end) // 2, Transition.DISSOLVE, (start, end)))
        found += [Boundary((wipe.start + wipe.end) // 2, Transition.WIPE, (wipe.start, wipe.end))
                  for wipe in wipes]
        found = [boundary for boundary in (*found, *plain) if not self._told(boundary)]
        self._cuts = [cut for cut in self._cuts if cut >= horizon]
        self._doubtful = [number for number in self._doubtful if number >= horizon]
        self._mixes = [mix for mix in self._mixes if mix.end >= horizon]
        self._network.forget(horizon - self._first)
        return sorted(found, key=lambda boundary: boundary.frame)

    def _told(self, boundary: Boundary) -> bool:
        """Whether it lies in what was decided before, or is the boundary that was known."""
        begin = boundary.span[0] if boundary.span else boundary.frame
        if self._known is None:
            return boundary.frame <= 0
        until = self._known.span[1] if self._known.span else self._known.frame
        return begin < max(until, self._known.frame + SHORTEST_SHOT)

    def _reach(self, mix: Mix) -> tuple[int, int]:
        """The frames [start, end) of a dissolve, as far as the network sees it reach."""
        start, end = self._network.reach(mix.start - self._first, mix.end - 1 - self._first)
        return max(self._settled, start + self._first), end + self._first

    def _joins_shots(self, wipe: Mix) -> bool:
        """Whether there is a shot before and after it: what passes close by begins beside a cut."""
        near = [self._last_cut, self._first, *self._cuts]
        return not any(wipe.start - SHORTEST_SHOT < cut < wipe.end + SHORTEST_SHOT for cut in near)

    def _mixed(self, mix: Mix) -> bool:
        """Whether it is clear, or the network calls it a transition."""
        if mix.clear:
            return True
        said = self._network.said(mix.start - self._first, mix.end - self._first)[1]
        return said >= MIX_SAID

    def _said_cut(self, frame: int) -> bool:
        return self._network.said(frame - 2 - self._first, frame - self._first)[0] >= CUT_SAID


def _comes_after(out: Mix, other: Mix) -> bool:
    """Whether ``other`` is a fade in that ends after the fade ``out``."""
    return other.kind is Kind.IN and other.end > out.end


def _overlap(a: Mix, b: Mix) -> bool:
    return a.start < b.end and b.start < a.end


def apart(cuts: list[int], last: int, frames: int | None) -> list[int]:
    """``cuts`` in order, without those that leave a shot shorter than SHORTEST_SHOT.

    ``last`` is the cut before them; ``frames`` is where the film ends, if that is near.
    """
    kept = [last]
    for cut in sorted(set(cuts)):
        if cut - kept[-1] >= SHORTEST_SHOT and (
                frames is None or cut <= frames - SHORTEST_SHOT):
            kept.append(cut)
    return kept[1:]


def through_plain(fades: list[Mix], cuts: list[int], longest: int) -> list[Boundary]:
    """Where a fade out is followed by a fade in: the new shot begins between them.

    A fade at a film's end, or beside one of the ``cuts``, is part of its own shot. ``longest`` are
    the frames that may lie between.
    """
    found = []
    for out in (mix for mix in fades if mix.kind is Kind.OUT):
        into = next((fade for fade in fades if _comes_after(out, fade)), None)
        if into is None or into.start - out.end > longest:
            continue
        if not any(out.start < cut < into.end for cut in cuts):
            middle = (out.end + into.start) // 2
            found.append(Boundary(middle, Transition.FADE, (out.start, into.end)))
    return found
