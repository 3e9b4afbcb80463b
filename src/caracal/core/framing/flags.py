"""What a person must look at in a shot, with its frames, how bad it is, and one sentence."""

from __future__ import annotations

from enum import StrEnum

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.model import Analysis
from caracal.core.base.geometry import Box, enlargement, region_in_window, shared_area
from caracal.core.base.translation import mark, tr
from caracal.core.framing.lead import Subject, subjects
from caracal.core.framing.motion import Motion
from caracal.core.framing.path import STANDARD, ShotPath
from caracal.core.specs.sheet import SpecSheet

LEAST_SHARE = 0.04  # of the shot: a single cut-off frame in a sprint is nobody's worry
OUTSIDE = 0.5  # of the lead outside the window: lost; less: clipped
CUT_OFF = 0.12  # of a face or a lead that would fit
COVERED = 0.25  # of the lead's face under a cover
COVERED_WHOLE = 0.5  # of a lead without a face: feet and paws may lie there
COVERED_SHARE = 0.25  # of the shot: a face may pass under a button
ROUNDING = 1e-6  # a window may come as close as the limit
TOO_WIDE = 1.02  # times the window: less may be the box's own air
WIDER = (("4:5", 0.8), ("1:1", 1.0), ("16:9", 16 / 9))  # shapes that hold more, narrowest first
WORDS_CUT = 0.03  # of a line's width outside: found boxes have air at their ends

Flags = NDArray[np.bool_]
EssentialBoxes = list[tuple[Subject, Box] | None]  # by frame: the lead, and what must be seen of it


class FlagKind(StrEnum):
    """The kinds of flags, worst first."""

    LOST = mark("lost")
    CLIPPED = mark("clipped")
    TEXT_CUT = mark("text cut")
    TOO_CLOSE = mark("too close")
    COVERED = mark("covered")
    RUSHED = mark("rushed")
    ENLARGED = mark("enlarged")


class Flag(msgspec.Struct, frozen=True):
    """One thing to look at: its kind, a sentence, the frames it concerns (end exclusive).

    ``severity`` 0..1 is the share of the shot it concerns times the weight of its kind.
    """

    kind: FlagKind
    sentence: str
    start: int
    end: int
    severity: float


WEIGHTS = {FlagKind.LOST: 1.0, FlagKind.CLIPPED: 0.8, FlagKind.TEXT_CUT: 0.7,
           FlagKind.TOO_CLOSE: 0.6, FlagKind.COVERED: 0.5, FlagKind.RUSHED: 0.5,
           FlagKind.ENLARGED: 0.3}


def flags_of(
    analysis: Analysis, shot: int, path: ShotPath, sheet: SpecSheet, motion: Motion = STANDARD,
    lost: tuple[tuple[int, int], ...] = (),
) -> tuple[Flag, ...]:
    """All flags of one shot in one version, worst first.

    ``lost`` are frames [first, end) in which a drawn lead was not found.
    """
    seen = essential_boxes(analysis, shot, path)
    missing, covered = _lead_trouble(seen, path, sheet)
    gone = np.array([any(a <= path.start + i < b for a, b in lost)
                     for i in range(len(path.windows))])
    found = [
        (FlagKind.LOST, tr("What you drew a box around was lost; the crop holds."), gone,
         LEAST_SHARE),
        (FlagKind.LOST, tr("The lead is outside the crop."), missing > OUTSIDE, LEAST_SHARE),
        (FlagKind.CLIPPED, tr("The edge cuts the lead."),
         (missing > CUT_OFF) & (missing <= OUTSIDE), LEAST_SHARE),
        (FlagKind.COVERED, tr("The destination's own interface covers the lead's face."),
         covered > COVERED, COVERED_SHARE),
        (FlagKind.TEXT_CUT, tr("The edge cuts words in the picture."),
         _words_cut(analysis, shot, path), LEAST_SHARE),
        (FlagKind.RUSHED, tr("The crop moves too fast to watch."), _rushed(path, motion),
         LEAST_SHARE),
    ]
    if path.outrun:
        found.append((FlagKind.RUSHED,
                      tr("The lead is too quick: no watchable move keeps it throughout."),
                      missing > CUT_OFF, 0.0))
    made = [_flag(kind, sentence, bad, path.start)
            for kind, sentence, bad, least in found if bad.mean() > least]
    close = _too_close(seen, path)
    if close is not None:
        made.append(close)
    canvas = sheet.frame.turned(path.finish.quarter_turns).canvas or sheet.canvas
    grown = max(enlargement(canvas, _window(row)) for row in path.windows)
    if grown > motion.enlarged_past + ROUNDING:
        made.append(Flag(FlagKind.ENLARGED,
                         tr("Pixels are enlarged {grown:.2f} times.", grown=grown), path.start,
                         path.end, WEIGHTS[FlagKind.ENLARGED]))
    return tuple(sorted(made, key=lambda flag: (-flag.severity, list(FlagKind).index(flag.kind))))


def essential_boxes(analysis: Analysis, shot: int, path: ShotPath) -> EssentialBoxes:
    """For each frame of ``path`` the lead and what must be seen of it, or None."""
    everyone = {subject.id: subject for subject in subjects(analysis, shot)}
    found: EssentialBoxes = []
    for frame in range(path.start, path.end):
        number = path.lead_at(frame)
        lead = everyone.get(number) if number is not None else None
        box = lead.essential_box_at(frame) if lead is not None else None
        found.append(None if lead is None or box is None else (lead, box))
    return found


def larger_than_window(seen: EssentialBoxes, path: ShotPath) -> Flags:
    """The frames (n,) in which what must be seen is larger than the window."""
    return np.array([each is not None and (each[1][2] > row[2] * TOO_WIDE
                                           or each[1][3] > row[3] * TOO_WIDE)
                     for each, row in zip(seen, path.windows, strict=True)], np.bool_)


def _too_close(seen: EssentialBoxes, path: ShotPath) -> Flag | None:
    """That the lead's face, or a lead without one, is larger than the window."""
    bad = larger_than_window(seen, path)
    if bad.mean() <= LEAST_SHARE:
        return None
    there = [(*each, row) for each, row in zip(seen, path.windows, strict=True)
             if each is not None]
    ratio = max(box[2] / row[3] for _, box, row in there)
    cut = [1 - shared_area(_window(row), each[1]) / (each[1][2] * each[1][3])
           for each, row, close in zip(seen, path.windows, bad, strict=True)
           if close and each is not None]
    name = tr("face" if there[0][0].face is not None else there[0][0].kind)
    now = path.windows[0, 2] / path.windows[0, 3]
    holds = next((shape for shape, wide in WIDER if wide >= ratio and wide > now), None)
    help_ = (tr("The shape {holds} would hold it.", holds=holds) if holds
             else tr("A wider shape cuts less of it."))
    return _flag(FlagKind.TOO_CLOSE,
                 tr("{mean:.0%} of the {name} is cropped. {help}",
                    name=name, mean=float(np.mean(cut)), help=help_), bad, path.start)


def _flag(kind: FlagKind, sentence: str, bad: Flags, start: int) -> Flag:
    at = np.nonzero(bad)[0]
    return Flag(kind, sentence, start + int(at[0]), start + int(at[-1]) + 1,
                round(float(bad.mean()) * WEIGHTS[kind], 4))


def _window(row: NDArray[np.float64]) -> Box:
    x, y, w, h = (float(value) for value in row)
    return (x, y, w, h)


def _lead_trouble(
    seen: EssentialBoxes, path: ShotPath, sheet: SpecSheet
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """For each frame the share of the lead outside the window, and of its face under covers."""
    missing, covered = np.zeros(len(path.windows)), np.zeros(len(path.windows))
    covers = [region_in_window(zone.part, path.finish.quarter_turns) for zone in sheet.covers]
    for i, (each, row) in enumerate(zip(seen, path.windows, strict=True)):
        if each is None:
            continue
        lead, box = each
        window = _window(row)
        fits = min(box[2], window[2]) * min(box[3], window[3])
        missing[i] = 1 - shared_area(window, box) / fits
        for (left, right), (top, bottom) in covers:
            x, y, w, h = window
            place = (x + left * w, y + top * h, (right - left) * w, (bottom - top) * h)
            covered[i] += shared_area(place, box) / (box[2] * box[3])
        if lead.face is None:
            covered[i] *= COVERED / COVERED_WHOLE
    return missing, covered


def _words_cut(analysis: Analysis, shot: int, path: ShotPath) -> Flags:
    """The frames in which an edge of the window crosses a line of words."""
    bad = np.zeros(len(path.windows), np.bool_)
    for word in analysis.words_in(shot):
        for frame in range(max(word.first_frame, path.start), min(word.end_frame, path.end)):
            box = word.boxes[frame - word.first_frame]
            shown = shared_area(_window(path.windows[frame - path.start]), box) / (box[2] * box[3])
            bad[frame - path.start] |= WORDS_CUT < shown < 1 - WORDS_CUT
    return bad


def _rushed(path: ShotPath, motion: Motion) -> Flags:
    """The frames after which the window moves faster than a chase may, jumps left out."""
    bad = np.zeros(len(path.windows), np.bool_)
    speed = np.abs(np.diff(path.windows[:, :2], axis=0)).max(axis=1, initial=0.0)
    limit = path.windows[:-1, 2] / motion.chase_crossing_frames * 1.05
    jumps = {at - path.start - 1 for at in path.jumps}
    for i in np.nonzero(speed > limit)[0]:
        bad[i] = int(i) not in jumps
    return bad
