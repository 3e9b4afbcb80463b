"""A bed and clean speech by the command line: what is in the file, and what is refused."""

from __future__ import annotations

import json
import subprocess
import sys

import numpy as np
import pytest

from caracal.core.base.time import FrameRange
from caracal.core.base.timeline import timeline
from caracal.core.encoding.sound_likeness import heard_beside_sources
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.plan.file_plan import FilePlan
from caracal.core.sound.added import AddedAudio
from caracal.core.sound.finished_sound import SoundPlan
from caracal.core.sound.mix import ExtraAudio
from caracal.core.specs.sheet_store import find_sheet
from conftest import DEMO, ffmpeg
from test_added_sounds import RATE, write_wav


def caracal(*words):
    return subprocess.run([sys.executable, "-m", "caracal", *map(str, words)], check=False,
                          capture_output=True, text=True, timeout=300)


@pytest.fixture(scope="module")
def silent(tmp_path_factory):
    """Six seconds of moving bars, without sound."""
    made = tmp_path_factory.mktemp("silent") / "silent.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=size=1280x720:rate=25:duration=6", "-pix_fmt", "yuv420p",
           made)
    return made


@pytest.fixture(scope="module")
def tone(tmp_path_factory):
    """Two seconds of 440 Hz: it has to be repeated."""
    t = np.arange(2 * RATE) / RATE
    return write_wav(tmp_path_factory.mktemp("tone") / "tone.wav", 0.3 * np.sin(880 * np.pi * t))


def test_a_bed_sounds_under_a_silent_film_at_the_sheet_s_loudness(silent, tone, tmp_path):
    """Loudness by FFmpeg's ebur128 in a run of its own, pitch by an FFT of the decoded file."""
    done = caracal("convert", silent, "--spec", "vertical-short", "--out", tmp_path, "--bed", tone,
                   "--json")
    assert done.returncode == 0, done.stderr
    (file,) = json.loads(done.stdout)["files"]
    assert file["right"]
    made = probe(tmp_path / "silent vertical-short.mp4")
    with SoundReader(made, RATE, 1) as reader:
        sound = reader.take(6 * RATE)[:, 0]
    middle = sound[RATE : 5 * RATE]
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(len(middle))))
    assert np.argmax(spectrum) * RATE / len(middle) == pytest.approx(440, abs=0.5)
    blocks = np.sqrt((middle.reshape(-1, RATE // 50) ** 2).mean(axis=1))
    assert blocks.min() > 0.8 * blocks.max()  # repeated without a hole
    told = subprocess.run(["ffmpeg", "-nostats", "-i", made.path, "-af", "ebur128", "-f", "null",
                           "-"], capture_output=True, text=True, check=True).stderr
    lufs = float(told.rsplit("I:", 1)[1].split("LUFS")[0])
    assert lufs == pytest.approx(find_sheet("vertical-short").sound.loudness_lufs, abs=0.6)


@pytest.mark.parametrize(("words", "says"), [
    (["--bed", "nowhere.wav"], "nowhere.wav"), (["--duck", "6"], "--bed"),
    (["--bed", "TONE", "--bed-gain", "90"], "-60 to 24"), (["--bed", "SILENT"], "no sound"),
    (["--clean", "very"], "--clean"), (["--bed-gain", "loud"], "--bed-gain")])
def test_what_cannot_be_is_one_sentence_and_exit_code_2(silent, tone, tmp_path, words, says):
    given = [{"TONE": tone, "SILENT": silent}.get(word, word) for word in words]
    done = caracal("convert", silent, "--spec", "vertical-short", "--out", tmp_path, *given)
    assert done.returncode == 2 and says in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1 and not list(tmp_path.iterdir())


def test_batch_takes_a_bed_and_makes_the_file_again_only_when_it_differs(
        silent, tone, tmp_path):
    words = ["batch", silent, "--spec", "vertical-short", "--out", tmp_path, "--bed", tone]
    assert caracal(*words).returncode == 0
    (made,) = tmp_path.glob("*.mp4")
    first = made.stat().st_mtime_ns
    assert caracal(*words).returncode == 0 and made.stat().st_mtime_ns == first
    assert caracal(*words, "--bed-gain", "-3").returncode == 0
    assert len(list(tmp_path.glob("*.mp4"))) == 2


def test_a_bed_is_never_written_over(silent, tmp_path):
    """A film that is heard as a bed, under the name that the version would get."""
    bed = tmp_path / "silent vertical-short.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc=size=320x180:rate=25:duration=2", "-f", "lavfi", "-i",
           "sine=duration=2", "-pix_fmt", "yuv420p", bed)
    before = bed.read_bytes()
    done = caracal("convert", silent, "--spec", "vertical-short", "--out", tmp_path, "--replace",
                   "--bed", bed)
    assert bed.read_bytes() == before
    assert done.returncode == 2 and bed.name in done.stderr


@pytest.mark.parametrize(("place_s", "right"), [(2.0, True), (4.5, False)])
def test_the_proof_hears_whether_an_added_sound_is_where_it_belongs(
        silent, tmp_path, place_s, right):
    """Files made by FFmpeg alone: a beep at 2 s, as planned, and one elsewhere."""
    t = np.arange(RATE) / RATE
    beep = write_wav(tmp_path / "beep.wav", 0.5 * np.sin(2000 * np.pi * t))
    made = tmp_path / "made.mp4"
    ffmpeg("-i", silent, "-i", beep, "-af",
           f"adelay={round(place_s * 1000)}:all=1,apad=whole_dur=6",
           "-c:v", "copy", "-c:a", "aac", "-t", "6", made)
    from caracal.core.media.probe_sound import probe_sound

    master = probe(silent)
    beside = ExtraAudio(added=(AddedAudio(probe_sound(beep), 0.0, 1.0, 50),))
    plan = FilePlan(
        master, find_sheet("vertical-short"), 0, str(made), False,
        timeline((FrameRange(0, master.frames),), master.rate),
        None, b"", b"", SoundPlan(),
        extra_audio=beside)
    made.rename(plan.part_file)
    assert heard_beside_sources(plan).right is right


def test_clean_speech_is_in_the_file(tmp_path):
    """The demo's voices with hiss: where nobody speaks there is less of it in the file."""
    film = tmp_path / "hissing.mp4"
    ffmpeg("-ss", "5", "-t", "8", "-i", DEMO, "-f", "lavfi", "-i",
           "anoisesrc=color=white:amplitude=0.02:duration=8:seed=3:sample_rate=48000",
           "-filter_complex", "[0:a][1:a]amix=inputs=2:normalize=0[a]", "-map", "0:v",
           "-map", "[a]",
           "-c:v", "libx264", "-preset", "ultrafast", film)
    quiet_db = {}
    for strength in ("off", "all"):
        out = tmp_path / strength
        done = caracal("convert", film, "--spec", "vertical-short", "--out", out, "--clean",
                       strength)
        assert done.returncode == 0, done.stderr
        (made,) = out.glob("*.mp4")
        with SoundReader(probe(made), RATE, 1) as reader:
            sound = reader.take(8 * RATE)[:, 0]
        power = (sound[: 8 * RATE].reshape(-1, RATE // 20) ** 2).mean(axis=1)
        quiet_db[strength] = 10 * np.log10(np.percentile(power, 10) / np.percentile(power, 90))
    assert quiet_db["all"] < quiet_db["off"] - 8
