"""What is heard beside the film's own sound, from what lies over a version."""

from __future__ import annotations

from collections.abc import Iterable

from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import Clip
from caracal.core.layout.overlay import Overlay, OwnSound, is_veil
from caracal.core.render.assets.checks import film_of
from caracal.core.sound.mix import ClipSound, ExtraAudio, SoundFade

LOW_DB = -15.0  # of a clip under the film's own sound (common practice: 12 to 18)
GAINS = {OwnSound.LOW: LOW_DB, OwnSound.ON: 0.0}


def accompaniment(overlays: Iterable[Overlay]) -> ExtraAudio:
    """The sounds of those ``overlays`` that are heard, and how all sound fades with the picture.

    Raises InputError when a clip that is heard cannot be read.
    """
    clips, fades = [], []
    for overlay in overlays:
        content, start, end = overlay.content, overlay.start, overlay.end_exclusive
        if overlay.heard:
            assert isinstance(content, Clip), "nothing else is heard"
            film = film_of(content)
            if film.sound:
                clips.append(ClipSound(film, start, end, content.start_s, content.loops,
                                       GAINS[overlay.sound]))
        elif is_veil(overlay):
            fades.append(SoundFade(start, end, overlay.entry is Entry.NONE))
    return ExtraAudio(tuple(clips), tuple(fades))
