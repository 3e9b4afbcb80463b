"""Overlays that lie over what must be seen of a lead."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box, Region, shared_area
from caracal.core.base.translation import tr
from caracal.core.framing.flags import (
    COVERED,
    LEAST_SHARE,
    WEIGHTS,
    Flag,
    FlagKind,
    essential_boxes,
)
from caracal.core.framing.path import ShotPath
from caracal.core.framing.shot_solution import ShotSolution
from caracal.core.layout.entrance import AnimationState
from caracal.core.layout.model import Crop
from caracal.core.layout.overlay import BlendMode, Overlay, presence
from caracal.core.text.style import Title

OVER_WORDS = 0.2  # of a line of words under a title
STRONG = 0.5  # opacity from which an overlay hides what lies behind


def overlay_flag(
    analysis: Analysis, shot: int, solution: ShotSolution, overlays: Sequence[Overlay]
) -> Flag | None:
    """That an overlay hides the face of who leads (or most of a lead without one), or that a title
    lies over burnt-in words: the worse of the two; None: neither.

    It is looked for in the first pane that follows somebody.
    """
    words = _over_words(analysis, shot, solution, overlays)
    hidden = _over_lead(analysis, shot, solution, overlays)
    return max((flag for flag in (words, hidden) if flag is not None),
               key=lambda flag: flag.severity, default=None)


def _over_words(
    analysis: Analysis, shot: int, solution: ShotSolution, overlays: Sequence[Overlay]
) -> Flag | None:
    """That a title lies over words of the picture: then neither can be read."""
    region = next((pane.region for pane in solution.placed.panes
                   if isinstance(pane.content, Crop)), None)
    path, lines = solution.path, analysis.words_in(shot)
    titles = [overlay for overlay in overlays if isinstance(overlay.content, Title)
              and overlay.start < path.end and overlay.end_exclusive > path.start]
    if region is None or not titles or not lines or path.finish.quarter_turns:
        return None
    bad = np.zeros(len(path.windows), np.bool_)
    for i in range(len(bad)):
        frame = path.start + i
        here = [presence(title, frame) for title in titles]
        shown = [_on_canvas(line.boxes[frame - line.first_frame], path.window(frame), region)
                 for line in lines if line.first_frame <= frame < line.end_frame]
        bad[i] = any(_share(box, each) > OVER_WORDS for each in here if each is not None
                     and each.opacity >= STRONG for box in shown)
    return _flag(tr("A title covers words in the picture."), path, bad)


def _flag(sentence: str, path: ShotPath, bad: NDArray[np.bool_]) -> Flag | None:
    if bad.mean() <= LEAST_SHARE:
        return None
    at = np.flatnonzero(bad)
    return Flag(FlagKind.COVERED, sentence, path.start + int(at[0]), path.start + int(at[-1]) + 1,
                round(float(bad.mean()) * WEIGHTS[FlagKind.COVERED], 4))


def _over_lead(
    analysis: Analysis, shot: int, solution: ShotSolution, overlays: Sequence[Overlay]
) -> Flag | None:
    region = next((pane.region for pane in solution.placed.panes
                   if isinstance(pane.content, Crop)), None)
    path = solution.path
    near = [overlay for overlay in overlays if overlay.blend is BlendMode.NORMAL
            and overlay.start < path.end and overlay.end_exclusive > path.start]
    if region is None or not near or path.finish.quarter_turns:
        return None
    bad = np.zeros(len(path.windows), np.bool_)
    for i, essential in enumerate(essential_boxes(analysis, shot, path)):
        here = [presence(overlay, path.start + i) for overlay in near]
        strong = [each for each in here if each is not None and each.opacity >= STRONG]
        if essential is not None and strong:
            place = _on_canvas(essential[1], path.window(path.start + i), region)
            bad[i] = max(_share(place, each) for each in strong) > COVERED
    return _flag(tr("An overlay covers the lead."), path, bad)


def _on_canvas(box: Box, window: Box, region: Region) -> Box:
    """A ``box`` of the master in shares of the canvas, whose ``region`` shows ``window``."""
    (left, right), (top, bottom) = region
    across, down = (right - left) / window[2], (bottom - top) / window[3]
    return (left + (box[0] - window[0]) * across, top + (box[1] - window[1]) * down,
            box[2] * across, box[3] * down)


def _share(box: Box, here: AnimationState) -> float:
    """How much of ``box`` the overlay hides."""
    (left, right), (top, bottom) = here.region
    wide = right - left
    left, right = left + here.part[0] * wide, left + here.part[1] * wide
    return shared_area((left, top, right - left, bottom - top), box) / (box[2] * box[3])
