"""Words that were read in the master's picture, as data."""

from __future__ import annotations

import msgspec

from caracal.core.base.geometry import Box


class BurntText(msgspec.Struct, frozen=True):
    """Words in the master's picture: lines that stand together in film frames ``start`` to
    ``end_exclusive`` of a shot. ``box`` holds all of them, in upright master pixels, with what
    their letters throw.
    """

    shot: int
    start: int
    end_exclusive: int
    box: Box
    text: str
    sure: float
