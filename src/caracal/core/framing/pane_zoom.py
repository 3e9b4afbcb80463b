"""How close the window of a pane comes to whom it follows."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from caracal.core.base.geometry import Box, FramingSpec, Shape, window_size
from caracal.core.framing.lead import Subject
from caracal.core.framing.motion import Motion
from caracal.core.layout.model import EVERYWHERE, Pane, target_of
from caracal.core.specs.sheet import SpecSheet

MOST_FACE = 0.45  # of a pane's height: a larger face is too close
NEARLY_NEVER = 10  # per cent of the frames in which two may come closer than that
WORTH = 1.05  # zoom: less moves nobody to the middle
BESIDE_WHOLE = 0.55  # of the picture's width or height: more looks like the whole picture twice


def pane_spec(pane: Pane, sheet: SpecSheet) -> FramingSpec:
    """What framing must know of a pane; all of the canvas is what the sheet says."""
    if pane.region == EVERYWHERE:
        return sheet.frame
    size = target_of(pane.region, sheet.canvas)[2:]
    return FramingSpec(Shape.of(*size), None, size)


def closest_zoom(subject: Subject | None, spec: FramingSpec, active: Box, motion: Motion) -> float:
    """How close a pane may come: a face does not fill it, and pixels are not blown up too much."""
    across, down = window_size(spec.shape, active)
    sharp = motion.enlarged_past * across / spec.canvas[0] if spec.canvas else 1.0
    if subject is None:
        return sharp
    tallest = max(box[3] for box in (subject.face or subject.main).boxes)
    return min(sharp, down * (MOST_FACE if subject.face else 1.0) / max(tallest, 1.0))


def pane_zoom(
    subject: Subject | None, company: list[Subject], spec: FramingSpec, active: Box,
    motion: Motion, whole: bool, centred: bool,
) -> float | None:
    """How close a pane comes to ``subject`` by itself; None: as close as any window would.

    So close that it can stand in the middle (``centred``), that the faces of its ``company``, who
    have panes of their own, lie outside, and that the pane shows less than one with the ``whole``
    picture beside it; though never closer than :func:`closest_zoom`.
    """
    if spec.canvas is None:
        return None
    across, down = window_size(spec.shape, active)
    left, _, width, height = active
    wanted = [min(across / width, down / height) / BESIDE_WHOLE] if whole else []
    if subject is not None:
        if centred:
            middle = float(_middles(subject).mean())
            wanted.append(across / max(2 * min(middle - left, left + width - middle), 1.0))
        wanted += [across / (2 * room)
                   for other in company if (room := between(subject, other) - _half(other)) > 0]
    zoom = min(max(wanted, default=1.0), closest_zoom(subject, spec, active, motion))
    return round(zoom, 3) if zoom > WORTH else None


def apart(
    one: Subject, other: Subject, specs: Sequence[FramingSpec], active: Box, motion: Motion
) -> bool:
    """Whether panes of any of ``specs`` can show two subjects so that none shows both of their
    middles."""
    widest = max((window_size(spec.shape, active)[0] / max(
        1.0, closest_zoom(each, spec, active, motion)) for spec in specs for each in (one, other)),
        default=0.0)
    return between(one, other) >= widest / 2


def between(one: Subject, other: Subject) -> float:
    """How far two subjects are from each other across the picture, in pixels: nearly always so far
    or farther while both are there."""
    tracks = [subject.face or subject.main for subject in (one, other)]
    first, end = max(track.first_frame for track in tracks), min(
        track.end_frame for track in tracks)
    if end <= first:
        return abs(float(np.median(_middles(one)) - np.median(_middles(other))))
    a, b = (_middles(subject)[first - track.first_frame : end - track.first_frame]
            for subject, track in zip((one, other), tracks, strict=True))
    return float(np.percentile(np.abs(a - b), NEARLY_NEVER))


def _middles(subject: Subject) -> NDArray[np.float64]:
    boxes = np.array((subject.face or subject.main).boxes)
    return np.asarray(boxes[:, 0] + boxes[:, 2] / 2)


def _half(subject: Subject) -> float:
    return float(np.median([box[2] for box in (subject.face or subject.main).boxes])) / 2
