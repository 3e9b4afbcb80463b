"""How well a drawn film was followed, kept and cut. Used by stress.py."""

from __future__ import annotations

from dataclasses import dataclass, field
from pathlib import Path

import motmetrics
import numpy as np

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import FramingSpec, Shape, keeps, overlap
from caracal.core.framing.path import film_path
from demo.paint import Mark
from demo.script import INES, MIRA, OTTO, TOBIAS, WREN

PEOPLE = (INES, TOBIAS, WREN, OTTO, MIRA)
SHAPES = ("9:16", "4:5", "1:1")


@dataclass
class Drawn:
    """A film on disk and what is true of it."""

    path: Path
    about: str
    marks: list[list[Mark]] = field(default_factory=list)  # by frame, in master pixels
    cuts: list[int] = field(default_factory=list)
    dissolves: list[tuple[int, int]] = field(default_factory=list)


def contained(film: Drawn, analysis: Analysis) -> dict[str, list[bool]]:
    """For each shape and frame with a lead: whether that person's true box is in the window.

    The lead's true identity is whoever it overlaps when it is first well found in the shot: so a
    lead that slips to somebody else counts as lost.
    """
    found: dict[str, list[bool]] = {}
    for name in SHAPES:
        kept = found.setdefault(name, [])
        for shot, path in enumerate(film_path(analysis, FramingSpec(Shape.parse(name)))):
            track = next((track for track in analysis.tracks_in(shot)
                          if track.subject == path.lead and track.kind == "person"), None)
            who = _identity(film, track) if track is not None else None
            for frame in range(path.start, path.end):
                box = next((m.box for m in film.marks[frame] if m.identity == who), None)
                if box is not None:
                    kept.append(keeps(tuple(path.windows[frame - path.start]), box, 0.5))
    return found


def _identity(film: Drawn, track) -> str | None:
    for frame in range(track.first_frame, track.end_frame):
        for mark in film.marks[frame]:
            if overlap(mark.box, track.box_at(frame)) > 0.5:
                return mark.identity
    return None


def followed(film: Drawn, analysis: Analysis, judge: motmetrics.MOTAccumulator, base: int) -> None:
    """Give the outside judge every frame: who was there, who was found, how far apart."""
    people = [track for track in analysis.tracks if track.kind == "person"]
    shots = [*(found_shot.start for found_shot in analysis.shots), analysis.master.frames]
    for frame, marks in enumerate(film.marks):
        shot = int(np.searchsorted(shots, frame, side="right"))
        true = [m for m in marks if m.box[2] * m.box[3] > 0]
        mine = [(person.id, person.box_at(frame)) for person in people if person.box_at(frame)]
        apart = np.full((len(true), len(mine)), np.nan)
        for i, mark in enumerate(true):
            for j, (_, box) in enumerate(mine):
                shared = overlap(mark.box, box)
                if shared >= 0.5:
                    apart[i, j] = 1 - shared
        # An identity is asked for within a shot: across cuts it is another matter.
        names = [who.name for who in PEOPLE]
        judge.update([base * 10000 + shot * 100 + names.index(m.identity) for m in true],
                     [base * 10000 + number for number, _ in mine], apart)


def f1(right: int, found: int, true: int) -> float:
    """The harmonic mean of precision and recall; 1 when there is nothing to find."""
    return 2 * right / (found + true) if found + true else 1.0


def _judged(judge: motmetrics.MOTAccumulator) -> dict[str, float]:
    table = motmetrics.metrics.create().compute(
        judge, metrics=["idf1", "mota", "num_switches"], name="all")
    return {name: float(table[name].iloc[0]) for name in table.columns}
