"""The kinds of layouts that can be chosen: each is a function that returns a Layout.

A new kind is one function and one line here, and no engine code.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from caracal.core.errors import InputError
from caracal.core.geometry import Box
from caracal.core.layout.model import (
    FILL,
    Canvas,
    Crop,
    Layout,
    Pane,
    PlainBackdrop,
    Role,
    SoftBackdrop,
    WholePicture,
)


@dataclass(frozen=True)
class Kind:
    """A layout that can be chosen: what it is called, what it does in a sentence, and itself.

    ``make`` returns it for a canvas (width, height).
    """

    name: str
    words: str
    make: Callable[[Canvas], Layout]


def fill() -> Layout:
    """The window fills the canvas."""
    return FILL


def whole_soft(backdrop: SoftBackdrop | None = None) -> Layout:
    """The whole picture on an enlarged, blurred copy of itself."""
    return Layout("whole, soft", (Pane(backdrop or SoftBackdrop()), Pane(WholePicture())))


def whole_plain(backdrop: PlainBackdrop | None = None) -> Layout:
    """The whole picture on one colour."""
    return Layout("whole, plain", (Pane(backdrop or PlainBackdrop()), Pane(WholePicture())))


def stack(canvas: Canvas) -> Layout:
    """The lead and the second, each in a half: above each other, side by side where it is wide."""
    first, other = (0.0, 0.5), (0.5, 1.0)
    both = (0.0, 1.0)
    beside = canvas[0] > canvas[1]
    halves = ((first, both), (other, both)) if beside else ((both, first), (both, other))
    return Layout("stack", (Pane(Crop(), halves[0]), Pane(Crop(Role.SECOND), halves[1])))


KINDS = (
    Kind("fill", "The window fills the canvas and follows who leads.", lambda _: fill()),
    Kind("whole, soft", "The whole picture, on a soft backdrop of the same moment.",
         lambda _: whole_soft()),
    Kind("whole, plain", "The whole picture, on a plain backdrop.", lambda _: whole_plain()),
    Kind("stack", "Two halves: one follows the lead, the other the second.", stack),
)


def words_of(layout: Layout) -> str:
    """What ``layout`` does, in a sentence."""
    return next((kind.words for kind in KINDS if kind.name == layout.kind),
                "A layout of its own.")


def kept_words(
    layout: Layout, windows: Sequence[NDArray[np.float64]], picture: Box, canvas: Canvas
) -> str:
    """What ``layout`` keeps of the ``picture``, in a sentence; ``windows`` (frames, 4) are those
    of its crops.
    """
    if layout.cropped:
        seen = [f"{np.mean(one[:, 2] * one[:, 3]) / (picture[2] * picture[3]):.0%}"
                for one in windows]
        return f"{' and '.join(seen)} of the picture is seen, all over the canvas."
    scale = min(canvas[0] / picture[2], canvas[1] / picture[3])
    covered = picture[2] * picture[3] * scale**2 / (canvas[0] * canvas[1])
    return f"All of the picture is seen, on {covered:.0%} of the canvas."


def kind_called(name: str) -> Kind:
    """The kind called ``name``, with a dash for its comma. Raises InputError when there is none."""
    kinds = {kind.name.replace(", ", "-"): kind for kind in KINDS}
    if name.lower() in kinds:
        return kinds[name.lower()]
    known = ", ".join(kinds)
    raise InputError(f"There is no layout called “{name[:40]}”.", remedy=f"Choose one of {known}.")
