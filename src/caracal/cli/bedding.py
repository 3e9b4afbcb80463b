"""The sound that versions were asked for with (--bed, --bed-gain, --duck, --clean)."""

from __future__ import annotations

import argparse

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.paths import text_of
from caracal.core.base.translation import tr
from caracal.core.layout.added_sound import (
    AddedSound,
    CleanStrength,
    SoundFile,
    first_bed,
    sound_error,
)
from caracal.core.project.requested import RequestedVersion, with_bed, with_clean_speech
from caracal.core.render.assets.checks import refuse_bad_asset


def bed_asked(asked: argparse.Namespace) -> AddedSound | None:
    """The bed that was asked for; None: none.

    Raises InputError when its file cannot be used, a number is out of range, or there is a number
    without a bed.
    """
    if not asked.bed:
        given = {"--bed-gain": asked.bed_gain, "--duck": asked.duck}
        wrong = [name for name, value in given.items() if value is not None]
        if wrong:
            raise InputError(tr("{wrong} was given without a bed.", wrong=" and ".join(wrong)),
                             remedy=tr("Give a sound file with --bed."))
        return None
    bed = first_bed(SoundFile(text_of(asked.bed.resolve())))
    if asked.bed_gain is not None:
        bed = msgspec.structs.replace(bed, gain_db=asked.bed_gain)
    if asked.duck is not None:
        bed = msgspec.structs.replace(bed, duck_db=-abs(asked.duck))
    if wrong_sound := sound_error(bed):
        raise InputError(wrong_sound, asked.bed, tr("Give another number."))
    refuse_bad_asset(bed.content)
    return bed


def with_sound_asked(
    wanted: RequestedVersion, bed: AddedSound | None, asked: argparse.Namespace
) -> RequestedVersion:
    """``wanted`` with its ``bed``, and its speech cleaned, as far as that was asked for."""
    if bed is not None:
        wanted = with_bed(wanted, bed)
    return wanted if asked.clean is None else with_clean_speech(
        wanted, CleanStrength(asked.clean))
