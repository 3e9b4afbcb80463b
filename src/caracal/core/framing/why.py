"""One sentence a shot: why the window does what it does."""

from __future__ import annotations

from caracal.core.analysis.model import Analysis
from caracal.core.framing.lead import subjects
from caracal.core.framing.motion import Manner
from caracal.core.framing.path import ShotPath


def lead_name(analysis: Analysis, shot: int, lead: int | None) -> str:
    """``person 2``, ``dog 1``: the kind of the lead and its number from left to right."""
    if lead is None:
        return "no lead"
    everyone = subjects(analysis, shot)
    found = next((one for one in everyone if one.id == lead), None)
    if found is None:
        return "no lead"
    same = sorted((one for one in everyone if one.kind == found.kind),
                  key=lambda one: one.main.boxes[0][0])
    return found.kind if len(same) == 1 else f"{found.kind} {same.index(found) + 1}"


def why(analysis: Analysis, shot: int, path: ShotPath) -> str:
    """Why the window of ``path`` rests or moves."""
    name = lead_name(analysis, shot, path.lead)
    name = name if name[-1].isdigit() else f"the {name}"
    if path.manner is Manner.BY_HAND:
        return "Follows your keyframes."
    if path.lead is None:
        return "Nobody leads: rests on the most telling part."
    if path.manner is Manner.LOCKED:
        return f"One still window keeps {name} throughout."
    if path.manner is Manner.GLIDE:
        return f"Glides slowly: a still window would lose {name}."
    return f"Keeps up with {name}: too quick for a glide."
