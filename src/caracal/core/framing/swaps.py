"""Swaps: where the window jumps between two who cannot both fit, so that it shows who speaks."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import PEAKS_A_SECOND, Analysis
from caracal.core.framing.choice import Swap
from caracal.core.framing.lead import COMPANY_SCORE, Subject, subjects
from caracal.core.framing.path import ShotPath

Activity = NDArray[np.float64]

LOUD = 0.18  # of the shot's loudest tenth of a second: speech, not room
SURE = 1.35  # the speaker's mouth moves this many times more than the others'
SHORTEST_S = 1.0  # between two jumps: quicker ones are restless


def left_out(analysis: Analysis, shot: int, path: ShotPath) -> tuple[Subject, ...]:
    """The lead and those of about its worth whose faces the window leaves out; none if all fit."""
    everyone = subjects(analysis, shot)
    lead = next((subject for subject in everyone if subject.id == path.lead), None)
    if lead is None or lead.face is None:
        return ()
    outside = [subject for subject in everyone if subject.face is not None and subject.id != lead.id
               and subject.score >= COMPANY_SCORE * lead.score and not _shown(subject, path)]
    return (lead, *outside) if outside else ()


def _shown(subject: Subject, path: ShotPath) -> bool:
    """Whether the middle of the face is in the window in half of its frames."""
    assert subject.face is not None
    inside = 0
    for i, box in enumerate(subject.face.boxes):
        row = path.windows[min(max(subject.face.first_frame + i - path.start, 0),
                               len(path.windows) - 1)]
        inside += bool(row[0] <= box[0] + box[2] / 2 <= row[0] + row[2])
    return inside * 2 >= len(subject.face.boxes)


def proposed_swaps(
    analysis: Analysis, shot: int, speakers: list[int], activity: Activity
) -> tuple[int, tuple[Swap, ...]]:
    """(who leads first, jumps) so that the window shows whoever of ``speakers`` (ids) speaks.

    ``activity`` (frames, speakers) says how much each moves the mouth.

    Jumps are set in the pauses between speakers, else where the mouths change sides.
    """
    found, rate = analysis.shots[shot], float(analysis.master.rate)
    loud = _loudness(analysis, found.start, found.end)
    speaking = loud > LOUD * max(float(loud.max(initial=0.0)), 1e-6)
    ordered = np.sort(activity, axis=1)
    sure = (ordered[:, -1] > SURE * ordered[:, -2] + 1e-9) & speaking
    who = np.where(sure, activity.argmax(axis=1), -1)
    runs = _runs(who)
    kept = [run for run in runs if run[2] >= 0 and run[1] - run[0] >= SHORTEST_S * rate / 2]
    if not kept:
        return speakers[0], ()
    first, swaps = kept[0][2], []
    last_end, last_who, last_jump = kept[0][1], kept[0][2], 0
    for begin, end, number in kept[1:]:
        if number != last_who and begin - last_jump >= SHORTEST_S * rate:
            jump = _pause(loud, last_end, begin)
            swaps.append(Swap(found.start + jump, speakers[number]))
            last_who, last_jump = number, jump
        last_end = end
    return speakers[first], tuple(swaps)


def _loudness(analysis: Analysis, start: int, end: int) -> Activity:
    peaks = np.asarray(analysis.sound.peaks or (0.0,))
    at = np.arange(start, end) / float(analysis.master.rate) * PEAKS_A_SECOND
    return np.asarray(np.interp(at, np.arange(len(peaks)) + 0.5, peaks))


def _runs(values: NDArray[np.int_]) -> list[tuple[int, int, int]]:
    """(begin, end, value) of the runs of equal values."""
    edges = [0, *(np.nonzero(np.diff(values))[0] + 1).tolist(), len(values)]
    return [(a, b, int(values[a])) for a, b in pairwise(edges)]


def _pause(loud: Activity, end: int, begin: int) -> int:
    """The quietest frame between two speakers, nearest to the second's first word."""
    if begin <= end:
        return begin
    part = loud[end : begin + 1]
    quiet = np.nonzero(part <= part.min() + 1e-3)[0]
    return end + int(quiet[-1])
