"""Every generic sheet on one film: proved by us, judged from outside by ffprobe and mediainfo."""

import json
import subprocess
from functools import cache

import msgspec
import numpy as np
import pytest

from caracal.core.analysis.film_pass.analyse import analyse
from caracal.core.base.time import FrameRange
from caracal.core.batch.estimate import estimate
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.evidence import gather
from caracal.core.specs.fields import with_value
from caracal.core.specs.sheet_store import find_sheet
from conftest import ffprobe, write_film

GENERIC = ("vertical-short", "vertical-minute", "vertical-story", "square-feed", "portrait-feed",
           "tall-feed", "wide", "client-master")
SHORT = 0.2  # seconds that every one of them is let take here
FRAMES = 6


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    folder = tmp_path_factory.mktemp("sheets")
    film = write_film(folder / "film.mp4", size=(640, 360), frames=FRAMES)
    wanted = [Recipe(with_value(find_sheet(name), "duration.least_s", SHORT)) for name in GENERIC]
    return dict(zip(GENERIC, convert(film, wanted, folder / "out"), strict=True))


@pytest.mark.parametrize("name", GENERIC)
def test_our_proof_has_no_wrong_line(made, name):
    assert [line for line in made[name].proof.lines if not line.right] == []


@pytest.mark.parametrize("name", GENERIC)
def test_ffprobe_sees_what_the_sheet_asks(made, name):
    sheet, facts = find_sheet(name), ffprobe(made[name].file)
    video = next(s for s in facts["streams"] if s["codec_type"] == "video")
    audio = next(s for s in facts["streams"] if s["codec_type"] == "audio")
    assert (video["width"], video["height"]) == sheet.canvas
    assert video["nb_read_frames"] == str(FRAMES)
    assert (video["codec_name"], video["pix_fmt"]) == (sheet.video.family.found,
                                                       sheet.video.pixel_format)
    assert video["r_frame_rate"] == "25/1"
    if sheet.video.codec == "h264":  # ffprobe tells it of no other
        assert video["field_order"] == "progressive"
    assert [video[k] for k in ("color_space", "color_transfer", "color_primaries")] == ["bt709"] * 3
    assert (audio["codec_name"], int(audio["sample_rate"])) == (sheet.sound.family.found, 48000)
    if sheet.video.largest_kbps:
        assert int(video["bit_rate"]) <= sheet.video.largest_kbps * 1000


@pytest.mark.parametrize("name", GENERIC)
def test_mediainfo_sees_the_same(made, name):
    sheet = find_sheet(name)
    told = json.loads(subprocess.run(["mediainfo", "--Output=JSON", made[name].file], check=True,
                                     capture_output=True, text=True).stdout)
    tracks = {track["@type"]: track for track in told["media"]["track"]}
    video, audio = tracks["Video"], tracks["Audio"]
    formats = {"h264": "AVC", "prores": "ProRes", "aac": "AAC", "pcm": "PCM"}
    assert video["Format"] == formats[sheet.video.codec]
    assert audio["Format"] == formats[sheet.sound.codec]
    assert (int(video["Width"]), int(video["Height"])) == sheet.canvas
    assert video["FrameRate_Mode"] == "CFR" and float(video["FrameRate"]) == 25
    assert float(video["PixelAspectRatio"]) == 1 and int(video["FrameCount"]) == FRAMES
    assert video["colour_primaries"] == "BT.709" and audio["Channels"] == str(sheet.sound.channels)
    if sheet.file.container == "mp4":
        assert tracks["General"]["IsStreamable"] == "Yes"  # the index stands in front
    if sheet.video.codec == "h264":
        assert video["Format_Profile"] == "High" and video["Format_Level"].startswith(
            str(next(line.found for line in made[name].proof.lines if line.what == "level"))[0])


def grained(number, y):
    """Noise over everything: content that needs more bits than it gets."""
    return _grain(number % 7, y.shape)


@cache
def _grain(seed, shape):
    grain = np.random.default_rng(seed).normal(0, 18, shape)
    return np.clip(120 + grain, 16, 235).astype(np.uint8)


@pytest.fixture(scope="module")
def complex_film(tmp_path_factory):
    return write_film(tmp_path_factory.mktemp("complex") / "grain.mp4", size=(320, 180), frames=110,
                      picture=grained)


def hard(passes):
    sheet = with_value(find_sheet("square-feed"), "canvas", (180, 180))
    video = msgspec.structs.replace(sheet.video, bitrate_kbps=600, largest_kbps=750,
                                    buffer_kb=750, passes=passes)
    return msgspec.structs.replace(sheet, video=video)


@pytest.fixture(scope="module")
def hard_files(complex_film, tmp_path_factory):
    """Folders with a file made in one pass and one made in two, and their proofs."""
    folders = {passes: tmp_path_factory.mktemp(f"passes {passes}") for passes in (1, 2)}
    return {passes: (folder, convert(complex_film, [Recipe(hard(passes))], folder)[0])
            for passes, folder in folders.items()}


@pytest.mark.parametrize("passes", [1, 2])
def test_complex_pictures_get_the_target_within_5_percent_and_never_more_than_the_limit(
        hard_files, passes):
    folder, made = hard_files[passes]
    seen = gather(folder / made.file)
    assert made.proof.right and seen.video_kbps == pytest.approx(600, rel=0.05)
    assert seen.busiest_second_kb <= 750 + 750
    assert [path.name for path in folder.iterdir()] == ["grain square-feed.mp4"]  # no notes left


def test_sizes_are_estimated_within_10_percent(complex_film, hard_files):
    expected = estimate(analyse(complex_film), Recipe(hard(1)))
    folder, made = hard_files[1]
    assert expected.size_mb == pytest.approx(gather(folder / made.file).size_mb, rel=0.1)
    assert expected.seconds > 0


def uneven(number, y):
    """Shots of 25 frames, flat ones and ones that are full of detail that moves."""
    shot = number // 25
    if shot % 2 == 0:
        return np.full_like(y, 60 + 20 * shot)
    waves = np.sin(np.arange(y.shape[1]) * (0.2 + 0.1 * shot) + number / 3)
    return (128 + 60 * waves * np.cos(np.arange(y.shape[0]) * 0.5)[:, None]).astype(np.uint8)


def test_sizes_of_a_plain_film_are_estimated_within_10_percent(tmp_path):
    """It stays under its target, each shot differently."""
    film = write_film(tmp_path / "film.mp4", size=(320, 180), frames=100, picture=uneven)
    wanted = Recipe(with_value(find_sheet("square-feed"), "canvas", (180, 180)))
    expected = estimate(analyse(film), wanted)
    (made,) = convert(film, [wanted], tmp_path / "out")
    seen = gather(tmp_path / "out" / made.file)
    assert seen.video_kbps < 0.8 * wanted.sheet.video.bitrate_kbps
    assert expected.size_mb == pytest.approx(seen.size_mb, rel=0.1)


def test_constant_quality_is_told_to_the_encoder(complex_film, tmp_path):
    """A lower number is a better picture and a larger file (x264's scale)."""
    sizes = []
    for quality in (20.0, 34.0):
        sheet = hard(1)
        video = msgspec.structs.replace(sheet.video, quality=quality, largest_kbps=20000,
                                        buffer_kb=20000)
        (made,) = convert(complex_film, [Recipe(
            msgspec.structs.replace(sheet, video=video), ranges=(FrameRange(0, 75),))], tmp_path)
        assert made.proof.right
        sizes.append(gather(tmp_path / made.file).video_kbps)
    assert sizes[0] > 2 * sizes[1]
