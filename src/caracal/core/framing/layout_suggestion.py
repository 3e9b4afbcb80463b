"""Which layout would show what framing cannot: offered beside the flag, never taken by itself."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from caracal.core.analysis.model import Analysis, Track
from caracal.core.base.geometry import FramingSpec, Shape, window_size
from caracal.core.framing.flags import Flag, FlagKind
from caracal.core.framing.lead import Subject, subjects
from caracal.core.layout.kinds import KINDS, Kind, banner, canvas_of, kind_called
from caracal.core.layout.model import Crop, Layout, target_of

# What is cut in these is seen when the picture is whole; what is enlarged or rushed as well.
CUT = (FlagKind.LOST, FlagKind.CLIPPED, FlagKind.TEXT_CUT, FlagKind.TOO_CLOSE, FlagKind.RUSHED)
WORTH = 0.05  # severity of a flag from which on another layout is offered
AIR = 1.04  # times as wide as what must be seen: a window has room round it


def suggested_layout(
    layout: Layout, flags: Iterable[Flag], left_out: Sequence[Subject] = (),
    fits_banner: bool = False,
) -> Kind | None:
    """The kind that would show what ``layout`` does not; None where none is needed.

    The least change that helps is offered: a banner where all that counts fits into that; else two
    leads that do not both fit (``left_out``) get a half each, and the worst of ``flags`` ends where
    the picture is whole.
    """
    if layout.kind != KINDS[0].name:
        return None
    cut = any(flag.kind in CUT and flag.severity >= WORTH for flag in flags)
    if len(left_out) != 2 and not cut:
        return None
    if fits_banner:
        return kind_called("banner")
    return kind_called("stack" if len(left_out) == 2 else "whole-soft")


def fits_banner(
    analysis: Analysis, shot: int, frame: FramingSpec, lead: int | None, flags: Iterable[Flag],
    left_out: Sequence[Subject],
) -> bool:
    """Whether all that counts in a shot fits through all of it into the window of a banner: the
    ``lead`` and those who are ``left_out``, and words where they are cut.
    """
    tracks: list[Track] = [subject.main for subject in left_out] or [
        subject.main for subject in subjects(analysis, shot) if subject.id == lead]
    if any(flag.kind is FlagKind.TEXT_CUT for flag in flags):
        tracks += analysis.words_in(shot)
    if not tracks:
        return False
    pane = next(pane for pane in banner(frame).panes if isinstance(pane.content, Crop))
    shape = Shape.of(*target_of(pane.region, canvas_of(frame))[2:])
    window, picture = window_size(shape, analysis.active), analysis.active[2:]
    boxes = np.concatenate([np.array(track.boxes) for track in tracks])
    low, end = boxes[:, :2].min(0), (boxes[:, :2] + boxes[:, 2:]).max(0)
    return all(side >= most or extent * AIR <= side  # along all of the picture nothing is cut
               for side, most, extent in zip(window, picture, (end - low).tolist(), strict=True))
