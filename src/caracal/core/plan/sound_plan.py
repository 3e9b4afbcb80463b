"""What is heard beside the film's own sound, from its overlays and its added sounds."""

from __future__ import annotations

from collections.abc import Iterable

from caracal.core.base.paths import changed_ns
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken, Report, no_progress
from caracal.core.layout.added_sound import AddedSound, Anchor, CleanStrength, SoundTrack
from caracal.core.layout.entrance import Entry
from caracal.core.layout.model import Clip
from caracal.core.layout.overlay import Overlay, OwnSound, is_veil
from caracal.core.media.master import Master
from caracal.core.plan.clean_sound import clean_source
from caracal.core.plan.speech_spans import speech_spans
from caracal.core.render.assets.checks import film_of, sound_of
from caracal.core.sound.added import AddedAudio
from caracal.core.sound.ducking import Span
from caracal.core.sound.loop import Loop, find_loop
from caracal.core.sound.mix import ClipSound, ExtraAudio, SoundFade

LOW_DB = -15.0  # of a clip under the film's own sound (common practice: 12 to 18)
GAINS = {OwnSound.LOW: LOW_DB, OwnSound.ON: 0.0}
MOST_KNOWN = 64  # sounds of which it is known where they are repeated

_loops: dict[tuple[str, int, float, float], Loop] = {}


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


def extra_audio(
    master: Master, ranges: Iterable[FrameRange], overlays: Iterable[Overlay],
    sounds: Iterable[AddedSound], report: Report = no_progress, cancel: CancelToken | None = None,
    speech: tuple[Span, ...] | None = None, clean: CleanStrength = CleanStrength.NONE,
) -> ExtraAudio:
    """All that is heard beside the own sound of ``master`` in a version that shows ``ranges``.

    ``speech`` are the frames in which somebody speaks, where that is known. The film's own sound is
    cleaned by ``clean``.
    Raises InputError when a file cannot be read, Cancelled when stopped.
    """
    token = cancel or CancelToken()
    beside = accompaniment(overlays)
    ranges = tuple(ranges)
    lasts_s = sum(float(each.duration_frames) for each in ranges) / float(master.rate)
    added = tuple(_added(sound, lasts_s, token) for sound in sounds if not sound.muted)
    ducked = master.sound and any(each.duck_db for each in added)
    if ducked and speech is None:
        speech = tuple(span for part in ranges
                       for span in speech_spans(master, part, report, token))
    return ExtraAudio(beside.clips, beside.fades, added, speech if ducked and speech else (),
                      clean_source(master, clean, report, token))


def _added(sound: AddedSound, version_s: float, cancel: CancelToken) -> AddedAudio:
    """``sound`` as the mixer takes it; repeated at a bar if it is shorter than the version."""
    source, content = sound_of(sound.content, cancel), sound.content
    end_s = min(source.duration_s, content.end_s or source.duration_s)
    loops = sound.fills and end_s - content.start_s < version_s
    loop = _loop(source, content.start_s, end_s, cancel) if loops else None
    return AddedAudio(
        source, content.start_s, end_s,
        frame=sound.frame if sound.anchor is Anchor.FRAME else None,
        at_end=sound.anchor is Anchor.END, delay_s=sound.delay_s, fills=sound.fills,
        gain_db=sound.gain_db, fade_in_s=sound.fade_in_s, fade_out_s=sound.fade_out_s,
        duck_db=sound.duck_db, low_pass_hz=sound.low_pass_hz, high_pass_hz=sound.high_pass_hz,
        speaks=sound.track is SoundTrack.VOICE,
        loop_s=None if loop is None else loop.length, loop_fits=loop is not None and loop.fits)


def _loop(source: Master, start_s: float, end_s: float, cancel: CancelToken) -> Loop:
    key = source.path, changed_ns(source.file), start_s, end_s
    if key not in _loops:
        if len(_loops) >= MOST_KNOWN:
            _loops.clear()
        _loops[key] = find_loop(source, start_s, end_s, cancel)
    return _loops[key]
