"""Loudness, true peak and downmix against published values and pyloudnorm."""

from fractions import Fraction

import msgspec
import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.convert import Recipe, convert
from caracal.core.media.downmix_matrix import downmix
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.sound.finished_sound import plan_sound
from caracal.core.sound.limiter import Limiter
from caracal.core.sound.loudness import amplitude, measured
from caracal.core.sound.profile import Profiler
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet import Sound
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffmpeg, ffprobe, write_film


def sine(hertz, dbfs, seconds, rate=48000):
    at = np.arange(round(seconds * rate)) / rate
    wave = amplitude(dbfs) * np.sin(2 * np.pi * hertz * at)
    return np.stack([wave, wave], 1).astype(np.float32)


TECH_3341 = {  # EBU Tech 3341 (2016), table 1, cases 1 to 5: tones and their integrated loudness
    1: ([(-23, 20)], -23), 2: ([(-33, 20)], -33), 3: ([(-36, 10), (-23, 60), (-36, 10)], -23),
    4: ([(-72, 10), (-36, 10), (-23, 60), (-36, 10), (-72, 10)], -23),
    5: ([(-26, 20), (-20, 20.1), (-26, 20)], -23),
}


@pytest.mark.parametrize("case", TECH_3341)
def test_the_signals_of_ebu_tech_3341_read_as_published(case):
    tones, wanted = TECH_3341[case]
    found = measured((sine(1000, db, seconds) for db, seconds in tones), 48000, 2)
    assert found.lufs == pytest.approx(wanted, abs=0.1)


@pytest.mark.parametrize(("hertz_of_rate", "phase", "peak"), [(1 / 4, 0, -6), (1 / 4, 45, -6),
                                                              (1 / 6, 60, -6), (1 / 8, 67.5, -6)])
def test_true_peaks_of_ebu_tech_3341(hertz_of_rate, phase, peak):
    """Cases 15 to 18: sines of amplitude 0.50 whose samples miss the peak; +0.2 -0.4 dB."""
    at = np.arange(48000)
    wave = 0.5 * np.sin(2 * np.pi * hertz_of_rate * at + np.radians(phase))
    fade = np.minimum(1, np.minimum(at, at[::-1]) / 4800)
    found = measured([np.stack([wave * fade] * 2, 1).astype(np.float32)], 48000, 2)
    assert peak - 0.4 <= found.true_peak_dbtp <= peak + 0.2


@pytest.mark.parametrize("chunk", [997, 48000, 200000])
def test_the_limiter_holds_every_true_peak_and_keeps_the_length(chunk):
    sound = (np.random.default_rng(2).standard_normal((96000, 2)) * 0.5).astype(np.float32)
    limiter = Limiter(-1.0, 48000, 2)
    made = np.concatenate([*(limiter.push(sound[at : at + chunk])
                             for at in range(0, len(sound), chunk)), limiter.finish()])
    assert made.shape == sound.shape
    assert measured([made], 48000, 2).true_peak_dbtp <= -1.0


def test_the_limiter_leaves_what_is_quiet_alone():
    sound = sine(440, -12, 1)
    limiter = Limiter(-1.0, 48000, 2)
    made = np.concatenate([limiter.push(sound), limiter.finish()])
    assert np.array_equal(made, sound)


def test_downmix_is_that_of_bs_775():
    """ITU-R BS.775-3 table 2: L + 0.7071 C + 0.7071 Ls; mono 0.7071 L and R, C, 0.5 Ls and Rs."""
    stereo = downmix(("FL", "FR", "FC", "LFE", "SL", "SR"), 2)
    assert stereo[:, 0].tolist() == pytest.approx([1, 0, 0.7071, 0, 0.7071, 0])
    assert stereo[:, 1].tolist() == pytest.approx([0, 1, 0.7071, 0, 0, 0.7071])
    mono = downmix(("FL", "FR", "FC", "LFE", "SL", "SR"), 1)
    assert mono[:, 0].tolist() == pytest.approx([0.7071, 0.7071, 1, 0, 0.5, 0.5])


def test_a_5_1_master_is_mixed_down_when_read(tmp_path):
    """One tone in the centre alone is heard in both sides at -3 dB."""
    path = tmp_path / "surround.mov"
    ffmpeg("-f", "lavfi", "-i", "color=gray:s=64x64:r=25:d=2", "-f", "lavfi", "-i",
           "aevalsrc=0|0|0.5*sin(2*PI*440*t)|0.5|0|0:c=5.1:s=48000:d=2", "-c:v", "libx264",
           "-c:a", "pcm_s16le", path)
    with SoundReader(probe(path), 48000, 2) as reader:
        heard = reader.take(48000)
    assert np.abs(heard[1000:]).max(0) == pytest.approx([0.5 * 0.7071] * 2, abs=2e-3)


def plan(film, **wanted):
    master = probe(film)
    sound = msgspec.structs.replace(Sound(), **wanted)
    return plan_sound(master, sound, timeline([FrameRange(0, master.frames)], Fraction(25)),
                      no_progress, CancelToken())


def test_a_gain_alone_is_used_where_it_is_enough(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=100)
    found = plan(film, loudness_lufs=-30.0)
    assert found.limit_dbtp is None and found.after.lufs == pytest.approx(-30, abs=0.05)


def test_one_sound_is_measured_once_for_all_targets_until_its_file_changes(tmp_path, monkeypatch):
    film, made = write_film(tmp_path / "film.mp4", frames=60), []
    monkeypatch.setattr("caracal.core.sound.finished_sound.Profiler",
                        lambda *words: made.append(words) or Profiler(*words))
    quiet, quieter = plan(film, loudness_lufs=-30.0), plan(film, loudness_lufs=-33.0)
    assert len(made) == 1 and quieter.gain_db == pytest.approx(quiet.gain_db - 3)
    write_film(film, frames=61)
    assert plan(film, loudness_lufs=-30.0).before != quiet.before and len(made) == 2


def test_a_loud_target_is_reached_under_the_limiter(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=100)
    found = plan(film, loudness_lufs=-9.0)
    assert found.limit_dbtp == -2.0 and found.after.lufs == pytest.approx(-9, abs=0.3)
    assert found.after.true_peak_dbtp <= -2.0


@pytest.mark.parametrize(("lufs", "codec", "container"), [(-14, "aac", "mp4"), (-23, "aac", "mp4"),
                                                          (-16, "opus", "mkv")])
def test_files_have_their_loudness_by_pyloudnorm(tmp_path, lufs, codec, container):
    """Within 0.5 LU (EBU R 128), measured by pyloudnorm on what ffmpeg decodes."""
    import pyloudnorm  # no other worker waits for it

    film = write_film(tmp_path / "film.mp4", frames=100)
    sheet = with_value(find_sheet("square-feed"), "canvas", (180, 180))
    for field, value in (("sound.loudness_lufs", lufs), ("sound.codec", codec),
                         ("file.container", container), ("file.index", "any")):
        sheet = with_value(sheet, field, value)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right
    wave = tmp_path / "heard.f32"
    ffmpeg("-i", made.file, "-f", "f32le", "-ac", "2", "-ar", "48000", wave)
    heard = np.fromfile(wave, np.float32).reshape(-1, 2)
    assert pyloudnorm.Meter(48000).integrated_loudness(heard) == pytest.approx(lufs, abs=0.5)


@pytest.mark.parametrize("wanted", [True, False])
def test_a_silent_track_is_made_where_the_sheet_wants_one(tmp_path, wanted):
    film = write_film(tmp_path / "film.mp4", frames=80, sound=False)
    sheet = with_value(find_sheet("square-feed"), "canvas", (180, 180))
    sheet = with_value(sheet, "sound.silent_track", wanted)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    kinds = [stream["codec_type"] for stream in ffprobe(made.file)["streams"]]
    assert made.proof.right and ("audio" in kinds) is wanted
