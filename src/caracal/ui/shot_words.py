"""What the window says of one shot in one version."""

from __future__ import annotations

from collections.abc import Container
from dataclasses import dataclass

from caracal.core.framing.flags import Flag
from caracal.core.framing.lead import Subject
from caracal.core.framing.shot_solution import ShotSolution


@dataclass(frozen=True)
class ShotWords:
    """A shot's lead, the reason of its path, its flags, and those a person accepted.

    ``left_out`` is the lead and those of its worth that the window cannot show, too.
    """

    lead: str
    why: str
    flags: tuple[Flag, ...]
    accepted: tuple[Flag, ...]
    left_out: tuple[Subject, ...]


def shot_words(solution: ShotSolution, accepted: Container[str]) -> ShotWords:
    """What is said of ``solution``; flags of the kinds ``accepted`` are said apart."""
    return ShotWords(solution.lead, solution.why,
                     tuple(flag for flag in solution.flags if flag.kind not in accepted),
                     tuple(flag for flag in solution.flags if flag.kind in accepted),
                     solution.left_out)
