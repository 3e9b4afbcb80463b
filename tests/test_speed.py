"""Ranges at another speed: which picture, which sound and which caption is where, on paper, by
FFmpeg's decoder and by the pitch that is heard."""

import subprocess
import wave
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy.signal import butter, sosfilt

from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange, spans_of, with_speeds
from caracal.core.base.timeline import timeline
from caracal.core.convert import convert
from caracal.core.encoding.evidence import gather
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.media.tempo import TempoReader, lead
from caracal.core.project.model import Fades, first_project, veils
from caracal.core.project.recipe import Recipe
from caracal.core.project.speed_edits import speed_at, with_speed
from caracal.core.sound.mix import (
    ClipSound,
    ExtraAudio,
    SoundFade,
    mix_of_file,
    mix_of_film,
)
from caracal.core.sound.mixer import mixed
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import Captions
from caracal.core.specs.sheet_store import find_sheet
from caracal.core.text.cues import Cue, Word, cues_in
from conftest import ffmpeg, write_film
from test_clips import CANVAS, brightness, number_in, ramp

RATE = Fraction(25)


def line(*ranges, rate=RATE, **more):
    return timeline(ranges, RATE, rate, **more)


def test_half_speed_shows_every_picture_twice_and_double_speed_every_other():
    slow = line(FrameRange(10, 14, 50, repeated=True))
    assert slow.frames == 8 and slow.seconds == pytest.approx(8 / 25)
    assert slow.sources()[0].tolist() == [0, 0, 1, 1, 2, 2, 3, 3]
    fast = line(FrameRange(10, 18, 200, repeated=True))
    assert fast.frames == 4 and fast.sources()[0].tolist() == [0, 2, 4, 6]
    assert not fast.sources()[1].any()


def test_mixed_pictures_have_the_share_of_their_time():
    places, shares = line(FrameRange(0, 4), FrameRange(4, 6, 40)).sources()
    # On paper: after four pictures as they are, a picture lasts 2.5 frames of the file.
    assert places.tolist() == [0, 1, 2, 3, 4, 4, 4, 5, 5]
    # Nothing follows the last one.
    assert shares.tolist() == pytest.approx([0, 0, 0, 0, 0, 0.4, 0.8, 0, 0])


def test_nothing_is_mixed_over_a_cut():
    _, shares = line(FrameRange(0, 4, 50)).sources(cuts=[2])
    assert shares.tolist() == [0, 0.5, 0, 0, 0, 0.5, 0, 0]


def test_speeds_and_rates_add_up():
    made = line(FrameRange(0, 50), FrameRange(50, 100, 50), FrameRange(100, 200, 400),
                rate=Fraction(30))
    # 2 s, 4 s and 1 s.
    assert made.seconds == 7.0 and made.frames == 210
    assert made.sound(48000) == ((0, 96000), (96000, 192000), (192000, 48000))
    places = made.sources()[0]
    assert places[60] == 50 and places[180] == 100 and places[-1] == 196  # (29/30 s of 4 x 25)


@given(st.lists(st.tuples(st.integers(1, 60), st.integers(25, 400)), min_size=1, max_size=6),
       st.sampled_from([RATE, Fraction(24), Fraction(30000, 1001), Fraction(60)]),
       st.integers(0, 20), st.integers(0, 20))
@example([(1, 25), (1, 200)], RATE, 0, 0)  # half a frame is over, which is all of the last range
@example([(1, 200)], RATE, 0, 2)
@example([(1, 399)], Fraction(30000, 1001), 0, 1)  # half a frame of the card is over
def test_times_of_any_speeds_are_kept(pieces, rate, opening, closing):
    ranges, at = [], 0
    for count, percent in pieces:
        ranges.append(FrameRange(at, at + count, percent))
        at += count + 3
    made = msgspec.structs.replace(line(*ranges, rate=rate), opening=opening, closing=closing)
    places, shares = made.sources()
    assert len(places) == made.frames and np.all(np.diff(places) >= 0)
    assert np.all((shares >= 0) & (shares < 1)) and places[0] == 0
    lasts = opening + closing + sum(Fraction(count * 100, percent) for count, percent in pieces)
    assert abs(made.frames - lasts * rate / RATE) <= 1
    wanted = round(made.frames * 48000 / rate)
    heard = sum(count for _, count in made.sound(48000)) + sum(made.silence(48000))
    assert heard == wanted
    for at in (Fraction(0), lasts / 3, lasts * 99 / 100):
        assert 0 <= made.place_at(at) <= made.joined


def test_what_is_no_speed_is_refused():
    for percent in (0, 24, 401, -100):
        with pytest.raises(InputError, match="Speed must be between"):
            FrameRange(0, 10, percent)


def test_ranges_are_parted_where_a_speed_begins_and_joined_again():
    slow = FrameRange(20, 40, 50)
    parted = with_speeds((FrameRange(0, 30), FrameRange(50, 60)), (slow,))
    assert parted == (FrameRange(0, 20), FrameRange(20, 30, 50), FrameRange(50, 60))
    assert spans_of(parted) == (FrameRange(0, 30), FrameRange(50, 60))
    assert veils(Fades(joint=4), parted) == veils(Fades(joint=4), spans_of(parted))


def test_a_stretch_gets_a_speed_another_one_and_its_own_again():
    project = first_project(200)
    project = with_speed(project, "A", FrameRange(50, 100, 50))
    project = with_speed(project, "A", FrameRange(80, 120, 200, muted=True))
    assert project.version("A").speeds == (
        FrameRange(50, 80, 50), FrameRange(80, 120, 200, muted=True))
    assert speed_at(project, "A", 90).percent == 200 and speed_at(project, "B", 90) is None
    assert project.ranges_of("B") == (FrameRange(0, 200),)
    project = with_speed(project, "A", FrameRange(60, 110))
    assert project.version("A").speeds == (
        FrameRange(50, 60, 50), FrameRange(110, 120, 200, muted=True))


def stretched(path, speed, first=0):
    return TempoReader(SoundReader(probe(path), 48000, 2, first - lead(48000)), 48000, 2, speed)


def film_with_sound(folder, sound):
    """A film in grey with ``sound`` (n, 2)."""
    sound.astype(np.float32).tofile(folder / "sound.f32")
    ffmpeg("-f", "lavfi", "-i", f"color=s=64x64:r=25:d={len(sound) / 48000}", "-f", "f32le", "-ar",
           "48000", "-ac", "2", "-i", folder / "sound.f32", "-c:v", "libx264", "-c:a", "pcm_s24le",
           folder / "film.mov")
    return folder / "film.mov"


@pytest.mark.parametrize("speed", [0.25, 0.5, 0.9, 1.5, 4.0])
def test_stretched_sound_does_not_click(tmp_path, speed):
    """Two tones below 500 Hz: above 3.5 kHz there is nothing, at the beginning and at joints."""
    at = np.arange(15 * 48000) / 48000
    tones = 0.3 * np.sin(2 * np.pi * 440 * at) + 0.2 * np.sin(2 * np.pi * 233 * at)
    reader = stretched(film_with_sound(tmp_path, np.stack([tones] * 2, 1)), speed, 48000)
    heard = reader.take(round(13 / speed * 48000))[:, 0]
    reader.close()
    high = sosfilt(butter(6, 3500, "high", fs=48000, output="sos"), heard)
    assert 20 * np.log10(np.abs(high[480:]).max()) < -45  # the filter itself settles before
    loud = np.sqrt((heard[: len(heard) // 4800 * 4800] ** 2).reshape(-1, 4800).mean(axis=1))
    assert np.ptp(20 * np.log10(loud)) < 1.5  # no hole where blocks meet


@pytest.mark.parametrize("speed", [0.25, 0.4, 0.5, 0.8, 1.5, 2.5, 4.0])
def test_what_claps_is_heard_where_it_is_seen(tmp_path, speed):
    """The centre of each clap lies within 12 ms of its place: less than half a frame."""
    chance, sound = np.random.default_rng(1), np.zeros((12 * 48000, 2))
    fall = np.exp(-np.arange(960) / 120)[:, None]
    places = [round((0.3 + 0.5 * number) * 48000) for number in range(22)]
    for place in places:
        sound[place : place + 960] += chance.uniform(-0.8, 0.8, (960, 2)) * fall
    reader = stretched(film_with_sound(tmp_path, sound), speed)
    power = (reader.take(round(11.5 / speed * 48000)) ** 2).sum(axis=1)
    reader.close()
    for place in places[1:]:
        first = round((place - 0.24 * 48000) / speed)
        near = power[first : round((place + 0.24 * 48000) / speed)]
        centre = first + (np.arange(len(near)) * near).sum() / near.sum()
        assert abs(centre - place / speed) / 48000 < 0.012


@pytest.mark.parametrize("speed", [0.25, 0.4, 0.5, 0.8, 1.5, 2.0, 3.0, 4.0])
def test_stretched_sound_keeps_its_pitch_and_its_places(tmp_path, speed):
    """A tone of 440 Hz for a second, silence, and a tone of 660 Hz from second 2 on."""
    path = tmp_path / "tones.mp4"
    ffmpeg("-f", "lavfi", "-i", "color=s=64x64:r=25:d=6", "-f", "lavfi", "-i",
           "aevalsrc='if(lt(t,1),0.3*sin(2*PI*440*t),if(lt(t,2),0,0.3*sin(2*PI*660*t)))':d=6",
           "-ac", "2", path)
    reader = stretched(path, speed)
    heard = reader.take(round(4 / speed * 48000))[:, 0]
    reader.close()
    assert len(heard) == round(4 / speed * 48000)
    loud = np.abs(heard) > 0.05
    ends = np.flatnonzero(loud[: round(1.5 / speed * 48000)])[-1] / 48000
    begins = np.flatnonzero(loud[round(1.5 / speed * 48000):])[0] / 48000 + 1.5 / speed
    near = 0.02  # less than a frame of any rate
    assert ends == pytest.approx(1 / speed, abs=near)
    assert begins == pytest.approx(2 / speed, abs=near)
    for first, end, pitch in ((0.2, 0.8, 440), (2.3, 3.7, 660)):
        part = heard[round(first / speed * 48000) : round(end / speed * 48000)]
        found = np.argmax(np.abs(np.fft.rfft(part * np.hanning(len(part)))))
        assert found * 48000 / len(part) == pytest.approx(pitch, rel=0.02)


def test_captions_keep_to_what_is_said_at_any_speed():
    cue = Cue(2.0, 4.0, "slow then fast", (Word("slow", 2.0, 2.8), Word("then", 2.8, 3.2),
                                           Word("fast", 3.2, 4.0)))
    (whole,) = cues_in((cue,), (FrameRange(25, 125, 50),), RATE)
    # The range begins at 1 s of the film and takes twice as long.
    assert (whole.start_s, whole.end_s) == (2.0, 6.0)
    assert [word.start_s for word in whole.words] == pytest.approx([2.0, 3.6, 4.4])
    first, second = cues_in((cue,), (FrameRange(0, 75), FrameRange(75, 125, 200)), RATE)
    assert (first.start_s, first.end_s) == (2.0, 3.0) and first.text == "slow"
    assert (second.start_s, second.end_s) == (3.0, 3.5) and second.text == "then fast"


def made(film, folder, ranges, **more):
    sheet = with_value(with_value(find_sheet("vertical-short"), "canvas", CANVAS),
                       "duration.least_s", 0.5)
    for name, value in more.pop("change", ()):
        sheet = with_value(sheet, name, value)
    return convert(film, [Recipe(sheet, ranges=ranges, **more)], folder)


@pytest.mark.parametrize("repeated", [False, True])
def test_a_file_shows_its_ranges_at_their_speeds(tmp_path, repeated):
    film = write_film(tmp_path / "film.mp4", frames=50, picture=ramp)
    ranges = (FrameRange(0, 10), FrameRange(10, 25, 50, repeated=repeated),
              FrameRange(25, 49, 200, repeated=True))
    (result,) = made(film, tmp_path / "out", ranges)
    assert result.proof.right, result.proof
    numbers = np.array([number_in(level) for level in brightness(result.file)])
    slow = np.arange(30) / 2 + 10
    slow = np.floor(slow) if repeated else slow
    meant = [*range(10), *slow, *range(25, 49, 2)]
    if not repeated:
        meant[39] = 24.5  # picture 25 continues it
    assert len(numbers) == len(meant) == 52
    assert np.abs(numbers - meant).max() <= 0.6, numbers - meant


def test_a_muted_range_is_silent_and_the_rest_is_in_time(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=100)
    (result,) = made(film, tmp_path / "out",
                     (FrameRange(0, 25), FrameRange(25, 50, 50, muted=True), FrameRange(50, 100)))
    assert result.proof.right, result.proof
    out = tmp_path / "sound.wav"
    ffmpeg("-i", result.file, "-vn", "-ac", "1", "-c:a", "pcm_s16le", out)
    with wave.open(str(out)) as found:
        data = np.frombuffer(found.readframes(found.getnframes()), np.int16) / 32768
    level = np.abs(data[: 5 * 48000]).reshape(-1, 4800).max(axis=1)
    # 1 s of sound, 2 s of silence, 2 s of sound.
    assert level[:9].min() > 0.1 and level[11:29].max() < 0.01 and level[31:48].min() > 0.1


def test_a_version_of_slow_ranges_is_cut_into_parts_within_its_limit(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=120, picture=ramp)
    results = made(film, tmp_path / "out", (FrameRange(0, 60, 50), FrameRange(60, 120)),
                   change=(("duration.most_s", 3.0), ("duration.beyond", "parts")))
    assert len(results) >= 3 and all(result.proof.right for result in results)
    counts = [gather(Path(result.file)).frames for result in results]
    assert max(counts) <= 75 and sum(counts) == pytest.approx(180, abs=len(counts))
    seen = np.concatenate([brightness(result.file) for result in results])
    numbers = np.array([number_in(level) for level in seen])
    assert np.all(np.diff(numbers[:99]) >= -0.1)  # nothing twice, and in order


def test_a_sidecar_and_burnt_in_captions_go_with_the_speed(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=75, picture=lambda _, y: y * 0 + 60)
    cue = Cue(1.0, 2.0, "here it is")
    (result,) = made(film, tmp_path / "out", (FrameRange(0, 75, 50),), captions=(cue,),
                     change=(("captions", Captions.BOTH.value),))
    assert result.proof.right
    srt = next((tmp_path / "out").glob("*.srt")).read_text()
    assert "00:00:02,000 --> 00:00:04,000" in srt
    bright = np.array([frame.max() for frame in _frames(result.file)])
    assert (bright[50:100] > 200).all()
    assert (bright[:50] < 120).all() and (bright[100:] < 120).all()


def _frames(path):
    raw = subprocess.run(["ffmpeg", "-v", "error", "-i", str(path), "-f", "rawvideo", "-"],
                         check=True, capture_output=True).stdout
    width, height = CANVAS
    return np.frombuffer(raw, np.uint8).reshape(-1, height * 3 // 2, width)[:, :height]


def test_what_is_played_sounds_as_the_file(tmp_path):
    """The film from its first frame on, as it is played, and as a file of all of it has it."""
    film = probe(write_film(tmp_path / "film.mp4", frames=150))
    clip = ClipSound(probe(write_film(tmp_path / "clip.mp4", frames=30)), 40, 120, gain_db=-6.0)
    ranges = (FrameRange(0, 50), FrameRange(50, 75, 50), FrameRange(75, 99, 200, muted=True),
              FrameRange(99, 150))
    beside = ExtraAudio((clip,), (SoundFade(0, 20, True), SoundFade(120, 150, False)))
    played = mix_of_film(film, ranges, 48000, 2, beside)
    sheet = find_sheet("vertical-short")
    file = mix_of_file(film, sheet.sound, timeline(ranges, RATE), beside)
    assert played.length == file.length == 163 * 1920
    ours, theirs = (np.concatenate(list(mixed(mix))) for mix in (played, file))
    # A joint at the very beginning and end is faded in neither, nor where a card would be.
    assert np.abs(ours - theirs).max() < 1e-6
    assert np.abs(ours[int(3.1 * 48000) : int(3.9 * 48000)]).max() > 0.1
    assert np.abs(ours[int(4.02 * 48000) : int(4.46 * 48000)]).max() == 0
