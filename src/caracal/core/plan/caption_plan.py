"""The captions of a version, set for each of its files."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from caracal.core.analysis.model import Analysis
from caracal.core.base.timeline import Timeline
from caracal.core.base.work import Check, unchecked
from caracal.core.project.recipe import Recipe
from caracal.core.render.captions.placement import caption_area, caption_places, film_track
from caracal.core.render.shown_shots import ShownShot
from caracal.core.text.caption_track import CaptionTrack, Places
from caracal.core.text.captions import Stage, set_captions
from caracal.core.text.cues import Cue, cues_in


class CaptionSetter:
    """Sets the captions of one version for its files."""

    def __init__(
        self, analysis: Analysis, recipe: Recipe, shots: Sequence[ShownShot],
        check: Check = unchecked,
    ) -> None:
        """``check`` is called again and again, and may raise to stop."""
        self._check = check
        self._recipe, self._rate = recipe, analysis.master.rate
        self._places: Places = ()
        if recipe.burns:
            track = film_track(recipe.captions, recipe.look, recipe.sheet, analysis.master, check)
            self._places = caption_places(analysis, track, shots, recipe.sheet.canvas, check)

    def burnt(self, line: Timeline) -> CaptionTrack | None:
        """What is laid over the frames of a file that shows ``line``; None: nothing."""
        if not self._recipe.burns:
            return None
        stage = Stage(self._recipe.sheet.canvas, caption_area(self._recipe.sheet),
                      Fraction(line.rate))
        return set_captions(self._recipe.captions, self._recipe.look, stage, line.ranges,
                            self._rate, self._places, float(line.opening / self._rate),
                            self._check)

    def sidecar(self, line: Timeline) -> tuple[Cue, ...]:
        """The cues that come beside such a file, in its time."""
        if not self._recipe.sidecar:
            return ()
        return cues_in(self._recipe.captions, line.ranges, self._rate,
                       float(line.opening / self._rate))
