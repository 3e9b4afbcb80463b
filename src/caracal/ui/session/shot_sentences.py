"""What the window says of one shot in one version."""

from __future__ import annotations

from dataclasses import dataclass

from caracal.core.analysis.model import Analysis
from caracal.core.base.identity import Same
from caracal.core.base.translation import tr
from caracal.core.framing.flags import Flag
from caracal.core.framing.layout_suggestion import suggested_layout
from caracal.core.framing.lead import Subject
from caracal.core.framing.overlay_flags import overlay_flag
from caracal.core.framing.shot_solution import ShotSolution
from caracal.core.layout.kinds import Kind
from caracal.core.project.model import Project
from caracal.core.project.text_replacement import without_covered


@dataclass(frozen=True)
class ShotWords:
    """A shot's lead, the reason of its path, its flags, and those a person accepted.

    ``left_out`` is the lead and those of its worth that the window cannot show, too. ``offered`` is
    the layout that would show what is lost, if any.
    """

    lead: str
    why: str
    flags: tuple[Flag, ...]
    accepted: tuple[Flag, ...]
    left_out: tuple[Subject, ...]
    offered: Kind | None = None


class ShotSentences:
    """What is said of shots; whether overlays hide somebody is worked out once for each."""

    def __init__(self) -> None:
        self._hidden: dict[tuple[str, int], tuple[object, Flag | None]] = {}

    def of(
        self, analysis: Analysis, letter: str, shot: int, solution: ShotSolution, project: Project
    ) -> ShotWords:
        """What is said of ``shot`` in version ``letter``; accepted flags are said apart."""
        accepted = project.accepted_kinds(letter, shot)
        overlays = project.version(letter).overlays
        flags = without_covered(solution.flags, analysis, shot,
                                project.version(letter).redactions)
        if overlays:
            now = (Same(solution), Same(analysis), overlays)
            kept = self._hidden.get((letter, shot))
            if kept is None or kept[0] != now:
                kept = (now, overlay_flag(analysis, shot, solution, overlays))
                self._hidden[letter, shot] = kept
            if kept[1] is not None:
                flags = tuple(sorted((*flags, kept[1]), key=lambda flag: -flag.severity))
        why = solution.why + self._speeds(analysis, letter, shot, project)
        left = tuple(flag for flag in flags if flag.kind not in accepted)
        return ShotWords(solution.lead, why, left,
                         tuple(flag for flag in flags if flag.kind in accepted),
                         solution.left_out, suggested_layout(
                             project.choice(letter, shot).layout, left, solution.left_out,
                             solution.fits_banner))

    @staticmethod
    def _speeds(analysis: Analysis, letter: str, shot: int, project: Project) -> str:
        """That a shot, or a part of it, is shown at another speed than its own."""
        here, made = analysis.shots[shot], []
        for speed in project.version(letter).speeds:
            inside = speed.within(here.start, here.end)
            if inside is not None:
                part = "" if len(inside) == here.frames else tr(" in part")
                made.append(tr(" Shown{part} at {percent} % of its speed.", part=part,
                               percent=speed.percent))
        return "".join(made)
