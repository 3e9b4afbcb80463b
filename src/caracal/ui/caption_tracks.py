"""The captions of an open film's versions, set for the screen: in the places they have in files."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from caracal.core.analysis.model import Analysis
from caracal.core.errors import CaracalError
from caracal.core.framing.shot_solution import ShotSolution
from caracal.core.layout.model import Canvas
from caracal.core.project.model import Project
from caracal.core.project.recipe import recipe_of
from caracal.core.render.caption_places import ShownShot, caption_places, film_track
from caracal.core.render.layers import TextLayer
from caracal.core.render.titles import layer_of
from caracal.core.specs.sheet import SpecSheet
from caracal.core.text.captions import CaptionPlace, CaptionTrack

CaptionAt = Callable[[Canvas], TextLayer | None]


class Film(Protocol):
    """What of an open film captions are set for."""

    analysis: Analysis

    @property
    def project(self) -> Project:
        """What was decided."""
        ...

    def sheet(self, letter: str) -> SpecSheet:
        """The spec sheet of a version."""
        ...


class CaptionTracks:
    """Sets a version's captions once, and finds their place in a shot once it was solved."""

    def __init__(self) -> None:
        self._tracks: dict[str, tuple[object, CaptionTrack | None]] = {}
        self._places: dict[
            tuple[str, int], tuple[CaptionTrack, ShotSolution, CaptionPlace]] = {}
        self.problem = ""  # why captions cannot be shown

    def track(
        self, project: Project, letter: str, analysis: Analysis, sheet: SpecSheet
    ) -> CaptionTrack | None:
        """All captions of a version in the film's frames; None where none are in its picture."""
        version = project.version(letter)
        now = (project.captions, version.look, version.burnt, sheet.name, sheet.canvas)
        held = self._tracks.get(letter)
        if held is None or held[0] != now:
            held = (now, self._set(project, letter, analysis, sheet))
            self._tracks[letter] = held
        return held[1]

    def _set(
        self, project: Project, letter: str, analysis: Analysis, sheet: SpecSheet
    ) -> CaptionTrack | None:
        if not recipe_of(project, letter, sheet).burns:
            return None
        try:
            found = film_track(project.captions, project.version(letter).look, sheet,
                               analysis.master)
            self.problem = ""
            return found
        except CaracalError as problem:
            self.problem = problem.sentence()
            return None

    def at(self, film: Film, letter: str, frame: int, solution: ShotSolution) -> CaptionAt:
        """What is seen of a version's captions at ``frame``, on a canvas of any size."""
        def layer(canvas: Canvas) -> TextLayer | None:
            sheet = film.sheet(letter)
            track = self.track(film.project, letter, film.analysis, sheet)
            caption = None if track is None else track.at(frame)
            if track is None or caption is None:
                return None
            shot = film.analysis.shot_at(frame)
            place = self.place(track, letter, shot, film.analysis, sheet, solution)
            return layer_of(track, caption, place, frame, canvas)

        return layer

    def place(
        self, track: CaptionTrack, letter: str, shot: int, analysis: Analysis, sheet: SpecSheet,
        solution: ShotSolution,
    ) -> CaptionPlace:
        """Where captions stand in a shot."""
        held = self._places.get((letter, shot))
        if held is None or held[0] is not track or held[1] is not solution:
            shown = ShownShot(shot, solution.placed, solution.panes)
            places = caption_places(analysis, track, [shown], sheet.canvas)
            held = self._places[letter, shot] = (track, solution, places[0][1])
        return held[2]
