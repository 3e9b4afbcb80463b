"""Loudness that can and cannot be reached: gains are limited, and a shortfall is reported early.

pyloudnorm (another implementation of ITU-R BS.1770-4) is the judge of what was made.
"""

from datetime import date
from fractions import Fraction

import msgspec
import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.base.work import CancelToken, no_progress
from caracal.core.batch.concerns import ConcernKind, concerns_of
from caracal.core.batch.estimate import Estimate
from caracal.core.convert import Recipe, convert
from caracal.core.media.probe import probe
from caracal.core.sound.coder_trial import coded
from caracal.core.sound.finished_sound import SoundPlan, finished, plan_sound
from caracal.core.sound.gain import MOST_GAIN_DB
from caracal.core.sound.limiter import Limiter
from caracal.core.sound.loudness import amplitude, measured
from caracal.core.sound.mix import mix_of_file
from caracal.core.sound.profile import Profiler
from caracal.core.specs.fields import with_value
from caracal.core.specs.settings import sound_settings
from caracal.core.specs.sheet import Sound
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffmpeg

RATE = 48000
SECONDS = 12


def bursts(bed_dbfs, burst_dbfs, every_s, lasts_s, channels=2, seconds=SECONDS):
    """A quiet bed of noise with short loud sounds (n, channels); levels are those of the RMS."""
    chance = np.random.default_rng(7)
    sound = chance.standard_normal((seconds * RATE, channels)) * amplitude(bed_dbfs)
    for at in np.arange(0.5, seconds, every_s):
        first, count = round(at * RATE), round(lasts_s * RATE)
        part = sound[first : first + count]
        part += chance.standard_normal(part.shape) * amplitude(burst_dbfs)
    return np.clip(sound, -0.95, 0.95).astype(np.float32)


def film_with(folder, sound, name="film.mov"):
    """A small film in grey with ``sound`` (n, channels)."""
    raw, path = folder / "sound.f32", folder / name
    sound.tofile(raw)
    ffmpeg("-f", "lavfi", "-i", f"testsrc2=s=192x108:r=25:d={len(sound) / RATE}", "-f", "f32le",
           "-ar", RATE, "-ac", sound.shape[1], "-i", raw, "-c:v", "libx264", "-preset",
           "ultrafast", "-c:a", "pcm_s24le", "-shortest", path)
    return path


def planned(film, **wanted):
    """(plan, the sound that is handed to the encoder) for a sheet's sound."""
    master = probe(film)
    sound = msgspec.structs.replace(Sound(), **wanted)
    line = timeline([FrameRange(0, master.frames)], Fraction(25))
    plan = plan_sound(master, sound, line, no_progress, CancelToken())
    return plan, np.concatenate(list(finished(mix_of_file(master, sound, line), plan)))


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize("bed_dbfs", [-65, -55, -50, -35])
@pytest.mark.parametrize(("burst_dbfs", "lasts_s"), [(-30, 0.05), (-12, 0.05), (-18, 0.3)])
def test_sparse_loud_sounds_over_a_quiet_bed_are_not_blown_up(
        tmp_path, bed_dbfs, burst_dbfs, lasts_s, channels):
    """The gain is limited, the result is as loud as planned, and a shortfall is reported."""
    import pyloudnorm  # no other worker waits for it

    film = film_with(tmp_path, bursts(bed_dbfs, burst_dbfs, 3.0, lasts_s, channels))
    plan, made = planned(film, loudness_lufs=-14.0, channels=channels, codec="pcm")
    found = pyloudnorm.Meter(RATE).integrated_loudness(made)
    assert plan.gain_db <= MOST_GAIN_DB
    assert found == pytest.approx(plan.after.lufs, abs=0.3)
    assert (abs(found + 14) <= 0.5) or plan.shortfall.startswith("-14 LUFS cannot be reached: ")
    quiet = made[RATE : 2 * RATE]  # between the first two bursts
    assert 20 * np.log10(np.sqrt((quiet**2).mean())) <= bed_dbfs + MOST_GAIN_DB + 1


def test_a_gain_is_no_larger_than_what_it_is_good_for(tmp_path):
    """Clicks at full scale over silence: with any gain they stay as loud as the limit lets them."""
    plan, _ = planned(film_with(tmp_path, bursts(-90, -3, 3.0, 0.01)), loudness_lufs=-14.0)
    assert plan.nearest_lufs is not None and plan.gain_db < 6


@pytest.mark.parametrize(("limit", "gain"), [(-2.0, 0.0), (-2.0, 8.0), (-4.0, 15.0)])
def test_a_profile_tells_how_loud_limited_sound_will_be(limit, gain):
    sound = bursts(-30, -18, 2.0, 0.3)
    profiler = Profiler(RATE, 2)
    for at in range(0, len(sound), 31_000):
        profiler.push(sound[at : at + 31_000])
    profile, limiter = profiler.result(), Limiter(limit, RATE, 2)
    made = np.concatenate([limiter.push(sound * amplitude(gain)), limiter.finish()])
    assert profile.loudness == measured([sound], RATE, 2)
    assert profile.lufs_at(gain, limit) == pytest.approx(measured([made], RATE, 2).lufs, abs=0.6)


def claps(count=10):
    """Hands that clap: noise that begins at once and is gone after a few milliseconds."""
    chance, sound = np.random.default_rng(11), np.zeros((SECONDS * RATE, 2), np.float32)
    fall = np.exp(-np.arange(2400) / 240)[:, None]
    for at in np.linspace(0.5, SECONDS - 1, count):
        first = round(at * RATE)
        sound[first : first + 2400] += (chance.uniform(-1, 1, (2400, 1)) * fall).astype(np.float32)
    return sound / np.abs(sound).max() * 0.98 + bursts(-40, -40, 3, 0.1) * 0.5


def test_the_encoder_has_its_room_above_sharp_sounds(tmp_path):
    """Without it AAC goes beyond -1 dBTP here; ffmpeg decodes and measures what was made."""
    film, wanted = film_with(tmp_path, claps()), {"loudness_lufs": -20.0, "bitrate_kbps": 64}
    sound = msgspec.structs.replace(Sound(), **wanted)
    plan, made = planned(film, **wanted)
    plain = msgspec.structs.replace(plan, limit_dbtp=sound.true_peak_dbtp - 1.0)
    loud = np.concatenate(list(finished(
        mix_of_file(probe(film), sound, timeline([FrameRange(0, 300)], Fraction(25))), plain)))
    assert measured([coded(loud, sound_settings(sound))], RATE, 2).true_peak_dbtp > -1.0
    raw, file = tmp_path / "made.f32", tmp_path / "made.m4a"
    made.tofile(raw)
    ffmpeg("-f", "f32le", "-ar", RATE, "-ac", 2, "-i", raw, "-c:a", "aac", "-b:a", "64k", file)
    ffmpeg("-i", file, "-f", "f32le", raw)
    heard = np.fromfile(raw, np.float32).reshape(-1, 2)
    assert measured([heard], RATE, 2).true_peak_dbtp <= -1.0


def test_what_cannot_be_reached_is_a_concern_and_not_a_failed_proof(tmp_path):
    film = film_with(tmp_path, bursts(-60, -12, 3.0, 0.05))
    sheet = with_value(with_value(find_sheet("square-feed"), "canvas", (180, 180)),
                       "sound.loudness_lufs", -14.0)
    (made,) = convert(film, [Recipe(sheet)], tmp_path / "out")
    assert made.proof.right
    (line,) = (line for line in made.proof.lines if line.what == "loudness")
    assert line.asked.startswith("-14 LUFS cannot be reached; ")
    assert "cannot be reached" in made.sound_words()
    (concern,) = concerns_of(
        probe(film), "A", Recipe(sheet), {}, tmp_path, date.today(),
        tried=Estimate(1.0, 1.0, sound=made.sound))[:1]
    assert concern.kind is ConcernKind.SOUND and concern.sentence == made.sound.shortfall


def test_a_loudness_that_is_reached_is_told_as_such():
    assert SoundPlan().shortfall == "" and SoundPlan(lufs=-14.0).nearest_lufs is None
