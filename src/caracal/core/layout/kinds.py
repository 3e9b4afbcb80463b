"""The kinds of layouts that can be chosen: each is a function that returns a Layout.

A new kind is one function and one line here, and no engine code.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from caracal.core.base.errors import InputError
from caracal.core.base.geometry import Box, FramingSpec, Shape
from caracal.core.base.translation import mark, tr
from caracal.core.layout.model import (
    EVERYWHERE,
    FILL,
    BlendBackdrop,
    Canvas,
    Content,
    Crop,
    Edge,
    Layout,
    Pane,
    PlainBackdrop,
    Role,
    Shadow,
    SoftBackdrop,
    WholePicture,
)

INSET_WIDE = 0.4  # of the canvas's width (common practice)
INSET_MARGIN = 0.04  # of the canvas's shorter side, from the clear area's edges
WIDE_WHOLE = 0.64  # of a wide canvas's width, for the whole picture beside the lead
BANNER_SHAPE = Shape(1, 1)  # of the picture between two bands, where the canvas is taller
LOW_BANNER_SHAPE = Shape(16, 9)  # where it is not


@dataclass(frozen=True)
class Kind:
    """A layout that can be chosen: what it is called, what it does in a sentence, and itself.

    ``make`` returns it for a version's frame, whose canvas is known.
    """

    name: str
    words: str
    make: Callable[[FramingSpec], Layout]


def fill() -> Layout:
    """The window fills the canvas."""
    return FILL


def whole_soft(backdrop: SoftBackdrop | None = None) -> Layout:
    """The whole picture on an enlarged, blurred copy of itself."""
    return Layout("whole, soft", (Pane(backdrop or SoftBackdrop()), Pane(WholePicture())))


def whole_plain(backdrop: PlainBackdrop | BlendBackdrop | None = None) -> Layout:
    """The whole picture on one colour, or on two that blend."""
    return Layout("whole, plain", (Pane(backdrop or PlainBackdrop()), Pane(WholePicture())))


def cut_out() -> Layout:
    """The lead, cut out of the picture, before two colours that blend."""
    return Layout("cut-out", (Pane(BlendBackdrop("#c9b79c", "#8a6f56")), Pane(Crop(lifted=True))))


def banner(frame: FramingSpec) -> Layout:
    """A wider window between two soft bands, in the middle of the clear area where one is asked."""
    width, height = canvas_of(frame)
    shape = BANNER_SHAPE if height > width else LOW_BANNER_SHAPE
    high = min(width / float(shape.ratio) / height, 1.0)
    top, bottom = frame.clear[1] if frame.clear else (0.0, 1.0)
    start = min(max((top + bottom - high) / 2, 0.0), 1 - high)
    region = ((0.0, 1.0), (start, start + high))
    return Layout("banner", (Pane(SoftBackdrop()), Pane(Crop(), region)))


def stack(frame: FramingSpec) -> Layout:
    """The lead and the second, each in a half: above each other where the canvas is tall, else
    beside each other, since half a square's height would show nearly all of the picture twice."""
    return Layout("stack", _in_rows(frame, (Crop(), Crop(Role.SECOND)), (0.5,)))


def stack_of_three(frame: FramingSpec) -> Layout:
    """The lead, the second and the third, each in a third."""
    contents = (Crop(), Crop(Role.SECOND), Crop(Role.THIRD))
    return Layout("stack of three", _in_rows(frame, contents, (1 / 3, 2 / 3)))


def whole_over_lead(frame: FramingSpec) -> Layout:
    """The whole picture above, as high as it is, and the lead in all that is left below.

    On a wide canvas the lead stands tall beside the picture, which lies on a soft backdrop.
    """
    width, height = canvas_of(frame)
    both = (0.0, 1.0)
    if width > height:
        return Layout("whole over lead", (
            Pane(SoftBackdrop()), Pane(WholePicture(), ((0.0, WIDE_WHOLE), both)),
            Pane(Crop(), ((WIDE_WHOLE, 1.0), both))))
    share = width * 9 / 16 / height
    return Layout("whole over lead", (
        Pane(WholePicture(), (both, (0.0, share))), Pane(Crop(), (both, (share, 1.0)))))


def inset(frame: FramingSpec) -> Layout:
    """The window all over the canvas, and the whole picture in a corner that covers least."""
    width, height = canvas_of(frame)
    high = INSET_WIDE * width * 9 / 16 / height
    across, down = frame.clear or EVERYWHERE
    margin = INSET_MARGIN * min(width, height)
    right, bottom = across[1] - margin / width, down[1] - margin / height
    region = ((right - INSET_WIDE, right), (bottom - high, bottom))
    pane = Pane(WholePicture(), region, radius=0.06, edge=Edge(), shadow=Shadow(), avoids=True)
    return Layout("inset", (Pane(Crop()), pane))


def canvas_of(frame: FramingSpec) -> Canvas:
    """The canvas of ``frame``; one of its shape where it has none."""
    return frame.canvas or (1000, 2 * round(500 / float(frame.shape.ratio)))


def _in_rows(
    frame: FramingSpec, contents: tuple[Content, ...], edges: tuple[float, ...]
) -> tuple[Pane, ...]:
    """``contents`` above each other, parted at ``edges``; beside each other where it is not tall.
    """
    width, height = canvas_of(frame)
    shares = list(pairwise((0.0, *edges, 1.0)))
    both = (0.0, 1.0)
    regions = [(share, both) if width >= height else (both, share) for share in shares]
    return tuple(Pane(content, region) for content, region in zip(contents, regions, strict=True))


WITH_PICTURE = mark(", with a picture")
KINDS = (
    Kind(mark("fill"), tr("The crop fills the canvas and follows the lead."), lambda _: fill()),
    Kind(mark("whole, soft"), tr("The whole picture, on a soft backdrop of the same moment."),
         lambda _: whole_soft()),
    Kind(mark("whole, plain"), tr("The whole picture, on a plain backdrop."),
         lambda _: whole_plain()),
    Kind(mark("banner"), tr("A wider crop between two soft bands."), banner),
    Kind(mark("stack"), tr("Two halves: one follows the lead, the other the second."), stack),
    Kind(mark("stack of three"), tr("Three thirds: the lead, the second and the third."),
         stack_of_three),
    Kind(mark("whole over lead"), tr("The whole picture above, the lead below it."),
         whole_over_lead),
    Kind(mark("cut-out"), tr("The lead alone, cut out of the picture, on a plain backdrop."),
         lambda _: cut_out()),
    Kind(mark("inset"), tr("The crop fills the canvas, with the whole picture in a free corner."),
         inset),
)


def name_of(layout: Layout) -> str:
    """What ``layout`` is called on the screen."""
    plain = layout.kind.removesuffix(WITH_PICTURE)
    return tr(plain) + (tr(WITH_PICTURE) if plain != layout.kind else "")


def words_of(layout: Layout) -> str:
    """What ``layout`` does, in a sentence."""
    return next((kind.words for kind in KINDS if kind.name == layout.kind),
                tr("A layout of its own."))


def kept_words(
    layout: Layout, windows: Sequence[NDArray[np.float64]], picture: Box, canvas: Canvas
) -> str:
    """What ``layout`` keeps of the ``picture``, in a sentence; ``windows`` (frames, 4) are those
    of its crops.
    """
    if any(pane.lifted for pane in layout.panes):
        return tr("Only the cut-out person is seen of the picture.")
    whole = next((pane.content for pane in layout.panes if isinstance(pane.content, WholePicture)),
                 None)
    _, _, wide, high = (whole or WholePicture()).cut((0.0, 0.0, 1.0, 1.0))
    share = "All" if wide * high == 1 else f"{wide * high:.0%}"
    if layout.cropped:
        seen = " and ".join(f"{np.mean(pane[:, 2] * pane[:, 3]) / (picture[2] * picture[3]):.0%}"
                            for pane in windows)
        if whole is not None:
            return tr("{share} of the picture is shown, {seen} of it enlarged.", share=share,
                      seen=seen)
        return tr("{seen} of the picture is shown.", seen=seen)
    scale = min(canvas[0] / picture[2], canvas[1] / picture[3])
    covered = picture[2] * picture[3] * scale**2 / (canvas[0] * canvas[1])
    return tr("{share} of the picture is shown, on {covered:.0%} of the canvas.", share=share,
              covered=covered)


def kind_called(name: str) -> Kind:
    """The kind called ``name``, with dashes for spaces. Raises InputError when there is none."""
    kinds = {kind.name.replace(", ", "-").replace(" ", "-"): kind for kind in KINDS}
    if name.lower() in kinds:
        return kinds[name.lower()]
    known = ", ".join(kinds)
    raise InputError(tr("There is no layout called “{name}”.", name=name[:40]),
                     remedy=tr("Choose one of {known}.", known=known))
