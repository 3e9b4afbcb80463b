"""The Board's order: film order or worst first; all shots, those with issues, the edited."""

from __future__ import annotations

from collections.abc import Callable
from enum import StrEnum

from caracal.core.base.translation import mark
from caracal.core.framing.flags import Flag
from caracal.core.project.model import Project

FlagsOf = Callable[[str, int], tuple[Flag, ...]]


class Order(StrEnum):
    """How the tiles of the Board are sorted."""

    FILM = mark("film order")
    WORST = mark("worst first")


class Filter(StrEnum):
    """Which tiles of the Board are shown."""

    ALL = mark("all shots")
    FLAGGED = mark("with issues")
    TOUCHED = mark("edited")


def arranged(
    project: Project, shots: int, order: Order, only: Filter, flags: FlagsOf
) -> tuple[int, ...]:
    """Numbers of the shots to show, in order; ``flags`` of a version's letter and a shot."""
    letters = [version.letter for version in project.versions]
    kept = [shot for shot in range(shots) if only is Filter.ALL
            or (only is Filter.FLAGGED and any(flags(letter, shot) for letter in letters))
            or (only is Filter.TOUCHED
                and any(project.choice(letter, shot).touched for letter in letters))]
    if order is Order.WORST:
        kept.sort(key=lambda shot: (-_badness(letters, shot, flags), shot))
    return tuple(kept)


def _badness(letters: list[str], shot: int, flags: FlagsOf) -> float:
    return sum(flag.severity for letter in letters for flag in flags(letter, shot))
