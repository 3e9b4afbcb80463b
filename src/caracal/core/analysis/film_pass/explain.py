"""What the cut finder measured and decided round a frame, so that a wrong cut can be followed to
its rule.
"""

from __future__ import annotations

from pathlib import Path

import cv2
import msgspec

from caracal.core.analysis.cuts.cut_finder import (
    CUT_SAID,
    MIX_SAID,
    NEAR_MIX,
    SHORTEST_SHOT,
    CutFinder,
)
from caracal.core.analysis.cuts.gradual import Mix
from caracal.core.analysis.cuts.hard_cuts import (
    DOUBT_ACROSS,
    DOUBT_CONTRAST,
    LEAST_ACROSS,
    NEAR,
    STANDS,
    Step,
    Verdict,
)
from caracal.core.analysis.detectors.downscale import downscaled, proxy_size
from caracal.core.analysis.film_pass.detection_pass import shrunk
from caracal.core.analysis.model import Boundary
from caracal.core.analysis.tracking.flow import FlowFinder
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.translation import tr
from caracal.core.base.work import CancelToken, ProgressReporter, Report
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.media.planes import Plane, Planes

BEFORE_S, AFTER_S = 30.0, 15.0  # of the film that is read: a decision needs seconds
ROUND_S = 1.0  # what is so near is reported


class Finding(msgspec.Struct, frozen=True):
    """Something that was measured or decided at ``frame``; ``what`` is its kind."""

    frame: int
    what: str
    sentence: str


def explain_cuts(
    path: Path, master: Master, frame: int, report: Report, cancel: CancelToken
) -> list[Finding]:
    """What was found round ``frame`` of the film at ``path``, in order.

    Raises InputError when there is no such frame or the film cannot be read, and Cancelled.
    """
    if not 0 <= frame < master.frames:
        raise InputError(tr("There is no frame {frame}; the film has frames 0 to {last}.",
                            frame=frame, last=master.frames - 1), path,
                         tr("Give one of those."))
    rate = float(master.rate)
    first = max(0, frame - round(BEFORE_S * rate))
    end = min(master.frames, frame + round(AFTER_S * rate))
    finder = _ExplainingFinder(master, first, range(frame - round(ROUND_S * rate),
                                                    frame + round(ROUND_S * rate) + 1))
    size = proxy_size(master.width, master.height)
    flow = FlowFinder(*size)
    watch = ProgressReporter(tr("Analysing"), end - first, report)
    try:
        for number, planes in frames(master, FrameRange(first, end), cancel):
            small = downscaled(planes, size)
            finder.add(number, shrunk(small.y, flow)[1], small)
            finder.note_boundaries(finder.settled())
            watch.at(number + 1 - first)
        finder.note_boundaries(finder.finish(end))
    finally:
        finder.close()
    return sorted(finder.findings, key=lambda finding: finding.frame)


class _ExplainingFinder(CutFinder):
    """A cut finder that keeps what it measures and decides in ``near`` frames."""

    def __init__(self, master: Master, first: int, near: range) -> None:
        super().__init__(master.rate)
        self._near, self._start = near, first
        self._before: Plane | None = None
        self.findings: list[Finding] = []

    def add(self, frame: int, luma: Plane, small: Planes) -> None:
        if self._before is not None and frame in self._near:
            step = cv2.norm(luma, self._before, cv2.NORM_L1) / luma.size
            self._note(frame, "step", tr("{step:.2f} levels of luma from the frame before",
                                         step=step))
        self._before = luma
        super().add(frame, luma, small)

    def _take(self, place: int, step: Step) -> None:
        frame = place + self._first
        self._note(frame, "hard cut", tr(
            "{near:.2f} times its four neighbours (at least {least_near}); across {across:.2f} "
            "(at least {least_across}), contrast {contrast:.2f}, peak {peak:.2f}, third "
            "{third:.2f}: {rule}", near=step.near, least_near=NEAR, across=step.across,
            least_across=LEAST_ACROSS, contrast=step.contrast, peak=step.peak, third=step.third,
            rule=_rule(step)))
        super()._take(place, step)

    def _said_cut(self, frame: int) -> bool:
        said = super()._said_cut(frame)
        chance = self._network.said(frame - 2 - self._first, frame - self._first)[0]
        self._note(frame, "network", tr(
            "a cut with probability {chance:.2f} (at least {least}): {answer}", chance=chance,
            least=CUT_SAID, answer=tr("a cut") if said else tr("no cut")))
        return said

    def _mixed(self, mix: Mix) -> bool:
        stands = super()._mixed(mix)
        chance = self._network.said(mix.start - self._first, mix.end - self._first)[1]
        clear = tr("clear by itself") if mix.clear else tr(
            "the network gives {chance:.2f} (at least {least})", chance=chance, least=MIX_SAID)
        self._note_mix(mix, clear, stands)
        return stands

    def _joins_shots(self, wipe: Mix) -> bool:
        stands = super()._joins_shots(wipe)
        self._note_mix(wipe, tr("no cut may lie within {shortest} frames of it",
                                shortest=SHORTEST_SHOT), stands)
        return stands

    def _note_mix(self, mix: Mix, why: str, stands: bool) -> None:
        if mix.start - NEAR_MIX < self._near.stop and mix.end + NEAR_MIX >= self._near.start:
            self._add(mix.start, mix.kind.value, tr(
                "frames {start} to {end}, misfit {misfit:.2f}; {why}: {answer}", start=mix.start,
                end=mix.end, misfit=mix.misfit, why=why,
                answer=tr("a transition") if stands else tr("none")))

    def note_boundaries(self, boundaries: list[Boundary]) -> None:
        """Keep those that were decided."""
        for each in boundaries:
            self._note(each.frame, "decided", tr("a shot begins: {kind}", kind=each.kind))

    def _note(self, frame: int, what: str, sentence: str) -> None:
        if frame in self._near and frame > self._start:
            self._add(frame, what, sentence)

    def _add(self, frame: int, what: str, sentence: str) -> None:
        finding = Finding(frame, what, sentence)
        if finding not in self.findings:  # what is not decided yet is asked about again
            self.findings.append(finding)


def _rule(step: Step) -> str:
    """By which rule a step is what it is."""
    if step.verdict is Verdict.CUT:
        said = (step.contrast, step.peak, step.third, step.across)
        number = next(i for i, row in enumerate(STANDS, 1)
                      if all(a >= b for a, b in zip(said, row, strict=True)))
        return tr("a cut by rule {number} of STANDS", number=number)
    if step.verdict is Verdict.DOUBTFUL:
        return tr("doubtful, the network is asked")
    return tr("no cut: across {across} and contrast {contrast} are needed to be asked about, or a "
              "rule of STANDS", across=DOUBT_ACROSS, contrast=DOUBT_CONTRAST)
