"""Sounds that a person adds to a version beside the film's own: a bed, effects, a voice-over."""

from __future__ import annotations

import math
from enum import StrEnum

import msgspec

from caracal.core.base.translation import mark, tr

MOST_SOUNDS = 40  # of a version
MOST_GAIN_DB, LEAST_GAIN_DB = 24.0, -60.0
MOST_DUCK_DB = 40.0  # by which a bed goes down at the most
MOST_FADE_S = 60.0
MOST_DELAY_S = 86_400.0
LEAST_LENGTH_S = 0.05
FILTERS_HZ = (20.0, 20_000.0)
DUCK_DB = -12.0  # under speech (common practice: 10 to 15)
UNDER_VOICE_DB, UNDER_VOICE_HZ = -10.0, 1000.0  # a bed that leaves a voice its consonants


class SoundTrack(StrEnum):
    """What a sound is for."""

    BED = mark("bed")
    EFFECT = mark("effect")
    VOICE = mark("voice-over")


class Anchor(StrEnum):
    """What a sound begins with, or ends with."""

    START = mark("start of the version")
    END = mark("end of the version")
    FRAME = mark("frame of the film")


class CleanStrength(StrEnum):
    """By how much noise is lowered behind speech."""

    NONE = mark("off")
    MILD = mark("mild")
    USUAL = mark("usual")
    ALL = mark("all")


class SoundFile(msgspec.Struct, frozen=True, tag="sound"):
    """The sound file at ``path``, or the sound of a film file, from ``start_s`` to ``end_s``.

    ``end_s`` None: to its end.
    """

    path: str
    start_s: float = 0.0
    end_s: float | None = None


class AddedSound(msgspec.Struct, frozen=True):
    """One sound of a version, on a ``track``.

    It begins ``delay_s`` after its ``anchor``: the version's start, or ``frame`` of the film; or it
    ends so long before the version's end. A sound on a frame that the version does not show is not
    heard. It ``fills`` the rest of the version, repeated or cut off; else it lasts as long as its
    file. ``duck_db`` (0 or less) lowers it while somebody speaks. Sound above ``low_pass_hz`` and
    below ``high_pass_hz`` is taken out (0: none is). Fades are of equal power.
    """

    content: SoundFile
    track: SoundTrack = SoundTrack.BED
    anchor: Anchor = Anchor.START
    frame: int = 0
    delay_s: float = 0.0
    fills: bool = False
    gain_db: float = 0.0
    fade_in_s: float = 0.0
    fade_out_s: float = 0.0
    duck_db: float = 0.0
    low_pass_hz: float = 0.0
    high_pass_hz: float = 0.0
    muted: bool = False


def first_bed(content: SoundFile) -> AddedSound:
    """A bed as it is added first: under all of the version, lower while somebody speaks."""
    return AddedSound(content, fills=True, gain_db=-14.0, fade_in_s=0.5, fade_out_s=1.5,
                      duck_db=DUCK_DB)


def first_effect(content: SoundFile, frame: int) -> AddedSound:
    """An effect as it is added first, at ``frame`` of the film."""
    return AddedSound(content, SoundTrack.EFFECT, Anchor.FRAME, frame)


def first_voice(content: SoundFile, frame: int) -> AddedSound:
    """A voice-over as it is added first, at ``frame`` of the film."""
    return AddedSound(content, SoundTrack.VOICE, Anchor.FRAME, frame)


def sound_error(sound: AddedSound) -> str:
    """What is not valid in ``sound``, in a sentence that names value and range; empty: nothing."""
    content, end_s = sound.content, sound.content.end_s
    limits = (
        (tr("gain"), sound.gain_db, LEAST_GAIN_DB, MOST_GAIN_DB, "dB"),
        (tr("ducking"), sound.duck_db, -MOST_DUCK_DB, 0.0, "dB"),
        (tr("fade in"), sound.fade_in_s, 0.0, MOST_FADE_S, "s"),
        (tr("fade out"), sound.fade_out_s, 0.0, MOST_FADE_S, "s"),
        (tr("delay"), sound.delay_s, 0.0, MOST_DELAY_S, "s"),
        (tr("start"), content.start_s, 0.0, MOST_DELAY_S, "s"),
        (tr("frame"), float(sound.frame), 0.0, 1e9, ""))
    for name, value, least, most, unit in limits:
        if not (math.isfinite(value) and least <= value <= most):
            return tr("The {name} of a sound is {value:g} {unit}; allowed are {least:g} to "
                      "{most:g} {unit}.", name=name, value=value, unit=unit, least=least, most=most)
    if end_s is not None and not (math.isfinite(end_s)
                                  and end_s >= content.start_s + LEAST_LENGTH_S):
        return tr("A sound ends at {end_s:g} s and starts at {start_s:g} s; it must last at least "
                  "{least:g} s.", end_s=end_s, start_s=content.start_s, least=LEAST_LENGTH_S)
    for hertz in (sound.low_pass_hz, sound.high_pass_hz):
        if hertz and not FILTERS_HZ[0] <= hertz <= FILTERS_HZ[1]:
            return tr("The filter of a sound is at {hertz:g} Hz; allowed are {least:g} to {most:g} "
                      "Hz, or 0 for none.", hertz=hertz, least=FILTERS_HZ[0], most=FILTERS_HZ[1])
    return ""
