"""Beds, effects and voice-overs: where they lie to the sample, how they fade, duck and repeat."""

from __future__ import annotations

import wave
from fractions import Fraction

import msgspec
import numpy as np
import pytest

from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken
from caracal.core.layout.added_sound import (
    AddedSound,
    Anchor,
    SoundFile,
    SoundTrack,
    first_bed,
    sound_error,
)
from caracal.core.media.probe_sound import probe_sound
from caracal.core.plan.sound_plan import extra_audio
from caracal.core.sound.added import AddedAudio
from caracal.core.sound.ducking import duck_points, merged
from caracal.core.sound.loop import RATE_HZ, find_beat, find_loop, loop_of
from caracal.core.sound.mix import ExtraAudio, SoundFade, mix_of_file, mix_of_film
from caracal.core.sound.mixer import mixed
from caracal.core.specs.sheet import Sound
from conftest import ffmpeg

RATE = 48000
SHEET = Sound(rate_hz=RATE, channels=2)


def write_wav(path, samples, rate=RATE):
    """``samples`` (n,) or (n, channels), -1..1, as 16-bit PCM."""
    samples = np.atleast_2d(np.asarray(samples).T).T
    with wave.open(str(path), "wb") as file:
        file.setnchannels(samples.shape[1])
        file.setsampwidth(2)
        file.setframerate(rate)
        file.writeframes((np.clip(samples, -1, 1) * 32767).astype("<i2").tobytes())
    return path


@pytest.fixture(scope="module")
def silent_film(tmp_path_factory):
    """Ten seconds without sound, 25 frames a second."""
    from caracal.core.media.probe import probe

    made = tmp_path_factory.mktemp("silent") / "silent.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc=size=320x180:rate=25:duration=10", "-pix_fmt", "yuv420p",
           made)
    return probe(made)


def constant(tmp_path, seconds, value=0.5, name="constant.wav"):
    return probe_sound(write_wav(tmp_path / name, np.full(round(seconds * RATE), value)))


def heard(mix, start=0):
    return np.concatenate(list(mixed(mix, start)))[:, 0]


def in_file(film, *added, ranges=None, speech=()):
    line = timeline(ranges or (FrameRange(0, film.frames),), film.rate)
    return heard(mix_of_file(film, SHEET, line, ExtraAudio(added=added, speech=speech)))


@pytest.mark.parametrize(("frame", "ranges", "place_s"), [
    (None, None, 0.0), (50, None, 2.0), (60, (FrameRange(50, 100),), 0.4),
    (110, (FrameRange(0, 50), FrameRange(100, 150)), 2.4),  # 2 s, and 10 frames of the second range
    (150, (FrameRange(100, 200, 200),), 1.0),  # at twice the speed
])
def test_a_sound_begins_at_its_frame_to_the_sample(silent_film, tmp_path, frame, ranges, place_s):
    """An impulse, counted on paper: frames a second, ranges and speeds."""
    click = np.zeros(1000)
    click[0] = 0.8
    source = probe_sound(write_wav(tmp_path / "click.wav", click))
    made = in_file(silent_film, AddedAudio(source, 0.0, source.duration_s, frame), ranges=ranges)
    assert np.argmax(np.abs(made)) == round(place_s * RATE)


def test_a_sound_on_a_frame_that_is_cut_out_is_not_heard(silent_film, tmp_path):
    source = constant(tmp_path, 1)
    made = in_file(silent_film, AddedAudio(source, 0.0, 1.0, 120), ranges=(FrameRange(0, 100),))
    assert not made.any() and len(made) == 4 * RATE


def test_a_sound_at_the_end_ends_with_the_version(silent_film, tmp_path):
    source = constant(tmp_path, 1.5)
    made = in_file(silent_film, AddedAudio(source, 0.0, 1.5, at_end=True, delay_s=0.25))
    (sounding,) = np.nonzero(made)
    assert (sounding[0], sounding[-1] + 1) == (round(8.25 * RATE), round(9.75 * RATE))


def test_fades_have_equal_power_at_every_sample(silent_film, tmp_path):
    """sin² + cos² = 1: what fades out and what fades in have the same power together."""
    source = constant(tmp_path, 4)
    made = in_file(silent_film, AddedAudio(source, 0.0, 4.0, fade_in_s=1.0, fade_out_s=1.0))
    fade_in, fade_out = made[:RATE], made[3 * RATE : 4 * RATE]
    assert np.allclose(fade_in**2 + fade_out**2, 0.25, atol=1e-3)
    share = (np.arange(RATE) + 0.5) / RATE
    assert np.allclose(fade_in, 0.5 * np.sin(share * np.pi / 2), atol=1e-3)


def test_a_bed_that_fills_is_repeated_without_a_hole_or_a_step(silent_film, tmp_path):
    """A tone that does not come round in its length: the wave must fit where it is joined."""
    t = np.arange(round(1.0031 * RATE)) / RATE
    tone = 0.3 * np.sin(2 * np.pi * 220 * t)
    source = probe_sound(write_wav(tmp_path / "tone.wav", tone))
    loop = find_loop(source, 0.0, source.duration_s, CancelToken())
    made = in_file(silent_film, AddedAudio(source, 0.0, source.duration_s, fills=True,
                                           loop_s=loop.length, loop_fits=loop.fits))
    assert len(made) == 10 * RATE
    blocks = np.sqrt((made[: len(made) // 480 * 480].reshape(-1, 480) ** 2).mean(axis=1))
    assert loop.fits and blocks.min() > 0.9 * blocks.mean()  # nowhere a hole of 10 ms
    assert blocks.max() < 1.1 * blocks.mean()  # nor a bump
    # No step beyond the sound's own: the largest one of a sine is 2 pi f / rate times its height.
    assert np.abs(np.diff(made)).max() < 1.6 * 0.3 * 2 * np.pi * 220 / RATE


def test_a_long_bed_is_cut_off_with_its_fade(silent_film, tmp_path):
    source = constant(tmp_path, 30)
    made = in_file(silent_film, AddedAudio(source, 0.0, 30.0, fills=True, fade_out_s=2.0))
    assert len(made) == 10 * RATE and abs(made[-1]) < 1e-3
    assert made[8 * RATE - 10] == pytest.approx(0.5, abs=1e-3)


def test_ducking_has_its_depth_and_its_times(silent_film, tmp_path):
    """-12 dB within speech; down 120 ms before it, back 500 ms after it, straight in dB."""
    source = constant(tmp_path, 10)
    made = in_file(silent_film, AddedAudio(source, 0.0, 10.0, fills=True, duck_db=-12.0),
                   speech=((100, 150),))

    def decibels(at_s):
        return 20 * np.log10(made[round(at_s * RATE)] / 0.5)

    assert decibels(3.8) == pytest.approx(0, abs=0.01)
    assert decibels(4.0 - 0.06) == pytest.approx(-6, abs=0.05)
    assert decibels(4.01) == decibels(5.99) == pytest.approx(-12, abs=0.01)
    assert decibels(6.25) == pytest.approx(-6, abs=0.05)
    assert decibels(6.51) == pytest.approx(0, abs=0.01)


def test_a_bed_between_two_sentences_turns_where_its_slopes_meet():
    """Counted on paper: 310 samples apart, 500 back and 120 down: they meet after 250, half-way."""
    points = duck_points([(1000, 2000), (2310, 3000)], -12.0, 1000)
    assert points == ((880, 0.0), (1000, -12.0), (2000, -12.0), (2250, -6.0), (2310, -12.0),
                      (3000, -12.0), (3500, 0.0))
    assert merged([(5, 9), (0, 3), (3, 4), (8, 12), (20, 20)]) == [(0, 4), (5, 12)]


def test_a_voice_over_lowers_the_bed_and_not_itself(silent_film, tmp_path):
    bed = AddedAudio(constant(tmp_path, 10, 0.25), 0.0, 10.0, fills=True, duck_db=-20.0)
    voice = AddedAudio(constant(tmp_path, 2, 0.5, "voice.wav"), 0.0, 2.0, 100, duck_db=-20.0,
                       speaks=True)
    made = in_file(silent_film, bed, voice)
    assert made[3 * RATE] == pytest.approx(0.25, abs=1e-3)
    assert made[5 * RATE] == pytest.approx(0.5 + 0.025, abs=1e-3)


@pytest.mark.parametrize(("low", "high", "hertz"), [
    (1000.0, 0.0, 500), (1000.0, 0.0, 4000), (0.0, 200.0, 50), (0.0, 200.0, 1000)])
def test_filters_have_the_response_of_a_butterworth(silent_film, tmp_path, low, high, hertz):
    """Against the formula of the bilinear transform: 1 / sqrt(1 + (tan f / tan fc)^4)."""
    t = np.arange(4 * RATE) / RATE
    source = probe_sound(write_wav(tmp_path / "tone.wav", 0.5 * np.sin(2 * np.pi * hertz * t)))
    made = in_file(silent_film, AddedAudio(source, 0.0, 4.0, low_pass_hz=low, high_pass_hz=high))
    level = np.sqrt(2 * (made[RATE : 3 * RATE] ** 2).mean()) / 0.5
    ratio = np.tan(np.pi * hertz / RATE) / np.tan(np.pi * (low or high) / RATE)
    ratio = ratio if low else 1 / ratio
    assert 20 * np.log10(level) == pytest.approx(-10 * np.log10(1 + ratio**4), abs=0.1)


def test_the_loudspeaker_plays_the_samples_of_the_file(silent_film, tmp_path):
    """All of the film, of which a version shows two ranges: each sounds as in the file."""
    rng = np.random.default_rng(5)
    source = probe_sound(write_wav(tmp_path / "noise.wav", rng.uniform(-0.5, 0.5, 3 * RATE)))
    beside = ExtraAudio(added=(AddedAudio(source, 0.0, 3.0, fills=True, fade_in_s=0.5,
                                          duck_db=-6.0),), speech=((60, 90),))
    ranges = (FrameRange(25, 100), FrameRange(150, 200))
    line = timeline(ranges, silent_film.rate)
    file = heard(mix_of_file(silent_film, SHEET, line, beside))
    film = heard(mix_of_film(silent_film, ranges, RATE, 2, beside))
    assert np.allclose(film[RATE : 4 * RATE], file[: 3 * RATE], atol=1e-6)
    assert np.allclose(film[6 * RATE : 8 * RATE], file[3 * RATE :], atol=1e-6)
    assert not film[:RATE].any() and not film[4 * RATE : 6 * RATE].any()


def test_added_sounds_begin_with_the_card(silent_film, tmp_path):
    source = constant(tmp_path, 20)
    line = msgspec.structs.replace(timeline((FrameRange(50, 100),), silent_film.rate), opening=25)
    beside = ExtraAudio(added=(AddedAudio(source, 0.0, 20.0, fills=True, fade_in_s=1.0),))
    file = heard(mix_of_file(silent_film, SHEET, line, beside))
    film = heard(mix_of_film(silent_film, (FrameRange(50, 100),), RATE, 2, beside, (25, 0)))
    assert len(file) == 3 * RATE and file[RATE // 2] == pytest.approx(0.5 * np.sqrt(0.5), abs=1e-3)
    assert np.allclose(film[2 * RATE : 4 * RATE], file[RATE:], atol=1e-6)


def test_starting_in_the_middle_gives_the_same_samples(silent_film, tmp_path):
    source = constant(tmp_path, 1)
    line = timeline((FrameRange(0, 250),), silent_film.rate)
    mix = mix_of_file(silent_film, SHEET, line, ExtraAudio(added=(
        AddedAudio(source, 0.0, 1.0, fills=True, fade_in_s=0.5, gain_db=-6.0),)))
    whole = heard(mix)
    assert np.allclose(heard(mix, 5 * RATE + 7), whole[5 * RATE + 7 :], atol=1e-6)


@pytest.mark.parametrize("suffix", ["wav", "flac", "mp3", "m4a", "ogg", "opus", "mp4"])
def test_every_common_kind_of_file_is_read_with_its_length(tmp_path, suffix):
    """Against the length that was asked of FFmpeg."""
    path = tmp_path / f"sound.{suffix}"
    picture = ["-f", "lavfi", "-i", "testsrc=size=64x64:rate=25:duration=2"] * (suffix == "mp4")
    ffmpeg("-f", "lavfi", "-i", "sine=frequency=440:sample_rate=44100:duration=2", *picture, path)
    found = probe_sound(path)
    assert found.duration_s == pytest.approx(2.0, abs=0.06) and found.heard is not None


def test_files_without_sound_and_damaged_ones_are_told_with_a_remedy(tmp_path, silent_film):
    with pytest.raises(InputError, match="no sound"):
        probe_sound(silent_film.file)
    text = tmp_path / "words.wav"
    text.write_text("no sound at all")
    with pytest.raises(InputError, match="not a sound file") as told:
        probe_sound(text)
    assert "WAV" in told.value.remedy
    with pytest.raises(InputError):
        probe_sound(tmp_path / "nowhere.wav")
    (tmp_path / "empty.mp3").touch()
    with pytest.raises(InputError, match="empty"):
        probe_sound(tmp_path / "empty.mp3")


def test_a_file_that_ends_before_its_start_is_told(tmp_path, silent_film):
    path = write_wav(tmp_path / "short.wav", np.zeros(RATE))
    sound = AddedSound(SoundFile(str(path), start_s=3.0))
    with pytest.raises(InputError, match=r"ends at 1\.00 s"):
        extra_audio(silent_film, (FrameRange(0, 10),), (), (sound,))


@pytest.mark.parametrize("changes", [
    {"gain_db": 30.0}, {"duck_db": 3.0}, {"fade_in_s": -1.0}, {"low_pass_hz": 5.0},
    {"delay_s": float("nan")}, {"content": SoundFile("a.wav", 2.0, 1.0)}])
def test_values_that_cannot_be_are_told_with_their_range(changes):
    assert sound_error(first_bed(SoundFile("a.wav"))) == ""
    assert "allowed" in (wrong := sound_error(msgspec.structs.replace(
        first_bed(SoundFile("a.wav")), **changes))) or "at least" in wrong


def test_what_a_sound_is_anchored_to_is_handed_on(tmp_path, silent_film):
    path = write_wav(tmp_path / "one.wav", np.zeros(RATE))
    made = extra_audio(silent_film, (FrameRange(0, 10),), (), (
        AddedSound(SoundFile(str(path)), SoundTrack.VOICE, Anchor.FRAME, 5),
        AddedSound(SoundFile(str(path)), anchor=Anchor.END, delay_s=1.0),
        AddedSound(SoundFile(str(path)), muted=True)))
    assert [(each.frame, each.at_end, each.speaks) for each in made.added] == [
        (5, False, True), (None, True, False)]
    assert Fraction(made.added[0].source.duration_s) == 1


def beats(bpm, seconds):
    """Decaying clicks at every beat, the first of four louder, over a little noise."""
    rng = np.random.default_rng(1)
    wave = rng.normal(0, 0.003, round(seconds * RATE_HZ)).astype(np.float32)
    hit = np.exp(-np.arange(4000) / 600) * np.sin(2 * np.pi * 180 * np.arange(4000) / RATE_HZ)
    for number in range(int(seconds * bpm / 60)):
        at = round(number * 60 / bpm * RATE_HZ)
        part = wave[at : at + 4000]
        part += (0.6 if number % 4 == 0 else 0.3) * hit[: len(part)]
    return wave


@pytest.mark.parametrize("bpm", [72, 96, 120.5, 128, 150])
def test_a_loop_ends_at_a_whole_bar(bpm):
    """By arithmetic: four beats of 60 / bpm seconds; heard as wrong from about 10 ms on."""
    wave = beats(bpm, 21.3)
    assert 60 / find_beat(wave).seconds == pytest.approx(bpm, rel=0.01)
    bars = loop_of(wave).length / RATE_HZ / (4 * 60 / bpm)
    assert abs(bars - round(bars)) * 4 * 60 / bpm < 0.006 and round(bars) >= 3


def test_noise_has_no_beat():
    rng = np.random.default_rng(2)
    assert find_beat(rng.normal(0, 0.1, 10 * RATE_HZ).astype(np.float32)).clarity < 0.25


def test_a_bed_goes_on_where_ranges_meet_and_fades_with_the_version(silent_film, tmp_path):
    """A dip to black of a second between two ranges, and a fade out of a second at the end."""
    source = constant(tmp_path, 10)
    fades = (SoundFade(87, 100, False), SoundFade(150, 162, True), SoundFade(175, 200, False))
    line = timeline((FrameRange(50, 100), FrameRange(150, 200)), silent_film.rate)
    made = heard(mix_of_file(silent_film, SHEET, line, ExtraAudio(
        fades=fades, added=(AddedAudio(source, 0.0, 10.0, fills=True),))))
    assert np.allclose(made[: 3 * RATE], 0.5, atol=1e-3)
    assert made[-RATE // 2] == pytest.approx(0.25, abs=0.01) and abs(made[-1]) < 0.01
