"""The project as a value: what a person decided about one film. Frozen; edits make new ones."""

from __future__ import annotations

import msgspec

from caracal.core.analysis.model import Transition
from caracal.core.base.geometry import Box
from caracal.core.base.identity import kept_for
from caracal.core.base.time import FrameRange, spans_of, with_dissolves, with_speeds
from caracal.core.framing.choice import ShotChoice
from caracal.core.framing.motion import Motion
from caracal.core.layout.added_sound import AddedSound, CleanStrength
from caracal.core.layout.card import Card
from caracal.core.layout.entrance import Entry
from caracal.core.layout.overlay import Overlay, veil
from caracal.core.layout.redaction import Redaction
from caracal.core.project.brand import Brand
from caracal.core.text.caption_look import CaptionLook
from caracal.core.text.cues import Cue

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
FIRST_SHEETS = ("vertical-short", "square-feed", "portrait-feed")


class Fades(msgspec.Struct, frozen=True):
    """How many frames a version fades from a ``colour`` when it begins, and to it when it ends.

    ``joint`` frames are given to every place where two of its ranges meet: half of them before; or
    all of them after it, where one ``dissolves`` into the other.
    """

    begin: int = 0
    end: int = 0
    joint: int = 0
    colour: str = "#000000"
    dissolves: bool = False


class Version(msgspec.Struct, frozen=True):
    """One wanted version: its letter on screen and the name of its spec sheet.

    ``name`` is what a person calls it; ``ranges`` are the parts of the film that it shows, joined
    in film order; none: the project's range. ``overlays`` lie over it, the last one in front.
    ``fades`` are how it begins and ends. ``opening`` and ``closing`` are its cards, if any.
    ``look`` is that of its captions; ``burnt`` says whether they are in the picture: None: as its
    spec sheet says. ``speeds`` are stretches of the film that it shows at another speed, apart.
    ``redactions`` are words of the film's picture that are covered in it, ``sounds`` what is heard
    in it beside the film, whose speech is cleaned by ``clean``.
    """

    letter: str
    sheet: str
    name: str = ""
    ranges: tuple[FrameRange, ...] = ()
    overlays: tuple[Overlay, ...] = ()
    fades: Fades = Fades()
    opening: Card | None = None
    closing: Card | None = None
    look: CaptionLook = CaptionLook()
    burnt: bool | None = None
    speeds: tuple[FrameRange, ...] = ()
    redactions: tuple[Redaction, ...] = ()
    sounds: tuple[AddedSound, ...] = ()
    clean: CleanStrength = CleanStrength.NONE

    @property
    def card_frames(self) -> int:
        """How many frames its cards add to the film's."""
        return sum(card.frames for card in (self.opening, self.closing) if card is not None)


class Cast(msgspec.Struct, frozen=True):
    """Who matters in a shot; subjects by id. ``lead`` None: by the score.

    It holds for the version ``letter``; without one for every version that has no cast of its own.
    """

    shot: int
    lead: int | None = None
    second: int | None = None
    ignored: tuple[int, ...] = ()
    letter: str = ""

    @property
    def decides(self) -> bool:
        """Whether anything differs from the automatic cast."""
        return self != Cast(self.shot, letter=self.letter)


class Decision(msgspec.Struct, frozen=True):
    """What was decided for one shot in one version; who matters is in the cast."""

    letter: str
    shot: int
    choice: ShotChoice


class Accepted(msgspec.Struct, frozen=True):
    """A flag that a person looked at and accepted, and why."""

    letter: str
    shot: int
    kind: str
    reason: str


class ShotStart(msgspec.Struct, frozen=True):
    """Where a shot begins, when the found cuts were corrected or replaced by a cut list.

    The last one may say that those follow which were found after frame ``found_after``: the cuts
    were corrected while the film was still being looked at.
    """

    frame: int
    transition: Transition = Transition.CUT
    found_after: int | None = None


class DrawnBox(msgspec.Struct, frozen=True):
    """A box that a person drew round something, followed through its shot; a subject like others.

    ``subject`` is its id. ``lost`` are the frames [first, end) in which it was not found.
    """

    subject: int
    name: str
    first_frame: int
    boxes: tuple[Box, ...]
    lost: tuple[tuple[int, int], ...] = ()


class Project(msgspec.Struct, frozen=True):
    """All decisions about one film. Shots are counted from 0.

    ``starts`` replaces the found shots when it is not empty; its first is frame 0. ``motion`` holds
    the limits of all moves. ``sound`` is the number of the master's sound that is used, from 0.
    ``captions`` are those of the whole film, in order; they were read from ``captions_file``.
    ``names`` are rare words that are said in it. It bears the name of a ``brand``, if of any.
    """

    versions: tuple[Version, ...]
    span: FrameRange
    casts: tuple[Cast, ...] = ()
    decisions: tuple[Decision, ...] = ()
    accepted: tuple[Accepted, ...] = ()
    starts: tuple[ShotStart, ...] = ()
    drawn: tuple[DrawnBox, ...] = ()
    motion: Motion = Motion()
    sound: int = 0
    captions: tuple[Cue, ...] = ()
    captions_file: str = ""
    names: tuple[str, ...] = ()
    brand: Brand | None = None

    def version(self, letter: str) -> Version:
        """Returns the version that has this letter. Raises LookupError when there is none."""
        for version in self.versions:
            if version.letter == letter:
                return version
        raise LookupError(letter)

    def ranges_of(self, letter: str) -> tuple[FrameRange, ...]:
        """Returns the parts of the film that the version shows, in order."""
        version = self.version(letter)
        ranges = version.ranges or (self.span,)
        if version.fades.dissolves and version.fades.joint:
            ranges = with_dissolves(ranges, version.fades.joint)
        return with_speeds(ranges, version.speeds)

    def overlays_on_film(self, letter: str) -> tuple[Overlay, ...]:
        """As :meth:`overlays_of`, but only what lies over the film's own pictures."""
        version, ranges = self.version(letter), self.ranges_of(letter)
        fades = msgspec.structs.replace(
            version.fades, begin=0 if version.opening else version.fades.begin,
            end=0 if version.closing else version.fades.end)
        return (*_seen(version.overlays, ranges), *veils(fades, ranges))

    def overlays_of(self, letter: str) -> tuple[Overlay, ...]:
        """All that lies over the version, and on its cards, its fades in front of the rest.

        The frames of an opening card are numbered up to the first one that is shown of the film,
        those of a closing card from the last one on.
        """
        version, ranges = self.version(letter), self.ranges_of(letter)
        first, end = ranges[0].start, ranges[-1].end_exclusive
        over, before, after = version.overlays, 0, 0
        if version.opening is not None:
            before = version.opening.frames
            over = (*_from(over, first), *version.opening.at(first - before))
        if version.closing is not None:
            after = version.closing.frames
            over = (*_until(over, end), *version.closing.at(end))
        return (*_seen(over, ranges), *veils(version.fades, ranges, before, after))

    def cast(self, shot: int, letter: str = "") -> Cast:
        """Returns who matters in ``shot`` of version ``letter``: what was decided for it, else for
        every version, else nothing. Without a letter: what was decided for every version."""
        casts = _casts_by_place(self.casts)
        return casts.get((letter, shot)) or casts.get(("", shot)) or Cast(shot)

    def choice(self, letter: str, shot: int) -> ShotChoice:
        """What holds for ``shot`` in version ``letter``; automatic where nothing was decided."""
        cast = self.cast(shot, letter)
        base = _choices_by_place(self.decisions).get((letter, shot), ShotChoice())
        return msgspec.structs.replace(
            base, lead=cast.lead, second=cast.second, ignored=cast.ignored)

    def choices_for(self, letter: str) -> dict[int, ShotChoice]:
        """All touched shots of version ``letter``."""
        shots = {cast.shot for cast in self.casts if cast.letter in ("", letter)}
        shots |= {decision.shot for decision in self.decisions if decision.letter == letter}
        return {shot: self.choice(letter, shot) for shot in sorted(shots)}

    def accepted_kinds(self, letter: str, shot: int) -> dict[str, str]:
        """The accepted kinds of flags of ``shot`` in version ``letter`` with their reasons."""
        return {acceptance.kind: acceptance.reason for acceptance in self.accepted
                if (acceptance.letter, acceptance.shot) == (letter, shot)}


Place = tuple[str, int]  # a version's letter and a shot, from 0


@kept_for(most=8)  # the last projects: each edit makes a new one, and undo goes back to others
def _casts_by_place(casts: tuple[Cast, ...]) -> dict[Place, Cast]:
    return {(cast.letter, cast.shot): cast for cast in casts}


@kept_for(most=8)
def _choices_by_place(decisions: tuple[Decision, ...]) -> dict[Place, ShotChoice]:
    return {(decision.letter, decision.shot): decision.choice for decision in reversed(decisions)}


def _from(overlays: tuple[Overlay, ...], first: int) -> tuple[Overlay, ...]:
    """``overlays`` without what they have before frame ``first``."""
    return tuple(
        overlay if overlay.start >= first else msgspec.structs.replace(
            overlay, start=first, entry=Entry.NONE)
        for overlay in overlays if overlay.end_exclusive > first)


def _until(overlays: tuple[Overlay, ...], end: int) -> tuple[Overlay, ...]:
    """``overlays`` without what they have from frame ``end`` on."""
    return tuple(
        overlay if overlay.end_exclusive <= end else msgspec.structs.replace(
            overlay, end_exclusive=end, exit=Entry.NONE)
        for overlay in overlays if overlay.start < end)


def _seen(
    overlays: tuple[Overlay, ...], ranges: tuple[FrameRange, ...]
) -> tuple[Overlay, ...]:
    """Those of ``overlays`` that are not hidden: nothing else of a version is made or missed.

    Bars go by the ``ranges`` that it shows.
    """
    return tuple(msgspec.structs.replace(overlay, shown=ranges) if overlay.is_bar else overlay
                 for overlay in overlays if not overlay.hidden)


def veils(
    fades: Fades, ranges: tuple[FrameRange, ...], before: int = 0, after: int = 0
) -> tuple[Overlay, ...]:
    """``fades`` as overlays of a version that shows ``ranges`` of the film.

    ``before`` and ``after`` are the frames of its cards, with which it begins and ends.
    """
    made, spans = [], spans_of(ranges)
    joint = 0 if fades.dissolves else fades.joint
    for number, span in enumerate(spans):
        first, last = number == 0, number == len(spans) - 1
        start = span.start - (before if first else 0)
        stop = span.end_exclusive + (after if last else 0)
        begin = min(fades.begin if first else joint // 2, stop - start)
        end = min(fades.end if last else joint - joint // 2, stop - start)
        if begin > 0:
            made.append(veil(fades.colour, start, start + begin, lifts=True))
        if end > 0:
            made.append(veil(fades.colour, stop - end, stop, lifts=False))
    return tuple(made)


def first_project(frames: int) -> Project:
    """A project with the first three shapes over the whole film."""
    versions = tuple(Version(LETTERS[i], name) for i, name in enumerate(FIRST_SHEETS))
    return Project(versions, FrameRange(0, frames))
