"""Which variant of a logo a film's pictures ask for: the same on the command line and in the
window."""

from __future__ import annotations

import functools

import numpy as np

from caracal.core.base.time import FrameRange
from caracal.core.media.decode import frames
from caracal.core.media.master import Master
from caracal.core.processes.apart import Call, call_apart
from caracal.core.project.brand import Brand, Ground

LOOKED_AT = 6  # pictures of a film
LIGHT = 128  # luma: what is lighter is a light ground


def ground_for(brand: Brand, master: Master) -> Ground:
    """The ground of a film, where ``brand`` has a logo for more than one; found in a process apart.

    Raises InputError if the film cannot be read.
    """
    return _found_apart(master) if len(brand.logos) > 1 else Ground.DARK


@functools.lru_cache(32)
def _found_apart(master: Master) -> Ground:
    found: Ground = call_apart(Call(ground_of, (master,)), master.file)
    return found


def ground_of(master: Master) -> Ground:
    """How light the pictures of a film are, on the whole. Raises InputError if it cannot be read.
    """
    lumas = []
    for number in range(LOOKED_AT):
        at = master.frames * (2 * number + 1) // (2 * LOOKED_AT)
        for _, planes in frames(master, FrameRange(at, at + 1)):
            lumas.append(float(np.mean(planes.y)))
    return ground_of_luma(sum(lumas) / len(lumas)) if lumas else Ground.DARK


def ground_of_luma(luma: float) -> Ground:
    """The ground that a picture of that mean ``luma`` (16 to 235) is."""
    return Ground.LIGHT if luma > LIGHT else Ground.DARK
