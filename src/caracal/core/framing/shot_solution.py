"""All that is shown of one shot in one version: its path, why, and what must be looked at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import FramingSpec, window_size
from caracal.core.base.translation import tr
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.flags import Flag
from caracal.core.framing.layout_suggestion import fits_banner
from caracal.core.framing.lead import Subject
from caracal.core.framing.motion import Manner, Motion
from caracal.core.framing.pane_people import people_for_panes, roles_of
from caracal.core.framing.panes import pane_flags
from caracal.core.framing.path import ShotPath
from caracal.core.framing.placing import solved_layout
from caracal.core.framing.swaps import left_out
from caracal.core.framing.why import lead_name, why
from caracal.core.layout.kinds import words_of
from caracal.core.layout.model import FILL, Layout
from caracal.core.specs.sheet import SpecSheet

Lost = tuple[tuple[int, int], ...]  # frames [first, end) in which a drawn lead was not found


@dataclass(frozen=True)
class ShotSolution:
    """A shot's path, its lead's name, the reason of the path, and all its flags.

    ``left_out`` is the lead and those of its worth that the window cannot show, too. ``layout`` is
    the chosen one, ``placed`` the same with its panes where they lie in this shot; ``panes`` are
    the paths of its crops, of which ``path`` is the first. ``fits_banner`` says whether a banner
    would show all that counts.
    """

    path: ShotPath
    lead: str
    why: str
    flags: tuple[Flag, ...]
    left_out: tuple[Subject, ...]
    layout: Layout
    placed: Layout
    panes: tuple[ShotPath, ...]
    fits_banner: bool = False

    @property
    def fewer_panes(self) -> bool:
        """Whether people are missing for some of the panes that were chosen."""
        return len(roles_of(self.placed)) < len(roles_of(self.layout))


def solve_shot(
    analysis: Analysis, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion,
    drawn: dict[int, Lost],
) -> ShotSolution:
    """Solve shot number ``shot`` for ``sheet`` under ``choice``; ``drawn`` by subject id."""
    lies, paths = solved_layout(analysis, shot, sheet, choice, motion)
    path, fills = paths[0], lies == FILL
    lost = drawn.get(path.lead, ()) if path.lead is not None else ()
    flags = pane_flags(analysis, shot, paths, sheet, lies, motion, lost)
    outside = left_out(analysis, shot, path) if fills else ()
    return ShotSolution(
        path, lead_name(analysis, shot, path.lead),
        _missing_words(analysis, shot, sheet, choice, motion, lies)
        + (why(analysis, shot, path) if fills else words_of(lies)),
        flags, outside,
        choice.layout, lies, paths,
        fills and bool(flags or outside) and fits_banner(
            analysis, shot, sheet.frame, path.lead, flags, outside))


def _missing_words(
    analysis: Analysis, shot: int, sheet: SpecSheet, choice: ShotChoice, motion: Motion,
    shown: Layout,
) -> str:
    """Why a shot is ``shown`` with fewer panes than ``choice`` has; nothing where it is not."""
    if len(roles_of(shown)) >= len(roles_of(choice.layout)):
        return ""
    close = people_for_panes(analysis, shot, choice, sheet, motion).close
    return (tr("The others stand too close to be shown apart. ") if close
            else tr("Nobody is there for another pane. "))


def unsolved(
    analysis: Analysis, shot: int, frame: FramingSpec, lead: str = "",
    why_so: str = tr("Being solved…"),
) -> ShotSolution:
    """What to show until a shot is solved, and why so: a still window in the middle."""
    found, active = analysis.shots[shot], analysis.active
    w, h = window_size(frame.shape, active)
    window = (active[0] + (active[2] - w) / 2, active[1] + (active[3] - h) / 2, w, h)
    axis = 0 if active[2] - w >= active[3] - h else 1
    path = ShotPath(found.start, np.tile(window, (found.frames, 1)), Manner.LOCKED,
                    ((found.start, None),), None, axis)
    return ShotSolution(path, lead, why_so, (), (), FILL, FILL, (path,))
