"""All that one version of a film is made from: taken from the project once, and carried whole.

A trial, the batch list, a cluster and the command line hand on recipes and nothing beside them, so
that none of them can forget a part. The digest of a recipe names what it makes.
"""

from __future__ import annotations

import hashlib

import msgspec

from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.layout.model import FILL, Layout
from caracal.core.layout.overlay import Overlay
from caracal.core.project.model import DrawnBox, Project, ShotStart
from caracal.core.specs.sheet import SpecSheet
from caracal.core.time import FrameRange


class Recipe(msgspec.Struct, frozen=True):
    """One version: its spec sheet, and every decision about the film that it shows.

    ``choices`` are by shot number; ``motion`` holds the limits of moves. ``ranges`` are what it
    shows of the film, joined; none: all of it. ``starts``, ``drawn`` and ``sound`` are those of the
    project. ``label`` is what a name pattern calls the version. A ``review`` copy has the
    destination's zones in its picture, and says so in its name. ``layout`` is that of shots about
    which nothing was decided. ``overlays`` lie over all of it, its fades in front.
    """

    sheet: SpecSheet
    choices: dict[int, ShotChoice] = {}
    motion: Motion = Motion()
    ranges: tuple[FrameRange, ...] = ()
    starts: tuple[ShotStart, ...] = ()
    drawn: tuple[DrawnBox, ...] = ()
    sound: int = 0
    label: str = ""
    review: bool = False
    layout: Layout = FILL
    overlays: tuple[Overlay, ...] = ()

    def ranges_in(self, frames: int) -> tuple[FrameRange, ...]:
        """What is shown of a film of so many ``frames``."""
        return self.ranges or (FrameRange(0, frames),)

    @property
    def digest(self) -> str:
        """A name for all of it: two recipes that differ in anything have different ones."""
        # As it comes out of a file: a whole number where a fraction may stand is the same number.
        read = msgspec.msgpack.decode(msgspec.msgpack.encode(self), type=Recipe)
        plain = msgspec.to_builtins(read, str_keys=True)
        data = msgspec.json.encode(plain, order="deterministic")
        return hashlib.blake2b(data, digest_size=16).hexdigest()


def recipe_of(project: Project, letter: str, sheet: SpecSheet, review: bool = False) -> Recipe:
    """Version ``letter`` of ``project``, made for ``sheet``."""
    version = project.version(letter)
    return Recipe(sheet, project.choices_for(letter), project.motion, project.ranges_of(letter),
                  project.starts, project.drawn, project.sound, version.name or letter, review,
                  overlays=project.overlays_of(letter))


def recipe_of_film(project: Project, sheet: SpecSheet) -> Recipe:
    """The film of ``project`` made for a ``sheet`` that is none of its versions': who leads holds.
    """
    return Recipe(sheet, project.choices_for(""), project.motion, (project.span,), project.starts,
                  project.drawn, project.sound)
