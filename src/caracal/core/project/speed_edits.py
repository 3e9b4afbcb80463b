"""Stretches of the film that a version shows at another speed."""

from __future__ import annotations

from caracal.core.base.time import FrameRange
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Project


def speed_at(project: Project, letter: str, frame: int) -> FrameRange | None:
    """The stretch of version ``letter`` at ``frame`` that has a speed of its own; None: none."""
    return next((speed for speed in project.version(letter).speeds
                 if speed.start <= frame < speed.end_exclusive), None)


def with_speed(project: Project, letter: str, speed: FrameRange) -> Project:
    """Version ``letter`` with the frames of ``speed`` at its pace; at 100 % they have their own.

    What other stretches have of them goes.
    """
    made: list[FrameRange] = []
    for other in project.version(letter).speeds:
        for part in (other.within(0, speed.start), other.within(speed.end_exclusive,
                                                                other.end_exclusive)):
            if part is not None:
                made.append(part)
    if speed.percent != 100:
        made.append(speed)
    made.sort(key=lambda each: each.start)
    return changed_version(project, letter, speeds=tuple(made))
