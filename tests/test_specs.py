"""Spec sheets, levels and estimates against TRADE's numbers."""

import json
import subprocess
from fractions import Fraction
from pathlib import Path

import msgspec
import numpy as np
import pytest

from caracal.cli.main import main
from caracal.core.base.errors import InputError
from caracal.core.base.time import FrameRange
from caracal.core.convert import Recipe, convert
from caracal.core.encoding.proof import prove
from caracal.core.specs.checks import problems
from caracal.core.specs.codecs import SOUND
from caracal.core.specs.fields import with_value
from caracal.core.specs.levels import lowest_level, macroblocks
from caracal.core.specs.settings import encoder_settings, estimated_mb
from caracal.core.specs.sheet import File, Index, Sound, Video
from caracal.core.specs.sheet_store import (
    all_sheets,
    find_sheet,
    own_folder,
    read_sheet,
    schema,
    sheet_text,
    shipped_sheets,
    write_sheet,
)
from conftest import ffprobe, write_film


def test_macroblocks_of_a_tall_picture():
    assert macroblocks(1080, 1920) == 8160


@pytest.mark.parametrize(("rate", "kbps", "level"), [
    (30, 12000, 40), (Fraction(60000, 1001), 12000, 42), (60, 12000, 42), (25, 40000, 41),
])
def test_lowest_levels(rate, kbps, level):
    """ITU-T H.264 Table A-1 (from memory): 244800 macroblocks a second fit 4.0, 489600 need 4.2."""
    assert lowest_level(1080, 1920, Fraction(rate), kbps) == level


def test_impossible_pictures_have_no_level():
    with pytest.raises(InputError):
        lowest_level(1080, 1920, Fraction(30), 2_000_000)


def test_size_sum():
    """8000 + 128 kb/s over 60 s is 60.96 MB, one part in a hundred more with the container."""
    assert estimated_mb(find_sheet("vertical-short"), 60) == pytest.approx(60.96 * 1.01)


@pytest.mark.parametrize(("name", "canvas", "most_s", "kbps"), [
    ("vertical-short", (1080, 1920), 90, 8000), ("square-feed", (1080, 1080), 60, 6000),
    ("portrait-feed", (1080, 1350), 240 * 60, 6000), ("vertical-minute", (1080, 1920), 60, 8000),
    ("vertical-story", (1080, 1920), 15, 6000), ("tall-feed", (1080, 1620), 15 * 60, 6000),
    ("wide", (1920, 1080), 86400, 8000),
])
def test_shipped_sheets_have_the_trade_s_values(name, canvas, most_s, kbps):
    sheet = find_sheet(name)
    assert (sheet.canvas, sheet.duration.most_s, sheet.video.bitrate_kbps) == (canvas, most_s, kbps)
    assert sheet.checked and sheet.source


def test_settings_close_their_gops_and_fit_the_level():
    made = encoder_settings(find_sheet("vertical-short"), Fraction(25), with_sound=True)
    assert made.gop_frames == 50 and "open-gop=0" in made.options["x264-params"]
    assert made.options["level"] == "4.0" and made.sound.rate_hz == 48000


def test_unknown_and_broken_sheets_say_why(tmp_path):
    with pytest.raises(InputError, match="There are:"):
        find_sheet("nowhere")
    bad = tmp_path / "bad.toml"
    bad.write_text("name = 'x'\ncanvas = [1080")
    with pytest.raises(InputError, match="is broken"):
        read_sheet(bad)
    with pytest.raises(InputError, match="no such file"):
        read_sheet(tmp_path / "none.toml")


def _changed(tmp_path, line, other):
    path = tmp_path / "changed.toml"
    text = sheet_text(find_sheet("square-feed"))
    assert line in text
    path.write_text(text.replace(line, other))
    return path


@pytest.mark.parametrize(("line", "other", "reason"), [
    ("bitrate_kbps = 6000", 'bitrate_kbps = "many"', r"line \d+: Expected `int"),
    ("largest_kbps = 9000", "largest_kbps = 9000\nlargest = 3", r"unknown field `largest`"),
    ("    1080,\n    1080,", "    1080,\n    1081,", "even sides"),
    ('container = "mp4"', 'container = "webm"', "cannot be stored in webm"),
    ('container = "mp4"', 'container = "avi"', "no container"),
    ('codec = "h264"', 'codec = "h263"', "no video codec"),
    ('codec = "aac"', 'codec = "pcm"', "PCM 24 bit cannot be stored in mp4"),
    ('profile = "High"', 'profile = "Low"', "has the profiles"),
    ('pixel_format = "yuv420p"', 'pixel_format = "rgb24"', "needs the pixel format"),
    ("largest_kbps = 9000", "largest_kbps = 2000000", "No H.264 level"),
    ("bitrate_kbps = 6000", "bitrate_kbps = 9001", "above the maximum"),
    ("buffer_kb = 9000", "buffer_kb = 90", "quarter of a second"),
    ("channels = 2", "channels = 6", "1 or 2 channels; 6 were given"),
    ("most_s = 60.0", "most_s = 1.0", "minimum duration"),
    ("most = 60.0", "most = 600.0", "Frame rates"),
])
def test_what_cannot_be_made_is_said_with_its_reason(tmp_path, line, other, reason):
    with pytest.raises(InputError, match=reason):
        read_sheet(_changed(tmp_path, line, other))


def test_every_shipped_sheet_can_be_made_and_written_and_read_again(tmp_path):
    for sheet in shipped_sheets().values():
        assert problems(sheet) == ()
        write_sheet(sheet, tmp_path / "one.toml")
        assert read_sheet(tmp_path / "one.toml") == sheet
    assert len(shipped_sheets()) == 13


def test_the_published_schema_is_the_one_in_force():
    published = Path(__file__).parent.parent / "docs" / "spec-sheet.schema.json"
    assert json.loads(published.read_text()) == json.loads(json.dumps(schema()))


def test_own_sheets_are_on_the_shelf_and_broken_ones_stop_nothing(tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path))
    mine = msgspec.structs.replace(find_sheet("square-feed"), name="mine", canvas=(700, 700))
    write_sheet(mine, tmp_path / "sheets" / "mine.toml")
    (tmp_path / "sheets" / "odd.toml").write_text("canvas = 7\n")
    sheets, wrong = all_sheets()
    assert sheets["mine"].canvas == (700, 700) and find_sheet("mine") == mine
    assert len(wrong) == 1 and "odd.toml" in wrong[0] and "line 1" in wrong[0]


def test_more_frames_a_second_may_want_more_bits():
    """8 Mb/s, 12 above 30 fps (common practice)."""
    video = find_sheet("wide").video
    assert [video.target_kbps(Fraction(rate)) for rate in (25, 30, 60)] == [8000, 8000, 12000]
    assert encoder_settings(find_sheet("wide"), Fraction(60), True).bitrate_kbps == 12000


FAMILIES = [
    ("h265", "Main", "yuv420p", "mp4", "aac"), ("h265", "Main 10", "yuv420p10le", "mov", "aac"),
    ("vp9", "Profile 0", "yuv420p", "webm", "opus"), ("av1", "Main", "yuv420p", "mp4", "aac"),
    ("av1", "Main", "yuv420p10le", "mkv", "opus"), ("h264", "Main", "yuv420p", "mkv", "aac"),
    ("prores", "HQ", "yuv422p10le", "mov", "pcm"), ("dnxhr", "DNXHR HQ", "yuv422p", "mov", "pcm"),
    ("dnxhr", "DNXHR HQX", "yuv422p10le", "mov", "aac"),
]


def sheet_of(codec, profile, pixels, container, sound):
    intra = codec in ("prores", "dnxhr")
    video = Video(*((None,) * 3 if intra else (1500, 4000, 4000)), codec=codec, profile=profile,
                  pixel_format=pixels)
    front = Index.FRONT if container in ("mp4", "mov") else Index.ANY
    return msgspec.structs.replace(
        with_value(find_sheet("square-feed"), "duration.least_s", 0.5), canvas=(256, 256),
        video=video, sound=Sound(codec=sound), file=File(container=container, index=front))


@pytest.mark.parametrize(("codec", "profile", "pixels", "container", "sound"), FAMILIES)
def test_every_family_is_made_proved_and_seen_so_by_ffprobe(
        tmp_path, codec, profile, pixels, container, sound):
    """The real encoders on a moving picture; Debian's ffprobe is the outside judge."""
    sheet = sheet_of(codec, profile, pixels, container, sound)
    assert problems(sheet) == ()
    film = write_film(tmp_path / "film.mp4")
    (made,) = convert(film, [Recipe(sheet)], tmp_path)
    wrong = [line for line in made.proof.lines if not line.right]
    assert not wrong, wrong
    streams = {stream["codec_type"]: stream for stream in ffprobe(made.file)["streams"]}
    seen = streams["video"]
    assert (seen["codec_name"], seen["pix_fmt"]) == (sheet.video.family.found, pixels)
    assert (seen["width"], seen["height"], int(seen["nb_read_frames"])) == (256, 256, 50)
    assert seen["color_space"] == "bt709"
    assert seen.get("color_range", "tv") == "tv"  # later ones leave out what ProRes never says
    assert streams["audio"]["codec_name"] == SOUND[sound].found
    assert streams["audio"]["sample_rate"] == "48000"


@pytest.mark.parametrize("family", [family for family in FAMILIES if family[2] == "yuv420p"])
def test_every_shot_begins_with_a_picture_that_stands_alone(tmp_path, family):
    """Where ranges join, in a film too even for an encoder to notice; ffprobe is the judge."""
    film = write_film(tmp_path / "film.mp4", size=(320, 320), frames=120,
                      picture=lambda n, y: np.full_like(y, 40 + n // 10))
    spans = (FrameRange(0, 20), FrameRange(25, 30), FrameRange(40, 100))
    sheet = with_value(sheet_of(*family), "canvas", (128, 128))
    (made,) = convert(film, [Recipe(sheet, ranges=spans)], tmp_path / "out")
    assert [line for line in made.proof.lines if not line.right] == []
    told = subprocess.run(
        ["ffprobe", "-v", "error", "-select_streams", "v", "-show_entries", "packet=pts_time,flags",
         "-of", "csv=p=0", made.file], check=True, capture_output=True, text=True).stdout
    shown = sorted((float(name.split(",")[0]), name.split(",")[1]) for name in told.split())
    keys = [i for i, (_, flags) in enumerate(shown) if "K" in flags]
    assert len(shown) == 85 and keys[:2] == [0, 20] and 25 not in keys  # 5 frames are too short


@pytest.mark.parametrize(("name", "canvas"), [
    ("client-master", (1920, 1080)), ("client-master@1080x1920", (1080, 1920)),
    ("client-master@1081x1920", None), ("client-master@", (1920, 1080)),
    ("client-master@tall", None), ("square-feed@1080x1920", None),
])
def test_a_client_master_has_the_canvas_of_the_version_it_is_made_from(name, canvas):
    if canvas is None:
        with pytest.raises(InputError, match="no spec sheet"):
            find_sheet(name)
    else:
        assert find_sheet(name).canvas == canvas


def test_a_vertical_client_master_is_made_and_seen_so_by_ffprobe(tmp_path):
    film = write_film(tmp_path / "film.mp4", frames=10)
    (made,) = convert(film, [Recipe(find_sheet("client-master@180x320"))], tmp_path)
    assert made.proof.right
    video, sound = ffprobe(made.file)["streams"]
    assert (video["codec_name"], video["width"], video["height"]) == ("prores", 180, 320)
    assert (sound["codec_name"], sound["bits_per_raw_sample"]) == ("pcm_s24le", "24")


def test_a_file_of_another_family_is_not_proved(tmp_path):
    film = write_film(tmp_path / "film.mp4", size=(320, 320), frames=80)
    sheet = msgspec.structs.replace(
        find_sheet("square-feed"), canvas=(320, 320),
        video=Video(1500, 4000, 4000, codec="h265", profile="Main"), file=File(container="mkv",
                                                                            index=Index.ANY))
    wrong = {line.what for line in prove(film, sheet).lines if not line.right}
    assert {"codec", "profile", "container"} <= wrong


def test_specs_on_the_command_line(tmp_path, capsys):
    assert main(["specs", "list"]) == 0
    assert "vertical-story" in capsys.readouterr().out
    assert main(["specs", "export", "plaza", str(tmp_path / "mine.toml")]) == 0
    assert main(["specs", "check", str(tmp_path / "mine.toml"), "--json"]) == 0
    capsys.readouterr()
    assert main(["specs", "show", str(tmp_path / "mine.toml"), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["title"] == "Plaza square feed"
    (tmp_path / "mine.toml").write_text("name = 3\n")
    assert main(["specs", "check", str(tmp_path / "mine.toml")]) == 2
    assert "line 1" in capsys.readouterr().err
    assert main(["specs", "show", "nowhere"]) == 2


def test_every_sheet_is_named_like_its_file():
    assert set(shipped_sheets()) >= {"vertical-short", "square-feed", "portrait-feed"}


def test_duration_and_rate_are_refused_before_any_work():
    sheet = find_sheet("square-feed")
    with pytest.raises(InputError, match="at most 60 s"):
        sheet.refuse_duration(60.1, "Film")
    with pytest.raises(InputError, match="at least"):
        sheet.refuse_duration(1.0, "Film")
    with pytest.raises(InputError, match="frames a second"):
        sheet.refuse_rate(Fraction(15))
    sheet.refuse_rate(Fraction(24000, 1001))


@pytest.mark.parametrize(("field", "value"), [
    ("sound.loudness_lufs", 14.0), ("sound.loudness_lufs", float("nan")), ("file.names", "{movie}"),
    ("file.names", "a/b"), ("checked", "yesterday"), ("duration.most_s", float("inf")),
    ("rates.most", float("nan")), ("video.passes", 3), ("sound.true_peak_dbtp", 3.0),
    ("sound.bitrate_kbps", -1), ("file.most_mb", 0.0), ("name", "../x"), ("title", " "),
    ("video.gop_s", 1e308), ("video.quality", 99.0)])
def test_every_field_of_a_sheet_is_checked(field, value):
    sheet = find_sheet("square-feed")
    assert not problems(sheet)
    assert problems(with_value(sheet, field, value))


def test_the_schema_says_what_every_field_means_with_an_example():
    for kind in schema()["$defs"].values():
        for name, field in kind.get("properties", {}).items():
            assert field["description"] and "examples" in field, name


def test_two_own_sheets_of_one_name_are_told(tmp_path, monkeypatch):
    monkeypatch.setenv("CARACAL_CONFIG", str(tmp_path))
    for number in (1, 2):
        mine = msgspec.structs.replace(find_sheet("square-feed"), name="mine",
                                       title=f"Mine {number}")
        write_sheet(mine, own_folder() / f"{number}.toml")
    sheets, wrong = all_sheets()
    assert sheets["mine"].title == "Mine 1" and len(wrong) == 1
    assert "1.toml" in wrong[0] and "2.toml" in wrong[0]


def test_an_export_writes_over_nothing_unless_told_to(tmp_path, capsys):
    film = tmp_path / "film.mp4"
    film.write_text("mine")
    assert main(["specs", "export", "wide", str(film)]) == 2 and film.read_text() == "mine"
    assert "there already" in capsys.readouterr().err
    (tmp_path / "link.toml").symlink_to(film)
    assert main(["specs", "export", "wide", str(tmp_path / "link.toml"), "--force"]) == 2
    assert film.read_text() == "mine"
    assert main(["specs", "export", "wide", str(film), "--force"]) == 0
    assert "canvas" in film.read_text()
