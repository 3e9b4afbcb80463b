"""Files in: rates, rotation, odd sizes, sound; ffmpeg (Debian's) is the outside judge."""

import subprocess

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bad_files import BAD_FILES
from caracal.core.analysis.film_pass.bars import BarFinder
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.media.decode import frames
from caracal.core.media.encode import MovieWriter
from caracal.core.media.planes import to_rgb
from caracal.core.media.probe import probe
from caracal.core.media.proxy import ProxyReader, proxy_settings
from caracal.core.media.sound import SoundReader
from conftest import ffmpeg, noise, turned_film, write_film


def test_plain_film_is_described_exactly(tmp_path):
    master = probe(write_film(tmp_path / "plain.mp4", rate="30000/1001", frames=60))
    assert (master.width, master.height, master.frames) == (320, 180, 60)
    assert master.frame_rate == "30000/1001" and not master.variable_rate
    assert master.sound[0].rate_hz == 48000


def test_every_frame_comes_once_and_ranges_match(tmp_path):
    master = probe(write_film(tmp_path / "plain.mp4", frames=70))
    whole = {n: planes.y.copy() for n, planes in frames(master)}
    assert list(whole) == list(range(70))
    part = dict(frames(master, FrameRange(31, 44)))
    assert list(part) == list(range(31, 44))
    assert all((planes.y == whole[n]).all() for n, planes in part.items())


def test_variable_rate_is_conformed(tmp_path):
    """Every third picture dropped from 30 fps without changing the others' times."""
    path = tmp_path / "vfr.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=320x180:r=30:d=3", "-vf",
           "select='lt(n,30)+not(mod(n,3))'", "-fps_mode", "vfr", "-c:v", "libx264", path)
    master = probe(path)
    assert master.variable_rate and any("Variable" in notice for notice in master.notices)
    numbers = [n for n, _ in frames(master)]
    assert numbers == list(range(master.frames))
    assert master.frame_rate == "30/1" and abs(master.frames / 30 - 3) < 0.25


@pytest.mark.parametrize("degrees", [90, 180, 270])
def test_sideways_films_stand_up(tmp_path, degrees):
    plain, path = tmp_path / "plain.mp4", tmp_path / "turned.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc=s=160x96:r=25:d=1", "-c:v", "libx264", "-crf", "5",
           "-pix_fmt", "yuv420p", "-colorspace", "bt709", plain)
    master = probe(turned_film(plain, path, degrees))
    assert master.rotation_degrees % 360 in (degrees, 360 - degrees)
    upright = subprocess.run(
        ["ffmpeg", "-v", "error", "-i", str(path), "-frames:v", "1", "-f", "rawvideo", "-pix_fmt",
         "gray", "-"], capture_output=True, check=True).stdout
    judge = np.frombuffer(upright, np.uint8).reshape(master.height, master.width).astype(int)
    _, planes = next(frames(master))
    luma = (planes.y.astype(int) - 16) * 255 / 219  # ffmpeg's gray is full range
    assert planes.y.shape == judge.shape
    assert np.abs(luma - judge).mean() < 4


def test_odd_sizes_and_no_sound_work(tmp_path):
    path = tmp_path / "odd.mkv"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=640x360:r=25:d=1", "-vf",
           "format=yuv444p,crop=321:181:exact=1,format=yuv420p", "-c:v", "ffv1", path)
    master = probe(path)
    assert (master.width, master.height) == (321, 181) and not master.sound
    _, planes = next(frames(master))
    assert planes.u.shape == (91, 161)
    with SoundReader(master, 48000, 2) as sound:
        assert not sound.take(500).any()


def test_full_range_bt601_is_converted_not_relabelled(tmp_path):
    path = tmp_path / "full.mp4"
    ffmpeg("-f", "lavfi", "-i", "color=white:s=320x180:r=25:d=1", "-vf",
           "scale=out_range=pc:out_color_matrix=bt601,format=yuvj420p", "-c:v", "libx264",
           "-colorspace", "smpte170m", "-color_range", "pc", path)
    _, planes = next(frames(probe(path)))
    assert abs(int(planes.y[90, 160]) - 235) <= 1  # limited-range white


def test_sound_is_counted_from_the_picture(tmp_path):
    master = probe(write_film(tmp_path / "plain.mp4", frames=100))
    with SoundReader(master, 48000, 2) as sound:
        whole = sound.take(96000)[:, 0]
    shift = np.argmax(np.correlate(whole[5000:9000], noise(6000, 8000)[:, 0], "valid"))
    assert shift == 1000
    with SoundReader(master, 48000, 2, 50000) as later:
        part = later.take(4000)[:, 0]
    assert np.corrcoef(part, whole[50000:54000])[0, 1] > 0.999


def test_sound_ends_in_silence(tmp_path):
    master = probe(write_film(tmp_path / "short.mp4", frames=25))
    with SoundReader(master, 48000, 1) as sound:
        assert sound.take(200000).shape == (200000, 1)


def test_baked_in_bars_are_found():
    """A 2.39:1 film in 16:9: active rows 138 to 941 (TRADE, arithmetic)."""
    finder = BarFinder()
    rng = np.random.default_rng(0)
    for _ in range(5):
        luma = np.full((1080, 1920), 16, np.uint8)
        luma[138:941] = rng.integers(40, 200, (803, 1920), dtype=np.uint8)
        finder.add(luma)
    assert finder.active(1920, 1080) == (0, 138, 1920, 803)


def test_dark_frames_are_no_bars():
    finder = BarFinder()
    finder.add(np.full((1080, 1920), 16, np.uint8))
    assert finder.active(1920, 1080) == (0, 0, 1920, 1080)


def test_proxy_reads_any_frame(tmp_path):
    film = probe(write_film(tmp_path / "plain.mp4", frames=40))
    writer = MovieWriter(tmp_path / "proxy.mp4", proxy_settings((320, 180), film.frame_rate))
    for _, planes in frames(film):
        writer.write_picture((planes.y, planes.u, planes.v))
    writer.finish()
    reader = ProxyReader(tmp_path / "proxy.mp4", film.frame_rate)
    for wanted in (39, 0, 17, 18, 5):
        columns = np.nonzero(reader.planes(wanted).y[60] > 150)[0]
        assert abs(columns.min() - (20 + wanted * 2)) <= 1
    assert reader.rgb(3).shape == (180, 320, 3)
    reader.close()


def test_rgb_of_grey_is_grey(tmp_path):
    _, planes = next(frames(probe(write_film(tmp_path / "plain.mp4"))))
    rgb = to_rgb(planes)
    assert np.abs(rgb[150, 300].astype(int) - round((60 - 16) * 255 / 219)).max() <= 2


@pytest.mark.parametrize("make", BAD_FILES)
def test_bad_files_get_one_clear_sentence(tmp_path, make):
    path = make(tmp_path)
    with pytest.raises(InputError) as told:
        probe(path)
    sentence = told.value.sentence()
    assert path.name in sentence and sentence.endswith(".") and "\n" not in sentence
    assert told.value.remedy


@pytest.mark.parametrize("suffix", ["mp4", "mov", "mkv", "ts", "avi", "mxf"])
def test_there_are_as_many_frames_as_ffprobe_counts(tmp_path, suffix):
    """Also where the file does not say, and its sound is longer than its picture."""
    path = tmp_path / f"film.{suffix}"
    sound = ("-ar", "48000", "-c:a", "pcm_s16le") if suffix in ("avi", "mxf") else ("-c:a", "aac")
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=320x180:r=25:d=3.2", "-f", "lavfi", "-i",
           "sine=d=3.5", "-c:v", "mpeg2video", *sound, path)
    counted = subprocess.run(
        ["ffprobe", "-v", "error", "-count_frames", "-select_streams", "v", "-show_entries",
         "stream=nb_read_frames", "-of", "csv=p=0", path],
        capture_output=True, text=True, check=True)
    master = probe(path)
    assert master.frames == int(counted.stdout.split()[0].strip(",")) == 80
    assert [number for number, _ in frames(master)] == list(range(80))


def test_titles_of_another_encoding_are_no_reason_to_refuse_a_film(tmp_path):
    """ISO 8859-1, as older programs write it: not UTF-8, which Matroska asks for (RFC 9559)."""
    plain = tmp_path / "plain.mkv"
    ffmpeg("-i", write_film(tmp_path / "f.mp4", frames=30), "-c", "copy", "-metadata",
           "title=Soiree d'ete", plain)
    path = tmp_path / "latin.mkv"
    path.write_bytes(plain.read_bytes().replace(b"Soiree d'ete", "Soirée d'été".encode("latin-1")))
    master = probe(path)
    assert master.frames == 30 and sum(1 for _ in frames(master)) == 30


@pytest.fixture(scope="module")
def sound_film(tmp_path_factory):
    """A short film with sound, and a place for damaged copies."""
    folder = tmp_path_factory.mktemp("damage")
    path = folder / "whole.mkv"
    ffmpeg("-f", "lavfi", "-i", "testsrc2=s=128x72:r=25:d=1.2", "-f", "lavfi", "-i",
           "sine=d=1.2", "-c:v", "libx264", "-preset", "ultrafast", "-c:a", "aac", path)
    return path


def test_a_picture_of_an_unknown_kind_is_told(sound_film):
    """The name of the codec is changed: the container is as whole as before."""
    whole = sound_film.read_bytes()
    assert whole.count(b"V_MPEG4/ISO/AVC") == 1
    path = sound_film.with_name("unknown.mkv")
    path.write_bytes(whole.replace(b"V_MPEG4/ISO/AVC", b"V_MPEG9/ISO/AVC"))
    with pytest.raises(InputError, match="unknown kind"):
        probe(path)


@settings(max_examples=40, deadline=None)
@given(data=st.data())
def test_whatever_is_damaged_in_a_film_is_told_as_ours(sound_film, data):
    """Bytes changed, lost or cut off anywhere: a picture, or a sentence that names the file."""
    whole = bytearray(sound_film.read_bytes())
    for at, value in data.draw(st.lists(st.tuples(
            st.integers(0, len(whole) - 1), st.integers(0, 255)), max_size=30)):
        whole[at] = value
    start = data.draw(st.integers(0, len(whole)))
    del whole[start : start + data.draw(st.sampled_from((0, 0, 1, 500, len(whole))))]
    path = sound_film.with_name("damaged.mkv")
    path.write_bytes(whole)
    try:
        master = probe(path)
        for _, planes in frames(master):
            assert planes.y.shape == (master.stored_height, master.stored_width)
        with SoundReader(master, 8000, 1) as sound:
            sound.take(8000)
    except InputError as problem:
        assert path.name in problem.sentence()
