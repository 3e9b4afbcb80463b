"""Every line of the proof fails on a file that is wrong in just that; ffmpeg makes the files."""

from fractions import Fraction

import msgspec
import numpy as np
import pytest

from caracal.core.encoding.proof import Expected, prove
from caracal.core.encoding.reference_frames import SMALL_SIDE, _kept, likenesses
from caracal.core.media.audio_match import AudioMatch, envelope, match_audio
from caracal.core.media.encode import EncoderSettings, MovieWriter
from caracal.core.media.probe import probe
from caracal.core.specs.sheet import Duration, File, Sound, Video
from caracal.core.specs.sheet_store import find_sheet
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
    marks = ["setparams=colorspace=bt709:color_trc=bt709:color_primaries=bt709:range=tv"]
    every = ([filters] if filters else []) + (marks if tags else [])
    arguments += ["-vf", ",".join(every)] if every else []
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
    line = next(line for line in prove(good, sound).lines if line.what == "sound rate")
    assert (line.asked, line.found, line.right) == ("44100 Hz", "48000 Hz", False)


def gradient(number, tint=128):
    """A canvas whose picture is its number's own."""
    y = np.tile(np.linspace(30 + 3 * number, 200, 160).astype(np.uint8), (160, 1))
    y[:, number * 5 : number * 5 + 20] = 230
    chroma = np.full((80, 80), tint, np.uint8)
    return y, chroma, chroma


def written_film(path, pictures):
    writer = MovieWriter(path, EncoderSettings(
        width=160, height=160, frame_rate="25/1", encoder="libx264", pixel_format="yuv420p",
        gop_frames=25, options={"crf": "20", "preset": "ultrafast"}))
    for picture in pictures:
        writer.write_picture(picture)
    writer.finish()
    return path


BLACK = (np.full((160, 160), 16, np.uint8), *(np.full((80, 80), 128, np.uint8) for _ in "uv"))
WRONG = {
    "frozen": lambda number: gradient(0), "black": lambda number: BLACK,
    "green": lambda number: gradient(number, 0),
    "late": lambda number: gradient(max(0, number - 6)),
    "mirrored": lambda number: tuple(np.fliplr(plane) for plane in gradient(number)),
}


@pytest.mark.parametrize("kind", ["right", *WRONG])
def test_pictures_that_are_not_what_was_composed_are_seen(tmp_path, kind):
    kept = [_kept(number, gradient(number), SMALL_SIDE) for number in (0, 12, 24, 25)]
    drawn = WRONG.get(kind, gradient)
    path = written_film(tmp_path / "film.mp4", [drawn(number) for number in range(26)])
    found = tuple(likenesses(path, kept, Fraction(25)))
    assert [likeness.frame for likeness in found] == [0, 12, 24, 25]
    assert ("pictures" in wrong(path, expected=Expected(26, "25/1", False, pictures=found))) == (
        kind != "right")


def test_a_frame_that_is_missing_at_the_end_is_seen(tmp_path):
    kept = [_kept(number, gradient(number), SMALL_SIDE) for number in (0, 25)]
    path = written_film(tmp_path / "film.mp4", [gradient(number) for number in range(25)])
    assert [likeness.right for likeness in likenesses(path, kept, Fraction(25))] == [True, False]


def test_a_picture_that_stands_still_is_seen_even_where_little_moves(tmp_path):
    """A block of 12 pixels moves: by their structure both pictures are alike."""
    def small(number):
        y, u, v = gradient(0)
        y[60:72, 20 + 4 * number : 32 + 4 * number] = 40
        return y, u, v

    kept = [_kept(number, small(number), SMALL_SIDE) for number in (0, 9)]
    still = written_film(tmp_path / "still.mp4", [small(0)] * 10)
    moving = written_film(tmp_path / "moving.mp4", [small(number) for number in range(10)])
    assert [likeness.frozen for likeness in likenesses(still, kept, Fraction(25))] == [False, True]
    assert [likeness.right for likeness in likenesses(moving, kept, Fraction(25))] == [True, True]


def test_structural_similarity_is_the_published_one(tmp_path):
    """Two flat pictures of 100 and 120: (2ab + c)/(a2 + b2 + c), c = (0.01 255)2: Wang 2004."""
    flat = (np.full((160, 160), 100, np.uint8), *BLACK[1:])
    other = (np.full((160, 160), 120, np.uint8), *BLACK[1:])
    path = written_film(tmp_path / "film.mp4", [other] * 3)
    (found,) = likenesses(path, [_kept(1, flat, SMALL_SIDE)], Fraction(25))
    assert found.luma == pytest.approx((2 * 100 * 120 + 6.5) / (100**2 + 120**2 + 6.5), abs=2e-3)


def test_sound_is_heard_where_the_master_sounds():
    """Envelopes drawn by hand: two seconds of sound, silence, and a second of sound."""
    master = np.zeros(250, np.float32)
    master[20:120], master[180:230] = 0.3, 0.2
    gone = master.copy()
    gone[180:230] = 0
    assert match_audio(master, master * 0.5, 0.5).right
    assert not match_audio(master, np.zeros_like(master), 1.0).right
    assert match_audio(master, gone, 1.0).lost == 3  # half seconds that begin at 3.5, 4.0 and 4.5 s
    assert match_audio(master, np.roll(master, 10), 1.0).late_s == pytest.approx(0.2)
    nothing = np.zeros(250, np.float32)
    assert match_audio(nothing, nothing, 1.0) == AudioMatch(0, 0, 0.0)


def test_short_sounds_at_the_edges_of_half_seconds_are_not_lost():
    """Each second a sound of 80 ms ends with a half second; in the file it is 40 ms later."""
    master = np.zeros(250, np.float32)
    for second in range(5):
        master[50 * second + 22 : 50 * second + 26] = 0.5
    master[24::50] = 0.5
    later = np.roll(master, 2)
    early = np.where(np.arange(250) % 50 < 25, master, 0).astype(np.float32)
    assert match_audio(early, np.roll(early, 3), 1.0).lost == 0
    assert match_audio(master, later, 1.0).right
    ends = np.where(np.arange(250) < 150, later, 0).astype(np.float32)
    assert not match_audio(master, ends, 1.0).right


def test_an_envelope_is_read_from_where_it_is_asked(tmp_path):
    path = tmp_path / "tone.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=64x64:r=25:d=6", "-f", "lavfi", "-i",
           "sine=d=6,volume=enable='lt(t,4)':volume=0", "-c:a", "pcm_s16le", "-f", "mov", path)
    master = probe(path)
    found = envelope(path, master.sound[0].index, 3.0, 5.0, master.start_s)
    assert len(found) == 100 and found[:49].max() == 0 and found[51:].min() > 0.1


def test_a_silent_file_of_a_sounding_master_is_not_proved(good, tmp_path):
    silent = make(tmp_path / "silent.mp4", sound="anullsrc=d=3:r=48000")
    lost = Expected(75, "25/1", True, False, heard=AudioMatch(6, 6, 0.0))
    sheet = msgspec.structs.replace(SMALL, sound=Sound(loudness_lufs=-14.0))
    assert {"heard as the master", "loudness"} <= wrong(silent, sheet, lost)


def test_far_fewer_bits_are_right_only_for_the_finest_picture(tmp_path):
    """At 8000 kb/s asked: a coarse picture of few bits is wrong, a plain one is right."""
    sheet = msgspec.structs.replace(SMALL, video=Video(
        bitrate_kbps=8000, largest_kbps=12000, buffer_kb=12000))
    coarse = make(tmp_path / "coarse.mp4", video=["-b:v", "0", "-crf", "40"])
    plain = make(tmp_path / "plain.mp4", source="color=gray:s=160x160:r=25:d=3",
                 video=["-b:v", "0", "-crf", "4"])
    assert "video bitrate" in wrong(coarse, sheet) and "video bitrate" not in wrong(plain, sheet)


@pytest.mark.parametrize(("made", "asked"), [("mov", "mp4"), ("mp4", "mov"), ("mkv", "mp4")])
def test_a_container_in_anothers_name_is_seen(tmp_path, good, made, asked):
    real = tmp_path / f"real.{made}"
    ffmpeg("-i", good, "-c", "copy", real)
    disguised = real.rename(tmp_path / f"disguised.{asked}")
    sheet = msgspec.structs.replace(SMALL, file=File(container=asked))
    assert "container" in wrong(disguised, sheet)
    assert "container" not in wrong(disguised, msgspec.structs.replace(
        SMALL, file=File(container=made)))
