"""A master as it was found: what the probe says of a movie file."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.paths import path_of
from caracal.core.base.translation import tr

KNOWN_CHANNELS = 8  # beyond, channels have no usual meaning
HDR_TRANSFERS = {16: "PQ", 18: "HLG"}  # ITU-T H.273 transfer characteristics


class SoundStream(msgspec.Struct, frozen=True):
    """One sound stream of a file. ``index`` is its place among all streams."""

    codec: str
    rate_hz: int
    channels: int
    layout: str
    index: int = 0


class Colour(msgspec.Struct, frozen=True):
    """Colour tags as numbers of ITU-T H.273; 2 means unknown."""

    primaries: int
    transfer: int
    matrix: int
    full_range: bool


class Master(msgspec.Struct, frozen=True):
    """What a movie file is. ``width`` x ``height`` is the upright picture with square pixels.

    ``frame_rate`` is the exact constant rate that frames are counted in; a file of variable rate
    is conformed to the nearest standard rate. ``start_s`` is the time of the first picture.
    ``rotation_degrees`` and ``mirrored`` (left and right changed, before it is turned) are what is
    undone. ``discontinuous``: its clock begins anew somewhere. ``sound_number`` is which of
    ``sound`` is heard. ``brand`` is what the container calls itself.
    """

    path: str
    container: str
    codec: str
    profile: str
    level: int
    stored_width: int
    stored_height: int
    pixel_aspect: str
    rotation_degrees: int
    width: int
    height: int
    frame_rate: str
    variable_rate: bool
    frames: int
    start_s: float
    duration_s: float
    pixel_format: str
    bit_depth: int
    interlaced: bool
    colour: Colour
    bitrate_kbps: float
    sound: tuple[SoundStream, ...]
    notices: tuple[str, ...]
    mirrored: bool = False
    discontinuous: bool = msgspec.field(default=False, name="joined")
    picture_index: int = 0
    sound_number: int = 0
    brand: str = ""

    @property
    def rate(self) -> Fraction:
        """Returns ``frame_rate`` as a number of frames a second."""
        return Fraction(self.frame_rate)

    @property
    def file(self) -> Path:
        """The path of the film, whatever bytes its name has."""
        return path_of(self.path)

    @property
    def heard(self) -> SoundStream | None:
        """The sound stream that is used."""
        return self.sound[self.sound_number] if self.sound else None


def with_sound(master: Master, number: int) -> Master:
    """``master`` heard by its sound stream ``number``, counted from 0. Raises InputError."""
    if number == master.sound_number:
        return master
    if not 0 <= number < len(master.sound):
        raise InputError(tr("There is no audio track {number}; the film has {count}.",
                            number=number + 1,
                            count=len(master.sound)), master.file, tr("Choose another number."))
    return msgspec.structs.replace(master, sound_number=number)


def _notices(master: Master) -> tuple[str, ...]:
    """What a person should know about this master, a sentence each."""
    return (*_sound_notices(master), *_picture_notices(master))


def _sound_notices(master: Master) -> list[str]:
    said = []
    if not master.sound:
        said.append(tr("No sound: versions get none unless a spec sheet needs a silent track."))
    if len(master.sound) > 1:
        said.append(tr("{count} audio tracks: track {sound_number} ({layout}) is used; another "
                       "can be chosen.", count=len(master.sound),
                       sound_number=master.sound_number + 1,
                       layout=master.sound[master.sound_number].layout))
    if master.heard is not None and master.heard.channels > KNOWN_CHANNELS:
        said.append(tr("{channels} channels of sound: mixed down as stereo pairs.",
                       channels=master.heard.channels))
    return said


def _picture_notices(master: Master) -> list[str]:
    said = []
    if master.variable_rate:
        said.append(tr("Variable frame rate: conformed to a constant {rate:.3f} fps.",
                       rate=float(master.rate)))
    if master.mirrored:
        said.append(tr("Stored mirrored: the picture is mirrored back."))
    if master.discontinuous:
        said.append(tr("Its timestamps restart within the file; pictures are used in their order."))
    if master.rotation_degrees:
        said.append(tr("Stored sideways: the picture is turned by {rotation_degrees} degrees.",
                       rotation_degrees=master.rotation_degrees))
    if Fraction(master.pixel_aspect) != 1:
        said.append(tr("Pixels are not square: widened to their true shape."))
    if master.interlaced:
        said.append(tr("Interlaced: every frame is deinterlaced."))
    if master.colour.transfer in HDR_TRANSFERS:
        said.append(tr("High dynamic range ({hdr_transfers}): tone-mapped to BT.709.",
                       hdr_transfers=HDR_TRANSFERS[master.colour.transfer]))
    if min(master.width, master.height) < 720:
        said.append(tr("Low resolution: versions will be enlarged."))
    return said
