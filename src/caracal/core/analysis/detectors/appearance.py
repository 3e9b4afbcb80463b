"""The same person across shots: by the colours of hair, skin and clothes round a face.

A description is the median CIE L*a*b* colour of three regions set out from the face's box, which
works for close-ups and whole figures alike. People are grouped by complete linkage, so that no
two members of a group differ by more than SAME, and nobody who is seen beside another in one shot
can be the same person. Clothes change between days: then a person becomes two, which a click
mends; the colours of a dark crowd may join two people, so the group is offered, never forced.
"""

from __future__ import annotations

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.analysis.detection import Picture
from caracal.core.analysis.model import Track
from caracal.core.base.geometry import Box

# (left, right) of the face's width, (top, bottom) of its height, both from its top-left corner
REGIONS = (
    (((0.15, 0.85), (-0.25, 0.05)),),  # hair
    (((0.30, 0.70), (0.45, 0.75)),),  # skin
    (((-0.25, 0.10), (1.50, 1.90)), ((0.90, 1.25), (1.50, 1.90))),  # clothes at both shoulders
)
WEIGHTS = (0.7, 1.0, 1.3)
LEAST_PIXELS = 10  # a region smaller than this has no colour to speak of
SAME = 13.0  # colour difference (CIE 1976): on the demo film the same differ by 4, others by 21
APART = 1000.0  # people seen side by side

Description = tuple[float, ...]


def describe(picture: Picture, face: Box) -> Description:
    """L*, a*, b* of hair, skin and clothes (9 numbers) of a face in ``picture`` (h, w, 3) RGB.

    Empty when a region lies outside the picture or is too small.
    """
    x, y, w, h = face
    found: list[float] = []
    for parts in REGIONS:
        pixels = np.concatenate([
            picture[max(0, round(y + top * h)) : max(0, round(y + bottom * h)),
                    max(0, round(x + left * w)) : max(0, round(x + right * w))].reshape(-1, 3)
            for (left, right), (top, bottom) in parts])
        if len(pixels) < LEAST_PIXELS:
            return ()
        lab = cv2.cvtColor(pixels[None].astype(np.float32) / 255, cv2.COLOR_RGB2LAB)
        found += [float(value) for value in np.median(lab[0], axis=0)]
    return tuple(round(value, 2) for value in found)


def body_colour(picture: Picture, body: Box) -> Description:
    """L*, a*, b* of the chest of a whole figure: what tells two people apart who cross.

    Empty when the figure is too small.
    """
    x, y, w, h = body
    part = picture[max(0, round(y + 0.22 * h)) : max(0, round(y + 0.48 * h)),
                   max(0, round(x + 0.3 * w)) : max(0, round(x + 0.7 * w))]
    if part.shape[0] * part.shape[1] < LEAST_PIXELS:
        return ()
    lab = cv2.cvtColor(part.astype(np.float32) / 255, cv2.COLOR_RGB2LAB).reshape(-1, 3)
    return tuple(round(float(value), 2) for value in np.median(lab, axis=0))


def name_people(tracks: list[Track]) -> list[Track]:
    """The same tracks with ``person`` set: one number for each person of the film, from 0.

    Only subjects whose face was described get one; the body of a face gets it, too.
    """
    known = [track for track in tracks if track.kind == "face" and track.appearance]
    if not known:
        return tracks
    groups = _grouped(known)
    people = {track.subject: int(group) for track, group in zip(known, groups, strict=True)}
    return [msgspec.structs.replace(track, person=people.get(track.subject)) for track in tracks]


def _grouped(known: list[Track]) -> NDArray[np.int_]:
    if len(known) == 1:
        return np.zeros(1, np.int_)
    # Half a second to import, and every process that makes a file would pay it.
    from scipy.cluster.hierarchy import fcluster, linkage  # noqa: PLC0415
    from scipy.spatial.distance import pdist, squareform  # noqa: PLC0415

    # The colour difference of two people is the weighted root mean square of their regions'.
    scale = np.repeat(np.sqrt(np.array(WEIGHTS) / sum(WEIGHTS)), 3)
    apart = squareform(pdist(np.array([track.appearance for track in known]) * scale))
    shots, subjects = (np.array([getattr(track, name) for track in known])
                       for name in ("shot", "subject"))
    beside = (shots[:, None] == shots) & (subjects[:, None] != subjects)
    apart[beside] = APART
    labels = fcluster(linkage(squareform(apart), "complete"), SAME, "distance")
    order = {label: i for i, label in enumerate(dict.fromkeys(labels))}
    return np.array([order[label] for label in labels])
