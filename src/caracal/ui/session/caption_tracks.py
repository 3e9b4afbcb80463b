"""The captions of an open film's versions, set for the screen: in the places they have in files."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable
from typing import Protocol

from caracal.core.analysis.model import Analysis
from caracal.core.base.errors import CaracalError
from caracal.core.framing.shot_solution import ShotSolution
from caracal.core.layout.model import Canvas
from caracal.core.project.model import Project
from caracal.core.project.recipe import recipe_of
from caracal.core.render.captions.placement import caption_places, film_track, standing
from caracal.core.render.layers import TextLayer
from caracal.core.render.painters.titles import layer_of
from caracal.core.render.shown_shots import ShownShot
from caracal.core.specs.sheet import SpecSheet
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.caption_track import CaptionTrack, Stands
from caracal.core.text.cues import Cue

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
    """Sets the captions of a shot in a version when somebody looks, and finds their place in it.

    An hour has more than a thousand captions: all of them at once would hold the window.
    """

    def __init__(self) -> None:
        self._tracks: dict[tuple[str, int], tuple[object, CaptionTrack | None]] = {}
        self._stands: dict[
            tuple[str, int], tuple[CaptionTrack, ShotSolution, Stands]] = {}
        self.problem = ""  # why captions cannot be shown

    def track(self, film: Film, letter: str, shot: int) -> CaptionTrack | None:
        """The captions of a shot in a version, in the film's frames; None where none are in its
        picture.
        """
        project, sheet = film.project, film.sheet(letter)
        version = project.version(letter)
        cues = _cues_of(project.captions, film.analysis, shot)
        now = (cues, version.look, version.burnt, sheet.name, sheet.canvas)
        held = self._tracks.get((letter, shot))
        if held is None or held[0] != now:
            burns = bool(cues) and recipe_of(project, letter, sheet).burns
            held = (now, self._set(film, version.look, cues, sheet) if burns else None)
            self._tracks[letter, shot] = held
        return held[1]

    def _set(
        self, film: Film, look: CaptionLook, cues: tuple[Cue, ...], sheet: SpecSheet
    ) -> CaptionTrack | None:
        try:
            found = film_track(cues, look, sheet, film.analysis.master)
            self.problem = ""
            return found
        except CaracalError as problem:
            self.problem = problem.sentence()
            return None

    def at(self, film: Film, letter: str, frame: int, solution: ShotSolution) -> CaptionAt:
        """What is seen of a version's captions at ``frame``, on a canvas of any size."""
        def layer(canvas: Canvas) -> TextLayer | None:
            shot = film.analysis.shot_at(frame)
            track = self.track(film, letter, shot)
            caption = None if track is None else track.at(frame)
            if track is None or caption is None:
                return None
            stands = self.stands(film, track, letter, shot, solution)
            return layer_of(track, standing(caption, stands[caption.look]), frame, canvas)

        return layer

    def stands(
        self, film: Film, track: CaptionTrack, letter: str, shot: int, solution: ShotSolution
    ) -> Stands:
        """Where captions of each look stand in a shot."""
        held = self._stands.get((letter, shot))
        if held is None or held[0] is not track or held[1] is not solution:
            shown = ShownShot(shot, solution.placed, solution.panes)
            places = caption_places(film.analysis, track, [shown], film.sheet(letter).canvas)
            held = self._stands[letter, shot] = (track, solution, places[0][1])
        return held[2]


def _cues_of(cues: tuple[Cue, ...], analysis: Analysis, shot: int) -> tuple[Cue, ...]:
    """Those of ``cues``, which are in order, that are seen in a shot."""
    span, rate = analysis.shots[shot], float(analysis.master.rate)
    end = bisect_left(cues, span.end / rate, key=lambda cue: cue.start_s)
    first = bisect_left(cues, span.start / rate, key=lambda cue: cue.start_s)
    while first > 0 and cues[first - 1].end_s > span.start / rate:
        first -= 1
    return cues[first:end]
