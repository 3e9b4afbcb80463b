"""What is seen and heard when the chosen version is played: as its file will have it."""

from __future__ import annotations

from typing import Protocol

from caracal.core.analysis.model import Analysis
from caracal.core.base.time import FrameRange, with_speeds
from caracal.core.base.timeline import Timeline, timeline
from caracal.core.project.model import Project
from caracal.core.sound.speaker import PlayedSound
from caracal.core.specs.sheet import SpecSheet
from caracal.ui.session.monitoring import Monitoring, VersionSound, heard_overlays


class Chosen(Protocol):
    """A film with the letter of the version that is chosen."""

    analysis: Analysis

    @property
    def letter(self) -> str:
        """The chosen version."""

    @property
    def project(self) -> Project:
        """What was decided."""

    def sheet(self, letter: str) -> SpecSheet:
        """The spec sheet of a version."""


def sound_of_version(film: Chosen) -> VersionSound:
    """What the sound of the chosen version's file follows from."""
    project, letter = film.project, film.letter
    version = project.version(letter)
    before, after = (0 if card is None else card.frames
                     for card in (version.opening, version.closing))
    return VersionSound(
        film.analysis.master, film.sheet(letter).sound, project.ranges_of(letter),
        heard_overlays(project.overlays_on_film(letter)), version.sounds, (before, after),
        version.clean)


def sound_of_file(film: Chosen, monitoring: Monitoring) -> PlayedSound:
    """What the chosen version's file will sound like, as far as ``monitoring`` knows."""
    return monitoring.sound(sound_of_version(film))


def time_of_file(film: Chosen) -> Timeline:
    """All of the film; what the chosen version shows of it has the speed that it has there."""
    whole = FrameRange(0, film.analysis.master.frames)
    speeds = (span for span in film.project.ranges_of(film.letter) if span.percent != 100)
    return timeline(with_speeds((whole,), speeds), film.analysis.master.rate)
