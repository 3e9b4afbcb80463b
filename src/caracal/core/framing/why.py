"""One sentence a shot: why the window does what it does, and what the other manners would cost."""

from __future__ import annotations

from collections.abc import Callable

import msgspec
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box
from caracal.core.base.translation import counted, tr
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.demand import extents
from caracal.core.framing.flags import essential_boxes, larger_than_window
from caracal.core.framing.lead import Subject, subjects
from caracal.core.framing.motion import Manner
from caracal.core.framing.path import ShotPath

SEEN_TRAVEL = 0.05  # widths of the window: less is no movement to speak of
SEEN_LOSS = 0.06  # of the frames with the whole lead: less is no difference to speak of
SEEN_CLOSER = 1.05  # zoom: less is no coming closer to speak of
THROUGHOUT = 0.98  # of the frames
MOSTLY = 0.5  # of the frames: what is said of a shot holds in more than half of it
MOVING_MANNERS = (Manner.LOCKED, Manner.GLIDE, Manner.CHASE)


class Alternative(msgspec.Struct, frozen=True):
    """A manner that was rejected, and its path.

    ``kept`` is the share of frames in which the whole lead lies in the window (along both axes),
    ``travel`` how far the window moves in all, in widths of the window.
    """

    manner: Manner
    path: ShotPath
    kept: float
    travel: float

    def sentence(self) -> str:
        """What this manner would cost, in a sentence for people."""
        if self.kept < 0.995:
            return tr("{manner} (the whole lead in {kept:.0%} of frames)", manner=tr(self.manner),
                      kept=self.kept)
        return tr("{manner} (moves {travel:.1f} widths)", manner=tr(self.manner),
                  travel=self.travel)


def alternatives(
    analysis: Analysis, shot: int, choice: ShotChoice, solve: Callable[[ShotChoice], ShotPath]
) -> tuple[Alternative, ...]:
    """The manners whose paths differ from that of ``choice``, calmest first; none without a lead.

    ``solve`` gives the path of a choice for this shot and version.
    """
    now = solve(choice)
    if now.lead is None or choice.swaps:
        return ()
    made, kept_now = [], kept_share(analysis, shot, now)
    for manner in MOVING_MANNERS:
        if manner is now.manner:
            continue
        path = solve(msgspec.structs.replace(choice, manner=manner))
        moved = float(np.abs(np.diff(path.windows[:, :2], axis=0)).sum() / path.windows[0, 2])
        kept = kept_share(analysis, shot, path)
        worse = kept < min(0.995, kept_now - SEEN_LOSS)
        if moved > SEEN_TRAVEL or worse:  # else it is as good: nothing was rejected
            made.append(Alternative(manner, path, kept, moved))
    return tuple(made)


def kept_share(analysis: Analysis, shot: int, path: ShotPath, essential: bool = False) -> float:
    """Share of the frames with a lead in which it lies in the window, or covers it if larger.

    With ``essential`` only its face is asked for, where it has one.
    """
    everyone = {subject.id: subject for subject in subjects(analysis, shot)}
    found = msgspec.structs.replace(analysis.shots[shot], start=path.start, end=path.end)
    good = np.ones(found.frames, np.bool_)
    asked = np.zeros(found.frames, np.bool_)
    for axis in (0, 1):
        rows = extents(found, lambda frame: _lead_box(everyone, path, frame, essential), axis)
        near, size = path.windows[:, axis], path.windows[:, axis + 2]
        low, high = rows[:, 0], rows[:, 1]
        fits = high - low <= size
        asked |= ~np.isnan(low)
        inside = (low >= near - 1) & (high <= near + size + 1)
        covers = (low <= near + 1) & (high >= near + size - 1)
        good &= np.where(fits, inside, covers)
    return float(good[asked].mean()) if asked.any() else 1.0


def _lead_box(
    everyone: dict[int, Subject], path: ShotPath, frame: int, essential: bool
) -> Box | None:
    number = path.lead_at(frame)
    lead = everyone.get(number) if number is not None else None
    if lead is None:
        return None
    return lead.essential_box_at(frame) if essential else lead.box_at(frame)


def lead_name(analysis: Analysis, shot: int, lead: int | None) -> str:
    """``person 2``, ``dog 1``: the kind of the lead and its number from left to right."""
    return tr("no lead") if lead is None else name_among(subjects(analysis, shot), lead)


def name_among(everyone: tuple[Subject, ...], lead: int) -> str:
    """The same, where everybody in the shot is known already."""
    found = next((subject for subject in everyone if subject.id == lead), None)
    if found is None:
        return tr("no lead")
    same = sorted((subject for subject in everyone if subject.kind == found.kind),
                  key=lambda subject: subject.main.boxes[0][0])
    kind = tr(found.kind)
    return kind if len(same) == 1 else f"{kind} {same.index(found) + 1}"


def why(analysis: Analysis, shot: int, path: ShotPath) -> str:
    """Why the window of ``path`` rests or moves."""
    count = len(path.punches)
    punched = counted(count, " Punches in once.", " Punches in {count} times.")
    return _why(analysis, shot, path) + (punched if count else "")


def _why(analysis: Analysis, shot: int, path: ShotPath) -> str:
    name = lead_name(analysis, shot, path.lead)
    name = name if name[-1].isdigit() else tr("the {name}", name=name)
    if path.manner is Manner.BY_HAND:
        return tr("Follows your keyframes.")
    if len(path.leads) > 1:
        others = [lead_name(analysis, shot, number) for _, number in path.leads[1:]]
        return tr("Cuts from {name} to {others}; both do not fit.", name=name,
                  others=tr(", then ").join(others))
    if path.lead is None:
        return tr("No lead found; the crop stays on the busiest area.")
    closer = tr(" Comes {closer:.1f} times closer to show it well.", closer=path.closer) if (
        path.closer > SEEN_CLOSER) else ""
    return _with_lead(analysis, shot, path, name) + closer


def _with_lead(analysis: Analysis, shot: int, path: ShotPath, name: str) -> str:
    """What the window does with its lead; it claims no more than holds."""
    seen = essential_boxes(analysis, shot, path)
    there = np.array([essential is not None for essential in seen])
    if larger_than_window(seen, path).sum() > MOSTLY * there.sum():
        how = tr("Stays on") if path.manner is Manner.LOCKED else tr("Moves with")
        return tr("{how} the middle of {name}; the whole does not fit.", how=how, name=name)
    if path.manner is Manner.LOCKED:
        kept = kept_share(analysis, shot, path, essential=True)
        often = (tr("throughout") if kept >= THROUGHOUT
                 else tr("in {kept:.0%} of the frames", kept=kept))
        return tr("Locked: keeps {name} {often}.", name=name, often=often)
    if path.outrun:
        return tr("Keeps {name} as long as possible; it is too quick to follow.", name=name)
    if path.manner is Manner.GLIDE:
        return tr("Glides slowly; a locked crop would lose {name}.", name=name)
    return tr("Chases {name}; it is too quick for a glide.", name=name)
