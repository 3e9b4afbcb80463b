"""What is wanted of one version: light, so that whoever only keeps lists needs no solver."""

from __future__ import annotations

import msgspec

from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.specs.sheet import SpecSheet
from caracal.core.time import FrameRange


class Wanted(msgspec.Struct, frozen=True):
    """One version to make: its sheet, the choices by shot number, and the limits of moves.

    ``ranges`` are what it shows of the film, joined; none: what all show. ``label`` is what a name
    pattern calls the version; ``replace``: a file of its name is replaced, not numbered. A
    ``review`` copy has the destination's zones in its picture, and says so in its name.
    """

    sheet: SpecSheet
    choices: dict[int, ShotChoice] = {}
    motion: Motion = Motion()
    ranges: tuple[FrameRange, ...] = ()
    label: str = ""
    replace: bool = False
    review: bool = False
