"""Files in: rates, rotation, odd sizes, sound; ffmpeg (Debian's) is the outside judge."""

import subprocess

import numpy as np
import pytest

from bad_files import BAD_FILES
from caracal.core.analysis.bars import BarFinder
from caracal.core.errors import InputError
from caracal.core.media.decode import frames
from caracal.core.media.look import look
from caracal.core.media.planes import to_rgb
from caracal.core.media.proxy import ProxyReader, proxy_writer
from caracal.core.media.sound import SoundReader
from caracal.core.time import FrameRange
from conftest import ffmpeg, noise, write_film


def test_plain_film_is_described_exactly(tmp_path):
    master = look(write_film(tmp_path / "plain.mp4", rate="30000/1001", frames=60))
    assert (master.width, master.height, master.frames) == (320, 180, 60)
    assert master.frame_rate == "30000/1001" and not master.variable_rate
    assert master.sound[0].rate_hz == 48000


def test_every_frame_comes_once_and_ranges_match(tmp_path):
    master = look(write_film(tmp_path / "plain.mp4", frames=70))
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
    master = look(path)
    assert master.variable_rate and any("Variable" in one for one in master.notices)
    numbers = [n for n, _ in frames(master)]
    assert numbers == list(range(master.frames))
    assert master.frame_rate == "30/1" and abs(master.frames / 30 - 3) < 0.25


@pytest.mark.parametrize("degrees", [90, 180, 270])
def test_sideways_films_stand_up(tmp_path, degrees):
    plain, path = tmp_path / "plain.mp4", tmp_path / "turned.mp4"
    ffmpeg("-f", "lavfi", "-i", "testsrc=s=160x96:r=25:d=1", "-c:v", "libx264", "-crf", "5",
           "-pix_fmt", "yuv420p", "-colorspace", "bt709", plain)
    ffmpeg("-i", plain, "-c", "copy", "-metadata:s:v:0", f"rotate={degrees}", path)
    master = look(path)
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
    master = look(path)
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
    _, planes = next(frames(look(path)))
    assert abs(int(planes.y[90, 160]) - 235) <= 1  # limited-range white


def test_sound_is_counted_from_the_picture(tmp_path):
    master = look(write_film(tmp_path / "plain.mp4", frames=100))
    with SoundReader(master, 48000, 2) as sound:
        whole = sound.take(96000)[:, 0]
    shift = np.argmax(np.correlate(whole[5000:9000], noise(6000, 8000)[:, 0], "valid"))
    assert shift == 1000
    with SoundReader(master, 48000, 2, 50000) as later:
        part = later.take(4000)[:, 0]
    assert np.corrcoef(part, whole[50000:54000])[0, 1] > 0.999


def test_sound_ends_in_silence(tmp_path):
    master = look(write_film(tmp_path / "short.mp4", frames=25))
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
    film = look(write_film(tmp_path / "plain.mp4", frames=40))
    writer = proxy_writer(tmp_path / "proxy.mp4", (320, 180), film.frame_rate)
    for _, planes in frames(film):
        writer.write_picture((planes.y, planes.u, planes.v))
    writer.finish()
    reader = ProxyReader(tmp_path / "proxy.mp4", film.frame_rate)
    for wanted in (39, 0, 17, 18, 5):
        columns = np.nonzero(reader.planes(wanted).y[60] > 150)[0]
        assert abs(columns.min() - (20 + wanted * 2)) <= 1
    assert reader.rgb(3).shape == (180, 320, 3)
    there = reader.screen(3).astype(int)  # two roundings of the same sum
    assert np.abs(there[..., 2::-1] - reader.rgb(3)).max() <= 2 and (there[..., 3] == 255).all()
    assert reader.screen(3, 160).shape == (90, 160, 4) and reader.screen(3, 999).shape[1] == 320
    reader.close()


def test_rgb_of_grey_is_grey(tmp_path):
    _, planes = next(frames(look(write_film(tmp_path / "plain.mp4"))))
    rgb = to_rgb(planes)
    assert np.abs(rgb[150, 300].astype(int) - round((60 - 16) * 255 / 219)).max() <= 2


@pytest.mark.parametrize("make", BAD_FILES)
def test_bad_files_get_one_clear_sentence(tmp_path, make):
    path = make(tmp_path)
    with pytest.raises(InputError) as told:
        look(path)
    sentence = told.value.sentence()
    assert path.name in sentence and sentence.endswith(".") and "\n" not in sentence
    assert told.value.remedy
