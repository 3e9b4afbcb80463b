"""The main job on real files: converted, proved, and judged again by ffprobe from outside."""

import signal
import subprocess
import sys
import threading
import time

import msgspec
import numpy as np
import pytest

from caracal.core.base.errors import Cancelled, InputError, StorageError
from caracal.core.base.time import FrameRange
from caracal.core.base.work import CancelToken
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.proof import prove
from caracal.core.media.probe import probe
from caracal.core.media.sound import SoundReader
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from conftest import DEMO, ffmpeg, ffprobe, noise, smaller, turned_film, write_film

SHEETS = [with_value(find_sheet(name), "canvas", canvas)  # test_generic_sheets has their own sizes
          for name, canvas in (("vertical-short", (270, 480)), ("square-feed", (270, 270)))]
SMALL = with_value(msgspec.structs.replace(find_sheet("square-feed"), canvas=(180, 180)),
                   "duration.least_s", 0.5)  # quicker, as real


@pytest.fixture(scope="module")
def film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("film") / "small film.mp4", frames=90)


@pytest.fixture(scope="module")
def made(film, tmp_path_factory):
    return convert(film, [Recipe(sheet) for sheet in SHEETS],
                   tmp_path_factory.mktemp("out"))


def test_files_are_proved_and_nothing_else_is_left(made):
    (folder,) = {_path(result.file).parent for result in made}
    assert len(list(folder.iterdir())) == len(SHEETS)
    wrong = [line for result in made for line in result.proof.lines if not line.right]
    assert wrong == []


@pytest.mark.parametrize("index", [0, 1])
def test_an_independent_prober_agrees(made, index):
    sheet, facts = SHEETS[index], ffprobe(made[index].file)
    video = next(s for s in facts["streams"] if s["codec_type"] == "video")
    audio = next(s for s in facts["streams"] if s["codec_type"] == "audio")
    assert (video["width"], video["height"]) == sheet.canvas
    assert int(video["nb_read_frames"]) == 90 and video["r_frame_rate"] == "25/1"
    assert (video["codec_name"], video["profile"], video["pix_fmt"]) == ("h264", "High", "yuv420p")
    assert video["sample_aspect_ratio"] == "1:1" and video["field_order"] == "progressive"
    tags = [video[k] for k in ("color_space", "color_transfer", "color_primaries", "color_range")]
    assert tags == ["bt709", "bt709", "bt709", "tv"]
    assert (audio["codec_name"], audio["sample_rate"], audio["channels"]) == ("aac", "48000", 2)
    assert abs(float(audio["duration"]) - float(video["duration"])) < 1 / 25
    assert float(audio["start_time"]) == float(video["start_time"]) == 0


def test_sound_is_in_sync_at_both_ends(made):
    """Noise found again by correlation: within one frame (1920 samples), in truth within a few."""
    for result in made:
        with SoundReader(probe(_path(result.file)),
                         48000, 2) as sound:
            heard = sound.take(90 * 1920)[:, 0]
        for at in (4000, 90 * 1920 - 12000):
            part = heard[at - 2000 : at + 8000]
            shift = np.argmax(np.correlate(part, noise(at, at + 4000)[:, 0], "valid")) - 2000
            assert abs(shift) <= 48


def _path(name):
    from pathlib import Path

    return Path(name)


def test_frames_are_the_master_s_frames(made):
    """Every frame of the version shows the bright block of the master while it is in view."""
    from caracal.core.media.decode import frames

    bright = [int((planes.y > 150).sum()) for _, planes in frames(probe(_path(made[1].file)))]
    assert len(bright) == 90 and min(bright[10:60]) > 0


def test_a_range_makes_just_that_part(tmp_path):
    wanted = Recipe(smaller(find_sheet("square-feed")), ranges=(FrameRange(300, 380),))
    (result,) = convert(DEMO, [wanted], tmp_path)
    assert result.proof.right
    facts = ffprobe(result.file)
    video = next(s for s in facts["streams"] if s["codec_type"] == "video")
    assert int(video["nb_read_frames"]) == 80


def test_a_taken_name_is_numbered(film, tmp_path):
    sheet = [Recipe(SMALL, ranges=(FrameRange(0, 30),))]
    names = [convert(film, sheet, tmp_path)[0].file for _ in range(2)]
    assert names[0].endswith("square-feed.mp4") and names[1].endswith("square-feed 2.mp4")


def test_two_versions_by_one_sheet_get_two_names(film, tmp_path):
    made = convert(film, [Recipe(SMALL, ranges=(FrameRange(0, 30),))] * 2, tmp_path)
    assert len({encode_result.file for encode_result in made}) == 2 and all(
        result.proof.right for result in made
    )
    assert [result.wanted for result in made] == [0, 1]


def test_stopping_leaves_nothing(tmp_path):
    token = CancelToken()

    def stop(progress):
        if progress.doing == "Encoding" and progress.done > 5:
            token.cancel()

    with pytest.raises(Cancelled):
        convert(DEMO, [Recipe(find_sheet("square-feed"))], tmp_path, report=stop, cancel=token)
    assert list(tmp_path.iterdir()) == []


def test_killing_leaves_no_file_under_a_final_name(tmp_path, small_sheets):
    work = subprocess.Popen(
        [sys.executable, "-m", "caracal", "convert", str(DEMO), "--spec", "square-feed",
         "--out", str(tmp_path)])
    started = threading.Event()
    for _ in range(600):
        if any(path.stat().st_size > 40_000 for path in tmp_path.glob("*.part")):
            started.set()
            break
        time.sleep(0.1)
    work.send_signal(signal.SIGKILL)
    work.wait()
    assert started.is_set()
    assert not [path for path in tmp_path.iterdir() if path.suffix != ".part"]


def test_wrong_files_fail_their_proof(film, made):
    proof = prove(_path(made[0].file), find_sheet("square-feed"))
    wrong = {line.what for line in proof.lines if not line.right}
    assert "canvas" in wrong and not proof.right


def test_open_gop_and_late_index_are_found(tmp_path):
    path = tmp_path / "open.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=1080x1080:r=25:d=4", "-f", "lavfi", "-i",
           "sine=d=4:r=48000", "-ac", "2", "-c:v", "libx264", "-preset", "ultrafast", "-bf", "2",
           "-x264-params", "keyint=75:open-gop=1", "-c:a", "aac", path)
    wrong = {line.what for line in prove(path, find_sheet("square-feed")).lines if not line.right}
    assert {"GOP", "index", "colour tags"} <= wrong


def test_film_without_sound_makes_a_version_without(tmp_path):
    film = write_film(tmp_path / "mute.mp4", sound=False, frames=30)
    (result,) = convert(film, [Recipe(SMALL)], tmp_path / "out")
    assert result.proof.right


def test_too_long_is_said_before_any_work(film, tmp_path):
    with pytest.raises(InputError, match="needs at least"):
        convert(film, [Recipe(find_sheet("square-feed"), ranges=(FrameRange(0, 10),))],
                tmp_path / "x")


def test_a_folder_that_cannot_be_written_is_said(film, tmp_path):
    (tmp_path / "file").touch()
    with pytest.raises(StorageError, match="folder"):
        convert(film, [Recipe(find_sheet("square-feed"))], tmp_path / "file" / "out")


@pytest.mark.parametrize("make", ["sideways", "odd", "variable", "wide pixels", "interlaced"])
def test_unusual_masters_are_converted_and_proved(tmp_path, make):
    """Real files as cameras and old tools make them; ffmpeg makes them here."""
    path, source = tmp_path / f"{make}.mkv", "testsrc2=s=640x360:r=25:d=2"
    plain = ["-c:v", "libx264", "-preset", "ultrafast", "-pix_fmt", "yuv420p"]
    if make == "sideways":
        path = path.with_suffix(".mp4")
        ffmpeg("-f", "lavfi", "-i", source, *plain, tmp_path / "flat.mp4")
        turned_film(tmp_path / "flat.mp4", path, 90)
    else:
        options = {
            "odd": ["-vf", "format=yuv444p,crop=401:301:exact=1,format=yuv420p", "-c:v", "ffv1"],
            "variable": ["-vf", "select='lt(n,30)+not(mod(n,2))'", "-fps_mode", "vfr", *plain],
            "wide pixels": ["-vf", "scale=540:360,setsar=4/3", *plain],
            "interlaced": ["-flags", "+ildct+ilme", "-x264opts", "tff=1", *plain],
        }[make]
        ffmpeg("-f", "lavfi", "-i", source, *options, path)
    (result,) = convert(path, [Recipe(SMALL, ranges=(FrameRange(0, 25),))], tmp_path / "out")
    assert [line for line in result.proof.lines if not line.right] == []
    notices = " ".join(probe(path).notices)
    word = {"sideways": "sideways", "variable": "Variable", "wide pixels": "not square",
            "interlaced": "Interlaced"}.get(make, "No sound")
    assert word in notices


def test_letterboxed_masters_never_show_their_bars(tmp_path):
    """A 2.39:1 film in 16:9: the version is cut from the active picture."""
    path = tmp_path / "letterboxed.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc=s=640x268:r=25:d=2", "-vf", "pad=640:360:0:46:black",
           "-c:v", "libx264", "-pix_fmt", "yuv420p", path)
    (result,) = convert(path, [Recipe(SMALL, ranges=(FrameRange(0, 25),))], tmp_path / "out")
    from caracal.core.media.decode import frames

    _, planes = next(frames(probe(_path(result.file))))
    assert planes.y[:4].max() > 40 and planes.y[-4:].max() > 40
