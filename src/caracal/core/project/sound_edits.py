"""Edits of the sounds that are added to a version."""

from __future__ import annotations

import msgspec

from caracal.core.base.errors import InputError
from caracal.core.base.translation import tr
from caracal.core.layout.added_sound import MOST_SOUNDS, AddedSound, CleanStrength, sound_error
from caracal.core.project.edits import changed_version
from caracal.core.project.model import Project


def with_sounds(project: Project, letter: str, sounds: tuple[AddedSound, ...]) -> Project:
    """``sounds`` added to version ``letter``. Raises InputError."""
    wrong = sounds_error(sounds)
    if wrong:
        raise InputError(wrong, remedy=tr("Change its numbers."))
    return changed_version(project, letter, sounds=sounds)


def sounds_error(sounds: tuple[AddedSound, ...]) -> str:
    """What is not valid in ``sounds``, in a sentence; empty: nothing."""
    if len(sounds) > MOST_SOUNDS:
        return tr("A version has {count} added sounds; allowed are up to {most}.",
                  count=len(sounds), most=MOST_SOUNDS)
    return next(filter(None, map(sound_error, sounds)), "")


def with_sound_added(project: Project, letter: str, sound: AddedSound) -> Project:
    """``sound`` added to version ``letter``, after the others. Raises InputError."""
    return with_sounds(project, letter, (*project.version(letter).sounds, sound))


def with_sound_changed(project: Project, letter: str, number: int, **changes: object) -> Project:
    """Sound ``number`` of version ``letter`` with other values. Raises InputError."""
    sounds = list(project.version(letter).sounds)
    sounds[number] = msgspec.structs.replace(sounds[number], **changes)
    return with_sounds(project, letter, tuple(sounds))


def without_sound(project: Project, letter: str, number: int) -> Project:
    """The version without its sound ``number``."""
    sounds = project.version(letter).sounds
    return with_sounds(project, letter, sounds[:number] + sounds[number + 1 :])


def sound_like(project: Project, letter: str, sound: AddedSound) -> int | None:
    """The number of the sound of version ``letter`` that has the same file, track and anchor as
    ``sound``; None: it has none."""
    def place(each: AddedSound) -> tuple[object, ...]:
        return each.content.path, each.track, each.anchor, each.frame

    return next((number for number, other in enumerate(project.version(letter).sounds)
                 if place(other) == place(sound)), None)


def with_clean(project: Project, letter: str, strength: CleanStrength) -> Project:
    """Version ``letter`` with the film's speech cleaned by ``strength``."""
    return changed_version(project, letter, clean=strength)
