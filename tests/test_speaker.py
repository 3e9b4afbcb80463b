"""The sound beside playing pictures: the right samples, at the right time, and quickly silent."""

import time
from fractions import Fraction

import av
import miniaudio
import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt

from caracal.core.base.resources import DEMO_FILM
from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.project.speed_edits import with_speed
from caracal.core.sound import speaker as module
from caracal.core.sound.finished_sound import SoundPlan, finished
from caracal.core.sound.mix import (
    ClipSound,
    ExtraAudio,
    SoundClip,
    SoundMix,
    mix_of_film,
)
from caracal.core.sound.mixer import mixed
from caracal.core.sound.speaker import (
    APART_S,
    BUFFER_S,
    PERIODS,
    RATE_HZ,
    PlayedSound,
    Speaker,
    sound_systems,
)
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from caracal.ui.session.monitoring import Monitoring, VersionSound, own_sound
from caracal.ui.session.played_version import time_of_file
from conftest import write_film

NULL = [miniaudio.Backend.NULL]  # takes samples in real time, and nobody hears them
BLOCK = 1440


class Hand:
    """A clock moved by hand."""

    def __init__(self, at_s):
        self.at_s = at_s

    def __call__(self):
        return self.at_s


@pytest.fixture
def speaker():
    made = Speaker(own_sound(probe(DEMO_FILM)), NULL)
    yield made
    made.close()


def _until(true, seconds=10.0):
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "waited too long"
        time.sleep(0.005)


def _until_shown(true):
    """As :func:`_until`, while the window works."""
    from PySide6.QtCore import QEventLoop, QTimer

    loop, timer, end = QEventLoop(), QTimer(), time.monotonic() + 10
    timer.timeout.connect(lambda: loop.quit() if true() or time.monotonic() > end else None)
    timer.start(10)
    loop.exec()
    assert true()


def _master(start_s, samples):
    with SoundReader(probe(DEMO_FILM), RATE_HZ, 2, round(start_s * RATE_HZ)) as sound:
        return sound.take(samples)


def _fed(speaker, clock):
    """Play by ``clock`` with no sound system, so that the test takes the samples itself."""
    speaker._open = lambda: True
    speaker.play(clock)
    _until(lambda: len(speaker._ready) >= module.AHEAD)
    speaker._taken = PERIODS


def test_what_is_heard_is_the_masters_sound_at_the_pictures_time(speaker):
    clock = Hand(7.5)
    _fed(speaker, clock)
    blocks = []
    for _ in range(20):
        _until(lambda: len(speaker._ready) >= 4 * BLOCK)
        blocks.append(speaker.take(BLOCK))
        clock.at_s += BLOCK / RATE_HZ
    given = np.concatenate(blocks)
    # What is taken now is heard when the buffer before it has been played.
    assert np.array_equal(given, _master(7.5 + BUFFER_S, len(given)))
    assert np.abs(given).max() > 0.01


def test_sound_that_falls_behind_catches_up_and_one_late_call_changes_nothing(speaker):
    clock = Hand(7.0)
    _fed(speaker, clock)
    speaker.take(BLOCK)
    clock.at_s += BLOCK / RATE_HZ + 0.1  # one call comes late, the next is in time again
    speaker.take(BLOCK)
    clock.at_s += BLOCK / RATE_HZ - 0.1
    at = speaker._at_s
    speaker.take(BLOCK)
    assert speaker._at_s == pytest.approx(at + BLOCK / RATE_HZ)
    clock.at_s += 0.3  # for good
    for _ in range(12):
        clock.at_s += BLOCK / RATE_HZ
        _until(lambda: len(speaker._ready) >= module.AHEAD - BLOCK)
        speaker.take(BLOCK)
    off = speaker._at_s - clock.at_s - BUFFER_S - BLOCK / RATE_HZ
    assert abs(off) < APART_S


def test_sound_that_is_early_waits_in_silence(speaker):
    clock = Hand(7.5)
    _fed(speaker, clock)
    clock.at_s -= BUFFER_S + 0.02  # two thirds of a block too early
    given = speaker.take(BLOCK)
    wait = round((0.02 + BUFFER_S - BUFFER_S) * RATE_HZ)
    assert not given[:wait].any()
    assert np.array_equal(given[wait:], _master(7.5, BLOCK - wait))


def test_a_real_sound_system_takes_it_in_real_time_and_stops(speaker):
    began = time.monotonic()
    speaker.play(lambda: 7.0 + time.monotonic() - began)
    _until(lambda: speaker.heard > RATE_HZ // 2)
    took = time.monotonic() - began
    assert speaker.heard / RATE_HZ < took + 0.3
    speaker.stop()
    _until(lambda: not speaker._device.running)
    before = speaker.heard
    time.sleep(0.15)
    assert speaker.heard == before and not speaker.playing


def test_going_elsewhere_while_it_plays(speaker):
    for start in (7.0, 20.0, 3.0, 41.0):  # quicker than a film opens
        speaker.play(Hand(start))
    _until(lambda: len(speaker._ready) >= module.AHEAD)
    assert 41.0 <= speaker._at_s < 41.5


def test_without_a_loudspeaker_it_says_so(monkeypatch, tmp_path):
    said = []
    made = Speaker(
        own_sound(probe(DEMO_FILM)), [miniaudio.Backend.SNDIO], lambda: said.append(True)
    )
    made.play(Hand(0.0))
    _until(lambda: said)
    made.close()
    assert made.heard == 0
    monkeypatch.setattr(module, "SOUND_CARDS", tmp_path / "none")
    assert miniaudio.Backend.ALSA not in sound_systems()
    monkeypatch.setattr(module, "SOUND_CARDS", tmp_path)
    assert miniaudio.Backend.ALSA in sound_systems()


def test_a_film_that_is_gone_plays_in_silence(tmp_path):
    import shutil

    film = tmp_path / "film.mp4"
    shutil.copy(DEMO_FILM, film)
    made = Speaker(own_sound(probe(film)), NULL)
    film.unlink()
    made.play(Hand(7.0))
    _until(lambda: made._device is not None and made._device.running)
    made.close()
    assert made.heard == 0


def test_the_window_plays_with_sound_forwards_at_its_rate_only(window, qtbot):
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    playing = window.film.session.playing
    playing.speaker._systems = NULL
    window.film.session.go(175)
    QTest.keyClick(window, Qt.Key.Key_Space)
    _until_shown(lambda: playing.speaker.heard > 4800)
    QTest.keyClick(window, Qt.Key.Key_L)  # twice as fast
    assert playing.speed == 2 and not playing.speaker.playing
    QTest.keyClick(window, Qt.Key.Key_J)
    assert playing.speed == -1 and not playing.speaker.playing
    QTest.keyClick(window, Qt.Key.Key_L)
    _until_shown(lambda: playing.speaker.playing)  # once the first pictures are made
    QTest.keyClick(window, Qt.Key.Key_M)
    assert playing.speed == 1 and not playing.speaker.playing
    assert window.settings.value("sound", type=bool) is False
    QTest.keyClick(window, Qt.Key.Key_M)
    assert playing.speaker.playing
    QTest.keyClick(window, Qt.Key.Key_K)
    assert not playing.speaker.playing and playing.speed == 0


def test_clips_that_sound_together_are_added_at_their_levels():
    """Amplitudes by arithmetic: -6.0206 dB is a half; a fade is a straight line."""
    master = probe(DEMO_FILM)
    first = RATE_HZ * 8
    clips = (SoundClip(master, first, 0, 4800), SoundClip(master, first, 2400, 4800, -6.0206,
                                                          fade_in=2400))
    mix = SoundMix(clips, RATE_HZ, 2, 9600)
    made = np.concatenate(list(mixed(mix, chunk=1000)))
    own = _master(8, 4800)
    meant = np.zeros((9600, 2))
    meant[:4800] += own
    ramp = np.minimum((np.arange(4800) + 0.5) / 2400, 1.0)
    meant[2400:7200] += own * (ramp / 2)[:, None]
    assert len(made) == 9600 and np.abs(made - meant).max() < 1e-5
    assert np.array_equal(np.concatenate(list(mixed(mix, 3000))), made[3000:])
    assert not list(mixed(mix, 9600))


def test_playing_hears_what_the_file_has(tmp_path, demo, qapp, qtbot):
    """Loudness and range as in the finished file, decoded by FFmpeg; the master's own on demand."""
    sheet = with_value(find_sheet("vertical-short"), "canvas", (90, 160))
    sheet = with_value(sheet, "sound.loudness_lufs", -20.0)  # the master has about -14 here
    span = FrameRange(150, 250)
    (result,) = convert(DEMO_FILM, [Recipe(sheet, ranges=(span,))], tmp_path)
    monitoring, master = Monitoring(None), probe(DEMO_FILM)
    with qtbot.waitSignal(monitoring.measured, timeout=20_000):
        wanted = VersionSound(master, sheet.sound, (span,))
        assert monitoring.sound(wanted).plan == SoundPlan()  # not known yet
    played = monitoring.sound(wanted)
    monitoring.close()
    heard = np.concatenate(list(finished(played.mix, played.plan)))
    start, end = 6 * RATE_HZ, 10 * RATE_HZ  # 150 and 250 frames at 25 a second
    assert not heard[:start].any() and not heard[end:].any()
    with av.open(str(result.file)) as container:
        file = np.concatenate([part.to_ndarray().reshape(2, -1).T for part in
                               container.decode(audio=0)])
    file = file[: end - start]
    own = _master(6, end - start)
    level = [20 * np.log10(np.sqrt((part[RATE_HZ : 4 * RATE_HZ] ** 2).mean()))
             for part in (heard[start:end], file, own)]
    assert level[0] == pytest.approx(level[1], abs=0.2) and abs(level[2] - level[1]) > 1.0


def test_the_window_plays_the_file_or_the_master(window, qtbot):
    session = window.film.session
    qtbot.keyClick(window, Qt.Key.Key_L)
    sound = lambda: session.playing.speaker._sound  # noqa: E731
    qtbot.waitUntil(lambda: sound().plan != SoundPlan(), timeout=20_000)
    qtbot.keyClick(window, Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
    assert sound() == own_sound(session.analysis.master)
    qtbot.keyClick(window, Qt.Key.Key_H, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: session.frame > 0, timeout=20_000)  # its sound may be known at once
    qtbot.keyClick(window, Qt.Key.Key_I)  # the range begins here: what is before it is silent
    qtbot.waitUntil(lambda: sound().mix.clips[0].at > 0, timeout=5_000)
    qtbot.keyClick(window, Qt.Key.Key_K)


def test_a_slowed_stretch_is_played_at_its_speed(window):
    """After half a second at half speed a quarter of a second of the film has passed."""
    session = window.film.session
    project = with_speed(session.project, "A", FrameRange(100, 400, 50))
    project = with_speed(project, "A", FrameRange(0, 50, 25))  # not shown: of no account
    project = msgspec.structs.replace(project, span=FrameRange(60, 1500))
    session.edit(project, "Slower.")
    line = time_of_file(session)
    assert line.time_at(150) == 200 and time_of_file(session).place_at(Fraction(200)) == 150
    session.go(150)
    playing = session.playing
    session.play(1)
    _until_shown(lambda: session.frame > 150)  # time passes once the first pictures are made
    began = time.monotonic()
    _until_shown(lambda: time.monotonic() > began + 1.0)
    passed = (time.monotonic() - began) * 25 / 2
    assert session.frame - 151 == pytest.approx(passed, abs=4)
    playing.hear_file(False)  # the master's own: as fast as it is
    start, began = session.frame, time.monotonic()
    _until_shown(lambda: time.monotonic() > began + 1.0)
    passed = (time.monotonic() - began) * 25
    assert session.frame - start == pytest.approx(passed, abs=5)
    session.play(0)


def test_a_silent_film_is_heard_from_the_moment_its_clip_is_known(tmp_path):
    """Playing starts before the clip's sound is known, and the sound follows."""
    silent_film, sounding = (write_film(tmp_path / name, frames=100, sound=sound)
                             for name, sound in (("silent.mp4", False), ("clip.mp4", True)))
    span = (FrameRange(0, 100),)
    mute = mix_of_film(probe(silent_film), span, RATE_HZ, 2)
    clip = ClipSound(probe(sounding), 0, 100)
    began = time.monotonic()
    speaker = Speaker(PlayedSound(mute), NULL)
    try:
        speaker.play(lambda: time.monotonic() - began)
        assert speaker.playing and speaker._worker is None  # nothing to hear yet
        speaker.hear(PlayedSound(mix_of_film(probe(silent_film), span, RATE_HZ, 2,
                                             ExtraAudio((clip,)))))
        _until(lambda: speaker.heard > RATE_HZ // 4)
    finally:
        speaker.close()
        assert speaker.wait(10.0)
