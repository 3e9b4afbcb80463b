"""Whether captions from a file seem to belong to another film."""

from __future__ import annotations

from collections.abc import Sequence

from caracal.core.analysis.model import PEAKS_A_SECOND, Analysis
from caracal.core.base.time import short_time
from caracal.core.base.translation import tr
from caracal.core.text.cues import Cue

QUIET = 0.02  # of full scale: a loudest sample below is no speech
MOST_SILENT = 0.5  # of the captions may stand where the film is silent
FEWEST = 4  # captions, before silence says anything


def captions_doubt(cues: Sequence[Cue], analysis: Analysis) -> str:
    """Why ``cues`` may not be captions of the analysed film, in a sentence; or nothing."""
    if not analysis.whole:
        return ""
    film_s = float(analysis.master.frames / analysis.master.rate)
    outside = sum(cue.start_s >= film_s for cue in cues)
    if outside:
        return tr("{outside} of {count} captions start after the end of the film ({length}).",
                  outside=outside, count=len(cues), length=short_time(film_s))
    peaks = analysis.sound.peaks
    if len(cues) < FEWEST or max(peaks, default=0.0) < QUIET:
        return ""
    silent = sum(_loudest(peaks, cue) < QUIET for cue in cues)
    if silent > MOST_SILENT * len(cues):
        return tr("The film is silent at the times of {silent} of {count} captions.",
                  silent=silent, count=len(cues))
    return ""


def _loudest(peaks: Sequence[float], cue: Cue) -> float:
    first = int(cue.start_s * PEAKS_A_SECOND)
    return max(peaks[first : max(first + 1, int(cue.end_s * PEAKS_A_SECOND))], default=0.0)
