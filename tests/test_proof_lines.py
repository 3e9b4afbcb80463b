"""Every line of the proof fails on a file that is wrong in just that; ffmpeg makes the files."""

import msgspec
import pytest

from caracal.core.batch.proof import Expected, prove
from caracal.core.specs.sheet import Duration, File, Sound, Video
from caracal.core.specs.shelf import find_sheet
from conftest import ffmpeg

SMALL = msgspec.structs.replace(
    find_sheet("square-feed"), canvas=(160, 160), duration=Duration(1, 10), sound=Sound(),
    video=Video(bitrate_kbps=900, largest_kbps=4000, buffer_kb=4000, gop_s=2.0))
TAGS = ["-colorspace", "bt709", "-color_trc", "bt709", "-color_primaries", "bt709",
        "-color_range", "tv"]
X264 = "keyint=50:min-keyint=50:open-gop=0:scenecut=0"


def make(path, *, source="testsrc2=s=160x160:r=25:d=3", sound="sine=d=3:r=48000", filters="",
         video=(), audio=(), tags=True, params=X264, front=True):
    """A file that the small sheet takes, but for what the arguments change."""
    arguments = ["-f", "lavfi", "-i", source]
    arguments += ["-f", "lavfi", "-i", sound] if sound else []
    arguments += ["-vf", filters] if filters else []
    arguments += ["-c:v", "libx264", "-preset", "ultrafast", "-profile:v", "high", "-level", "2.0",
                  "-pix_fmt", "yuv420p", "-b:v", "900k", "-x264-params", params,
                  *(TAGS if tags else []), *video]
    arguments += ["-c:a", "aac", "-ac", "2", "-b:a", "128k", *audio] if sound else []
    arguments += ["-movflags", "+faststart"] if front else []
    ffmpeg(*arguments, path)
    return path


def wrong(path, sheet=SMALL, expected=None):
    return {line.what for line in prove(path, sheet, expected).lines if not line.right}


@pytest.fixture(scope="module")
def good(tmp_path_factory):
    return make(tmp_path_factory.mktemp("proof") / "good.mp4")


def test_a_right_file_has_no_wrong_line(good):
    level = next(line for line in prove(good, SMALL).lines if line.what == "level")
    assert wrong(good) <= {"level", "profile"}  # ffmpeg's ultrafast preset writes no High features
    assert level.asked


@pytest.mark.parametrize(("sound", "lines"), [
    (Sound(loudness_lufs=-21.8), set()), (Sound(loudness_lufs=-23.0), {"loudness"}),
    (Sound(true_peak_dbtp=-22.0), {"true peak"}),
])
def test_loudness_and_true_peak_are_measured_in_the_file(good, sound, lines):
    """ffmpeg's sine peaks at 1/8, -18.1 dBFS, and as stereo at -21.1 in each channel (-3 dB).

    At 440 Hz the weighting of BS.1770-4 takes another 0.7 dB (from memory).
    """
    assert wrong(good, msgspec.structs.replace(SMALL, sound=sound)) - {"level", "profile"} == lines


@pytest.mark.parametrize(("line", "changes"), [
    ("canvas", {"source": "testsrc2=s=176x144:r=25:d=3"}),
    ("pixel shape", {"filters": "setsar=4/3"}),
    ("profile", {"video": ["-profile:v", "baseline"]}),
    ("level", {"video": ["-level", "4.2"]}),
    ("pixel format", {"video": ["-profile:v", "high422", "-pix_fmt", "yuv422p"]}),
    ("colour tags", {"tags": False}),
    ("frame rate", {"source": "testsrc2=s=160x160:r=15:d=3"}),
    ("duration", {"source": "testsrc2=s=160x160:r=25:d=12", "sound": "sine=d=12:r=48000"}),
    ("GOP", {"params": "keyint=75:min-keyint=75:scenecut=0:open-gop=0"}),
    ("sound rate", {"audio": ["-ar", "44100"]}),
    ("sound channels", {"audio": ["-ac", "1"]}),
    ("sound bitrate", {"sound": "anoisesrc=d=3:r=48000", "audio": ["-b:a", "320k"]}),
    ("sync at the end", {"sound": "sine=d=2:r=48000"}),
    ("index", {"front": False}),
])
def test_one_wrong_thing_is_named(tmp_path, line, changes):
    assert line in wrong(make(tmp_path / "wrong.mp4", **changes))


def test_another_codec_is_named(tmp_path):
    path = tmp_path / "old.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=160x160:r=25:d=3", "-c:v", "mpeg4", path)
    assert {"codec", "sound"} <= wrong(path)


def test_another_container_is_named(tmp_path, good):
    path = tmp_path / "other.mkv"
    ffmpeg("-i", good, "-c", "copy", path)
    assert "container" in wrong(path)


def test_a_variable_rate_is_named(tmp_path):
    path = make(tmp_path / "vfr.mp4", filters="select='lt(n,40)+not(mod(n,3))'",
                video=["-fps_mode", "vfr"])
    assert "constant rate" in wrong(path)


def test_interlaced_pictures_are_named(tmp_path):
    path = make(tmp_path / "i.mp4", video=["-flags", "+ildct+ilme"], params=X264 + ":tff=1")
    assert "scan" in wrong(path)


def test_too_many_bits_are_named(tmp_path):
    noisy = make(tmp_path / "noise.mp4", source="testsrc2=s=160x160:r=25:d=3",
                 filters="noise=alls=60:allf=t", video=["-b:v", "6000k"])
    tight = msgspec.structs.replace(SMALL, video=Video(400, 600, 300))
    assert {"video bitrate", "busiest second"} <= wrong(noisy, tight)


def test_too_large_a_file_is_named(good):
    assert "size" in wrong(good, msgspec.structs.replace(SMALL, file=File(most_mb=0.01)))


def test_what_was_meant_is_compared_too(good):
    assert wrong(good, expected=Expected(74, "25/1", True)) >= {"frames"}
    assert "frame rate" in wrong(good, expected=Expected(75, "24/1", True))
    silent = make(good.with_name("silent.mp4"), sound="")
    assert "sound" in wrong(silent, expected=Expected(75, "25/1", True))
    assert "sound" not in wrong(silent, expected=Expected(75, "25/1", False))


def test_late_sound_is_named(tmp_path, good):
    path = tmp_path / "late.mp4"
    ffmpeg("-i", good, "-itsoffset", "0.3", "-i", good, "-map", "0:v", "-map", "1:a", "-c", "copy",
           path)
    assert "sync at the start" in wrong(path)


def test_each_line_says_what_was_asked_and_found(good):
    lines = prove(good, SMALL).lines
    assert len({line.what for line in lines}) == len(lines) >= 20
    assert all(line.asked and line.found for line in lines)
    assert next(line for line in lines if line.what == "canvas").found == "160x160"
    sound = msgspec.structs.replace(SMALL, sound=Sound(rate_hz=44100))
    line = next(one for one in prove(good, sound).lines if one.what == "sound rate")
    assert (line.asked, line.found, line.right) == ("44100 Hz", "48000 Hz", False)
