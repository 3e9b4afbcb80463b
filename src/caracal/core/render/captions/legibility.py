"""How well captions and titles stand out on the pictures behind them (WCAG 2.2, contrast ratio).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import msgspec
import numpy as np
from numpy.typing import NDArray

from caracal.core.base.colours import contrast, relative_luminance, rgb_of
from caracal.core.base.geometry import Box
from caracal.core.layout.model import Canvas
from caracal.core.layout.overlay import Overlay, title_box
from caracal.core.media.bt709 import LOWEST
from caracal.core.media.planes import Picture
from caracal.core.render.captions.placement import caption_box
from caracal.core.render.painters.titles import title_area
from caracal.core.text.block import fitted
from caracal.core.text.caption_track import CaptionTrack, SetCaption
from caracal.core.text.style import TextStyle, Title

LEAST, LEAST_LARGE = 4.5, 3.0  # WCAG 2.2, success criterion 1.4.3
LARGE = 24 / 390  # of the shorter side: large letters have 24 px on a phone 390 px wide
LEAST_CAP = 0.022  # of the canvas's height: a capital on a phone (common practice)
WORST = 0.9  # of the pixels behind stand out at least so much
SOLID = 0.04  # sizes: a wider outline is what letters stand on

PictureAt = Callable[[int], Picture | None]


class Legibility(msgspec.Struct, frozen=True):
    """The contrast at the worst moment of words, the frame of that, and what is asked."""

    ratio: float
    frame: int
    least: float

    @property
    def right(self) -> bool:
        """Whether it can be read."""
        return self.ratio >= self.least


def least_contrast(size: float) -> float:
    """What is asked of letters of that size, a share of the canvas's shorter side."""
    return LEAST_LARGE if size >= LARGE else LEAST


def legibility(
    track: CaptionTrack, caption: SetCaption, canvas: Canvas, picture_at: PictureAt
) -> Legibility | None:
    """How well ``caption`` stands out on ``canvas`` at its worst of three moments.

    ``picture_at`` gives the canvas without captions at a frame; None: it is not there.
    """
    found = [Legibility(ratio_on(track, caption, canvas, picture), frame,
                        least_contrast(track.look_of(caption).style.size))
             for frame in _moments(caption.start, caption.end_exclusive)
             if (picture := picture_at(frame)) is not None]
    return min(found, key=lambda each: each.ratio, default=None)


def title_legibility(
    overlay: Overlay, canvas: Canvas, picture_at: PictureAt
) -> Legibility | None:
    """How well a title stands out on ``canvas`` at the worst of three moments while it is wholly
    there; ``picture_at`` gives the canvas without it at a frame of what it is laid on.

    None where it is no title. Raises InputError when its font cannot be used.
    """
    title = overlay.content
    if not isinstance(title, Title):
        return None
    area = title_area(title, overlay.region, canvas)
    least = least_contrast(fitted(title, *title_box(overlay.region, canvas))[1])
    found = [Legibility(contrast_on(title.style, area, canvas, picture), frame, least)
             for frame in _moments(overlay.start, overlay.end_exclusive)
             if (picture := picture_at(frame)) is not None]
    return min(found, key=lambda each: each.ratio, default=None)


def _moments(start: int, end: int) -> Iterator[int]:
    yield from dict.fromkeys(start + round(share * (end - 1 - start)) for share in (0, 0.5, 1))


def ratio_on(
    track: CaptionTrack, caption: SetCaption, canvas: Canvas, picture: Picture
) -> float:
    """The contrast of a caption's letters with what is behind."""
    return contrast_on(track.look_of(caption).style, caption_box(track, caption, canvas), canvas,
                       picture)


def contrast_on(style: TextStyle, area: Box, canvas: Canvas, picture: Picture) -> float:
    """The contrast of letters in an ``area`` of ``canvas`` with what is behind: a box, an outline,
    a shadow, or the ``picture``, which shows all of the canvas in any size."""
    letters = relative_luminance(rgb_of(style.colour))
    x, y, width, height = area
    luma = picture[0]
    across, down = luma.shape[1] / canvas[0], luma.shape[0] / canvas[1]
    part = luma[max(0, int(y * down)) : int((y + height) * down) + 1,
                max(0, int(x * across)) : int((x + width) * across) + 1]
    behind = _linear((part.astype(np.float64) - LOWEST) / 219)
    if style.box is not None:
        share = style.box.opacity
        box = relative_luminance(rgb_of(style.box.colour))
        behind = behind + (box - behind) * share
    if style.outline is not None and style.outline.width >= SOLID:
        return contrast(letters, relative_luminance(rgb_of(style.outline.colour)))
    if style.shadow is not None:
        shade = relative_luminance(rgb_of(style.shadow.colour))
        behind = behind + (shade - behind) * style.shadow.strength
    ratios = (np.maximum(behind, letters) + 0.05) / (np.minimum(behind, letters) + 0.05)
    return float(np.quantile(ratios, 1 - WORST))


def _linear(coded: NDArray[np.float64]) -> NDArray[np.float64]:
    """Relative luminance of greys as they are coded."""
    c = np.clip(coded, 0, 1)
    return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)


def too_small(style: TextStyle, cap: float, canvas: Canvas) -> bool:
    """Whether capitals, ``cap`` sizes high, are smaller than a phone shows well."""
    return style.size * cap * min(canvas) < LEAST_CAP * canvas[1]
