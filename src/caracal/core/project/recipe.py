"""All that one version of a film is made from: taken from the project once, and carried whole.

A trial, the batch list, a cluster and the command line hand on recipes and nothing beside them, so
that none of them can forget a part. The digest of a recipe names what it makes.
"""

from __future__ import annotations

import hashlib
from fractions import Fraction

import msgspec

from caracal.core.base.decoding import decode_msgpack
from caracal.core.base.time import FrameRange
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.layout.added_sound import AddedSound, CleanStrength
from caracal.core.layout.card import Card
from caracal.core.layout.model import FILL, Layout
from caracal.core.layout.overlay import Overlay
from caracal.core.layout.redaction import Redaction
from caracal.core.project.model import DrawnBox, Project, ShotStart
from caracal.core.specs.fields import IGNORED as SHEET_NAMES
from caracal.core.specs.sheet import Captions, SpecSheet
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.cues import Cue

NAMES = ("label", "captions_file")  # fields of a recipe that are neither seen nor heard


class Recipe(msgspec.Struct, frozen=True):
    """One version: its spec sheet, and every decision about the film that it shows.

    ``choices`` are by shot number; ``motion`` holds the limits of moves. ``ranges`` are what it
    shows of the film, joined; none: all of it. ``starts``, ``drawn`` and ``sound`` are those of the
    project. ``label`` is what a name pattern calls the version. A ``review`` copy has the
    destination's zones in its picture, and says so in its name. ``layout`` is that of shots about
    which nothing was decided. ``overlays`` lie over all of it, its fades in front, those of cards
    among them. ``opening`` and ``closing`` are the cards. ``captions`` are the film's;
    they are in the picture if ``burnt`` (None: as the sheet says), in their ``look``.
    ``redactions`` cover words of the film's picture, ``sounds`` are added to its sound, which is
    cleaned by ``clean``.
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
    opening: Card | None = None
    closing: Card | None = None
    captions: tuple[Cue, ...] = ()
    captions_file: str = ""
    look: CaptionLook = CaptionLook()
    burnt: bool | None = None
    redactions: tuple[Redaction, ...] = ()
    sounds: tuple[AddedSound, ...] = ()
    clean: CleanStrength = CleanStrength.NONE

    def ranges_in(self, frames: int) -> tuple[FrameRange, ...]:
        """What is shown of a film of so many ``frames``."""
        return self.ranges or (FrameRange(0, frames),)

    def choice(self, shot: int) -> ShotChoice:
        """What holds for ``shot``: what was decided, or the layout alone."""
        return self.choices.get(shot, ShotChoice(layout=self.layout))

    @property
    def burns(self) -> bool:
        """Whether captions are in its picture."""
        wanted = self.burnt if self.burnt is not None else (
            self.sheet.captions is not Captions.SIDECAR)
        return bool(self.captions) and wanted

    @property
    def sidecar(self) -> bool:
        """Whether captions come in a file beside it."""
        return bool(self.captions) and self.sheet.captions is not Captions.BURN_IN

    @property
    def card_frames(self) -> int:
        """How many frames its cards have."""
        return sum(card.frames for card in (self.opening, self.closing) if card is not None)

    def frames_in(self, frames: int) -> int:
        """How many frames it lasts, of a film of so many, at the film's rate, cards and all."""
        shown = sum((span.duration_frames for span in self.ranges_in(frames)), Fraction(0))
        return round(shown) + self.card_frames

    @property
    def digest(self) -> str:
        """A name for the pictures and the sound that it makes.

        Two recipes that differ in anything that is seen or heard have different ones. What the
        version, its sheet and its files are called, and when the sheet was verified, is neither.
        """
        # As it comes out of a file: a whole number where a fraction may stand is the same number.
        read = decode_msgpack(msgspec.msgpack.encode(self), Recipe)
        plain = msgspec.to_builtins(read, str_keys=True)
        for name in NAMES:
            del plain[name]
        for name in SHEET_NAMES:
            del plain["sheet"][name]
        del plain["sheet"]["file"]["names"]
        data = msgspec.json.encode(plain, order="deterministic")
        return hashlib.blake2b(data, digest_size=16).hexdigest()


def recipe_of(project: Project, letter: str, sheet: SpecSheet, review: bool = False) -> Recipe:
    """Version ``letter`` of ``project``, made for ``sheet``."""
    version = project.version(letter)
    return Recipe(sheet, project.choices_for(letter), project.motion, project.ranges_of(letter),
                  project.starts, project.drawn, project.sound, version.name or letter, review,
                  overlays=project.overlays_of(letter), opening=version.opening,
                  closing=version.closing, captions=project.captions,
                  captions_file=project.captions_file, look=version.look, burnt=version.burnt,
                  redactions=version.redactions, sounds=version.sounds,
                  clean=version.clean)
