"""What a person must look at in a shot: lost, clipped, rushed, enlarged."""

from __future__ import annotations

from enum import StrEnum

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.framing.geometry import enlargement
from caracal.core.framing.lead import subjects
from caracal.core.framing.manners import CHASE_CROSSING_FRAMES
from caracal.core.framing.path import ShotPath

ENLARGED_PAST = 2.0  # common practice: 1.78 for 1080x1920 from 1080p is usual, more looks soft
LEAST_SHARE = 0.04  # of the shot: a single cut-off frame in a sprint is nobody's worry
OUTSIDE = 0.5  # of the lead outside the window: lost; less: clipped
CUT_OFF = 0.12  # of a face or a lead that would fit


class FlagKind(StrEnum):
    """The kinds of flags, worst first."""

    LOST = "lost"
    CLIPPED = "clipped"
    RUSHED = "rushed"
    ENLARGED = "enlarged"


class Flag(msgspec.Struct, frozen=True):
    """One thing to look at: its kind, a sentence, and the frames it concerns (end exclusive)."""

    kind: FlagKind
    sentence: str
    start: int
    end: int


def flags_of(
    analysis: Analysis, shot: int, path: ShotPath, canvas: tuple[int, int]
) -> tuple[Flag, ...]:
    """All flags of one shot in one version, worst first."""
    made = [*_lead_flags(analysis, shot, path), *_move_flags(path)]
    x, y, w, h = (float(value) for value in path.windows[0])
    grown = enlargement(canvas, (x, y, w, h))
    if grown > ENLARGED_PAST:
        made.append(Flag(FlagKind.ENLARGED, f"Pixels are blown up {grown:.2f} times.",
                         path.start, path.end))
    return tuple(sorted(made, key=lambda one: list(FlagKind).index(one.kind)))


def _lead_flags(analysis: Analysis, shot: int, path: ShotPath) -> list[Flag]:
    lead = next((one for one in subjects(analysis, shot) if one.id == path.lead), None)
    if lead is None:
        return []
    missing = np.zeros(len(path.windows))
    for i, (x, y, w, h) in enumerate(path.windows):
        box = (lead.face or lead.main).box_at(path.start + i)
        if box is not None:
            across = min(x + w, box[0] + box[2]) - max(x, box[0])
            down = min(y + h, box[1] + box[3]) - max(y, box[1])
            missing[i] = 1 - max(0.0, across) * max(0.0, down) / (
                min(box[2], w) * min(box[3], h))
    made = []
    for kind, bad, sentence in (
        (FlagKind.LOST, missing > OUTSIDE, "The lead is outside the window."),
        (FlagKind.CLIPPED, (missing > CUT_OFF) & (missing <= OUTSIDE),
         "The edge cuts the lead."),
    ):
        if bad.mean() > LEAST_SHARE:
            at = np.nonzero(bad)[0]
            made.append(Flag(kind, sentence, path.start + int(at[0]), path.start + int(at[-1]) + 1))
    return made


def _move_flags(path: ShotPath) -> list[Flag]:
    speed = np.abs(np.diff(path.windows[:, :2], axis=0)).max(axis=1, initial=0.0)
    limit = path.windows[0, 2] / CHASE_CROSSING_FRAMES * 1.05
    if speed.size and float((speed > limit).mean()) > LEAST_SHARE:
        at = np.nonzero(speed > limit)[0]
        return [Flag(FlagKind.RUSHED, "The window moves too fast to watch.",
                     path.start + int(at[0]), path.start + int(at[-1]) + 2)]
    return []
